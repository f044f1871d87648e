import { must, patchProject, placeNamed, ProblemError, type ProjectMembers } from '@rootmap/core';
import type { EditPreview, EditRequest } from '@rootmap/core/contract';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PlannedChange, PlannedStep, PlannedWrite } from '../changes/change.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import type { StagedContainer } from '../geodatabase/tables/stage-tables.js';
import { emptyPreview, foldersOf } from './edit-preview.js';

export interface EditPlan {
  readonly change: PlannedChange | null;
  readonly preview: EditPreview;
  /** What it moves, for projects that are away now. */
  readonly moved?: MovedPairs;
  /** How the content of its installs is made. */
  readonly containers?: readonly StagedContainer[];
}

export interface EditOptions {
  /** Roots of the other known projects. */
  readonly roots: readonly string[];
  readonly who: string;
  /** Where a path that a request names is, real and absolute. */
  readonly resolve: (at: { readonly place: string; readonly path: string }, mayBeNew: boolean) => string;
  /** What moved while this project was away, the oldest first. */
  readonly missed: readonly MovedPairs[];
  /** Leaves out the search for files that only mention what moves, which takes long. */
  readonly isQuick: boolean;
}

export type Edit<K extends EditRequest['kind']> = Extract<EditRequest, { kind: K }>;

export const setMembers = (scope: RootedScope, members: ProjectMembers, title: string, options: EditOptions): EditPlan =>
  planned(scope, title, 'project', projectWrite(scope, members), options);

export function planned(
  scope: RootedScope,
  title: string,
  kind: PlannedChange['kind'],
  steps: readonly PlannedStep[],
  { who }: Pick<EditOptions, 'who'>,
): EditPlan {
  checkWritable(scope);
  const change: PlannedChange = { title, kind, root: scope.root, who, steps };
  const files = steps.filter((s) => s.kind === 'mode').length;
  return {
    change: steps.length ? change : null,
    preview: { ...emptyPreview(title), files, folders: foldersOf(change, scope), changes: steps.length > 0 },
  };
}

export function checkWritable(scope: RootedScope): void {
  const place = placeNamed(scope.places, locationOf(scope.root, scope.places).place);
  if (place?.readOnly) throw new ProblemError({ code: 'read-only', path: scope.root });
}

/** The project file with other members; all else in it stays. Throws where the folder is no project. */
export function projectWrite(scope: RootedScope, members: ProjectMembers): PlannedWrite[] {
  if (!scope.projectFile)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${scope.root} is a folder without a project file. Make it a project first.`,
    });
  const before = readFileSync(scope.projectFile, null, MOST_NOTE_BYTES);
  const text = must(patchProject(scope.projectFile, before.toString('utf8'), members));
  const after = Buffer.from(text, 'utf8');
  return after.equals(before) ? [] : [{ kind: 'write', path: scope.projectFile, before, after }];
}
