import { readdir } from 'node:fs/promises';
import { dirname, isInside } from '../disk/native-path.js';
import type { ChangeRecord, PlannedChange, SeenRoot, StepRecord } from './change.js';
import type { ChangeDisk } from './disk.js';

/** Without the device, whose number may be another after the next plugging in. */
const inodeOf = (identity: string | null): string | null => identity?.split(':')[1] ?? null;

/**
 * The first folder of a change that is not there now, so that nothing can be said of its files: it is gone or cannot be
 * read, or what stands there is not the folder that the change began in and holds nothing that the change knows of (an empty
 * mount point, another disk). Null: all are there.
 */
export async function awayRoot(change: Pick<ChangeRecord, 'roots' | 'steps'>, disk: ChangeDisk): Promise<string | null> {
  for (const root of change.roots) if (await isAway(root, change.steps, disk)) return root.path;
  return null;
}

/** The folders that a change stands in. One that the change itself takes away or makes counts by the folder that it is in. */
export async function rootsOf(plan: Pick<PlannedChange, 'root' | 'otherRoots' | 'steps'>, disk: ChangeDisk): Promise<SeenRoot[]> {
  const goers = plan.steps.flatMap((s) => (s.kind === 'move' ? [s.from] : s.kind === 'trash' || s.kind === 'drop-folder' ? [s.path] : []));
  const seen = new Map<string, SeenRoot>();
  for (const root of [plan.root, ...(plan.otherRoots ?? [])]) {
    let path = root;
    for (let goer; (goer = goers.find((g) => isInside(g, path))) !== undefined;) path = dirname(goer);
    while ((await disk.identity(path)) === null && path !== dirname(path)) path = dirname(path);
    seen.set(path, { path, identity: await disk.identity(path) });
  }
  return [...seen.values()];
}

const pathsOf = (step: StepRecord): string[] => [
  step.path,
  ...('temp' in step ? [step.temp] : []),
  ...('source' in step ? [step.source] : []),
];

async function isAway(root: SeenRoot, steps: readonly StepRecord[], disk: ChangeDisk): Promise<boolean> {
  try {
    await readdir(root.path);
    if (inodeOf(await disk.identity(root.path)) === inodeOf(root.identity)) return false;
    for (const step of steps)
      for (const path of pathsOf(step))
        if (path !== root.path && isInside(root.path, path) && (await disk.identity(path)) !== null) return false;
    return true;
  } catch {
    return true; // whatever the system says of it: it cannot be read now
  }
}
