import { ProblemError } from '@rootmap/core';
import type { ChangeRecord, PlannedStep, StepRecord } from './change.js';
import { ChangeDisk } from './disk.js';
import type { RunOptions } from './run-change.js';
import { runChange } from './run-change.js';
import { pathAfter } from './step.js';

export interface Undone {
  readonly change: ChangeRecord | null;
  /** Files that were changed since and stay as they are. */
  readonly kept: readonly string[];
}

/** What one step's undoing asks for; null: it cannot be undone, the file stays as it is. */
type Back = PlannedStep | null;

/**
 * Takes a finished change back, as a change of its own. Each file is checked against the hash that the change left: edited
 * ones stay and are named, the rest gets its old bytes again. What was moved moves back, also where it was edited since;
 * what went to the trash comes out of it.
 */
export async function undoChange(id: string, who: string, options: RunOptions): Promise<Undone> {
  const disk = options.disk ?? new ChangeDisk();
  const change = await options.journal.get(id);
  if (!change) throw new ProblemError({ code: 'not-found', what: 'change', id });
  if (change.state !== 'done') {
    const why = change.state === 'undone' ? 'the change was undone before' : `the change is ${change.state}`;
    throw new ProblemError({ code: 'cannot-undo', path: change.title, why });
  }
  const { steps, kept } = await planUndo(change, disk);
  if (steps.length === 0) return { change: null, kept };
  const title = `Undo: ${change.title}`;
  const undone = await runChange({ title, kind: 'undo', root: change.root, who, steps, undoes: id }, options);
  await options.journal.setState(id, 'undone', kept.length ? `Edited since and left: ${kept.join(', ')}` : undefined);
  return { change: undone, kept };
}

async function planUndo(change: ChangeRecord, disk: ChangeDisk): Promise<{ steps: PlannedStep[]; kept: string[] }> {
  const writes: PlannedStep[] = [];
  const others: PlannedStep[] = [];
  const kept: string[] = [];
  for (const [i, step] of [...change.steps.entries()].reverse()) {
    const now = pathAfter(step.path, change.steps.slice(i + 1));
    const givesWay = others.some((o) => o.kind === 'trash' && o.path === step.path); // what took its place goes before
    const back = await backOf(step, now, disk, givesWay);
    if (back === null) kept.push(now);
    else if (back.kind === 'write') writes.push(back);
    else others.push(back);
  }
  return { steps: [...writes, ...others], kept: [...new Set(kept)] }; // writes name files as they are before the moves
}

/**
 * @param now where the file is now, after the moves that followed the step. Steps that run in their turn name it as it will
 * be then, when those moves are undone; writes, which run first, as it is now.
 */
async function backOf(step: StepRecord, now: string, disk: ChangeDisk, givesWay: boolean): Promise<Back> {
  switch (step.kind) {
    case 'install':
      return (await disk.isAsStaged(now, step.stamp)) ? { kind: 'trash', path: step.path, hash: null } : null;
    case 'copy':
      return (await disk.hashTree(now)) === step.treeHash ? { kind: 'trash', path: step.path, hash: null } : null;
    case 'trash': {
      const isFree = givesWay || (await disk.identity(step.path)) === null;
      return isFree && (await disk.identity(step.temp)) !== null ? { kind: 'move', from: step.temp, path: step.path } : null;
    }
    case 'folder':
      return { kind: 'drop-folder', path: step.path };
    case 'drop-folder':
      return { kind: 'folder', path: step.path };
    case 'move':
      return (await disk.identity(now)) === null ? null : { kind: 'move', from: step.path, path: step.source };
    case 'mode':
      return step.before !== null && (await disk.modeOf(now)) === step.after ? { kind: 'mode', path: step.path, mode: step.before } : null;
    case 'write':
      if ((await disk.hash(now)) !== step.afterHash) return null;
      if (step.before === null) return { kind: 'trash', path: step.path, hash: step.afterHash };
      return { kind: 'write', path: now, before: await disk.read(now), after: step.before };
  }
}
