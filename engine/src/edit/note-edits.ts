import { PROJECT_NOTES, withProjectNote } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { readProjectNotes } from '../project/read-project-notes.js';
import type { RootedScope } from '../project/scope.js';
import { planned, type Edit, type EditOptions, type EditPlan } from './planned.js';

/** One more note at the end of those of the project. */
export function planNote(scope: RootedScope, { text, about }: Edit<'note'>, options: EditOptions): EditPlan {
  const path = join(scope.root, PROJECT_NOTES);
  const before = readProjectNotes(scope.root);
  const note = { at: clockNow(), who: options.who, text, about };
  const after = withProjectNote(before?.toString('utf8') ?? null, note, scope.project?.title ?? basename(scope.root));
  return planned(
    scope,
    'Write a note on the project',
    'project',
    [{ kind: 'write', path, before, after: Buffer.from(after, 'utf8') }],
    options,
  );
}

/** `YYYY-MM-DD HH:MM` as the clock of this machine has it. */
function clockNow(): string {
  const now = new Date();
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())} ${two(now.getHours())}:${two(now.getMinutes())}`;
}
