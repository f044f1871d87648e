import { ProblemError } from '@rootmap/core';
import type { ChangeRecord, PlannedStep } from './change.js';
import { ChangeDisk } from './disk.js';
import type { RunOptions } from './run-change.js';
import { runChange } from './run-change.js';

export interface Undone {
  readonly change: ChangeRecord | null;
  /** Files that were changed since and stay as they are. */
  readonly kept: readonly string[];
}

/**
 * Takes a finished change back, as a change of its own. Each file is checked against the hash that the change left: edited
 * ones stay and are named, the rest gets its old bytes again.
 */
export async function undoChange(id: string, who: string, options: RunOptions): Promise<Undone> {
  const disk = options.disk ?? new ChangeDisk();
  const change = await options.journal.get(id);
  if (!change) throw new ProblemError({ code: 'not-found', what: 'change', id });
  if (change.state !== 'done') {
    const why = change.state === 'undone' ? 'the change was undone before' : `the change is ${change.state}`;
    throw new ProblemError({ code: 'cannot-undo', path: change.title, why });
  }
  const steps: PlannedStep[] = [];
  const kept: string[] = [];
  for (const step of [...change.steps].reverse()) {
    if (step.kind === 'install') {
      if ((await disk.modeOf(step.path)) === null) kept.push(step.path);
      else steps.push({ kind: 'trash', path: step.path, hash: null });
    } else if (step.kind === 'trash') kept.push(step.path);
    else if ((await disk.hash(step.path)) !== step.afterHash) kept.push(step.path);
    else if (step.before === null) steps.push({ kind: 'trash', path: step.path, hash: step.afterHash });
    else steps.push({ kind: 'write', path: step.path, before: await disk.read(step.path), after: step.before });
  }
  if (steps.length === 0) return { change: null, kept };
  const title = `Undo: ${change.title}`;
  const undone = await runChange({ title, kind: 'undo', root: change.root, who, steps, undoes: id }, options);
  await options.journal.setState(id, 'undone', kept.length ? `Edited since and left: ${kept.join(', ')}` : undefined);
  return { change: undone, kept };
}
