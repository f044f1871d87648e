import { ProblemError } from '@rootmap/core';
import { basename, dirname } from '../disk/native-path.js';
import type { ModeStep, MoveStep, StepRecord, WriteStep } from './change.js';
import { sha256, type ChangeDisk } from './disk.js';
import { TRASH } from './staged-name.js';

/** Thrown by tests in place of a crash: nothing is tidied up behind it. */
export class StopHere extends Error {}

/** Kinds whose result is staged beside the target, and is litter if the change comes to nothing. */
const isStaged = (step: StepRecord) => step.kind === 'write' || step.kind === 'install' || step.kind === 'copy';

/** Just before each rename the bytes must still be those planned from. */
export async function unchanged(step: WriteStep, disk: ChangeDisk): Promise<void> {
  const now = await disk.read(step.path);
  if (step.beforeHash === null ? now !== null : now === null || sha256(now) !== step.beforeHash)
    throw new ProblemError(step.beforeHash === null ? { code: 'exists', path: step.path } : { code: 'changed-meanwhile', path: step.path });
}

/** Carries one prepared step out. */
export async function perform(step: StepRecord, disk: ChangeDisk): Promise<void> {
  switch (step.kind) {
    case 'write':
      await unchanged(step, disk);
      return disk.rename(step.temp, step.path);
    case 'install':
    case 'copy':
      await disk.giveWay(step.path);
      return disk.rename(step.temp, step.path);
    case 'trash':
      if (step.hash !== null && (await disk.hash(step.path)) !== step.hash)
        throw new ProblemError({ code: 'changed-meanwhile', path: step.path });
      await makeTrashFolders(step.temp, disk);
      return disk.rename(step.path, step.temp);
    case 'folder':
      return disk.makeOneFolder(step.path);
    case 'drop-folder':
      await disk.dropFolder(step.path);
      return;
    case 'move':
      return move(step, disk);
    case 'mode':
      return disk.setMode(step.path, step.after);
  }
}

async function move(step: MoveStep, disk: ChangeDisk): Promise<void> {
  if ((await disk.identity(step.source)) !== step.identity) throw new ProblemError({ code: 'changed-meanwhile', path: step.source });
  const there = await disk.identity(step.path);
  // On a disk that ignores case, a name in other letters finds the file itself.
  if (there !== null && there !== step.identity) throw new ProblemError({ code: 'exists', path: step.path });
  await disk.rename(step.source, step.path);
}

/** Puts one step back; leaves what someone else changed meanwhile, and what was not done. */
async function restore(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  switch (step.kind) {
    case 'trash':
      if ((await disk.identity(step.path)) !== null || (await disk.identity(step.temp)) === null) return false;
      await disk.rename(step.temp, step.path);
      return true;
    case 'install':
      if (!(await disk.isAsStaged(step.path, step.stamp))) return false;
      await disk.remove(step.path);
      return true;
    case 'copy':
      if (step.treeHash === null || (await disk.hashTree(step.path)) !== step.treeHash) return false;
      await disk.remove(step.path);
      return true;
    case 'folder':
      return disk.dropFolder(step.path);
    case 'drop-folder':
      await disk.makeOneFolder(step.path);
      return true;
    case 'move':
      return restoreMove(step, disk);
    case 'mode':
      return restoreMode(step, disk);
    case 'write':
      return restoreWrite(step, disk);
  }
}

async function restoreMove(step: MoveStep, disk: ChangeDisk): Promise<boolean> {
  if ((await disk.identity(step.path)) !== step.identity) return false;
  const there = await disk.identity(step.source);
  if (there !== null && there !== step.identity) return false;
  await disk.rename(step.path, step.source);
  return true;
}

async function restoreMode(step: ModeStep, disk: ChangeDisk): Promise<boolean> {
  if (step.before === null || (await disk.modeOf(step.path)) !== step.after) return false;
  await disk.setMode(step.path, step.before);
  return true;
}

async function restoreWrite(step: WriteStep, disk: ChangeDisk): Promise<boolean> {
  const now = await disk.read(step.path);
  if (now === null || sha256(now) !== step.afterHash) return false;
  if (step.before === null) {
    await disk.remove(step.path);
    return true;
  }
  const like = await disk.permissionsOf(step.path);
  await disk.remove(step.temp);
  await disk.stage(step.temp, step.before, like);
  await disk.rename(step.temp, step.path);
  return true;
}

/**
 * After a failure: every step that was done is put back, newest first; what was staged goes. One that the disk refuses does not
 * keep the others from it; the first refusal is thrown when all had their turn, and the whole can be asked for again.
 */
export async function takeBack(steps: readonly StepRecord[], performed: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  const refusals: unknown[] = [];
  const attempt = async (work: () => Promise<unknown>): Promise<void> => {
    try {
      await work();
    } catch (error) {
      if (error instanceof StopHere) throw error;
      refusals.push(error);
    }
  };
  for (const step of [...performed].reverse()) await attempt(() => restore(step, disk));
  for (const step of steps)
    if (isStaged(step)) await attempt(() => (step.kind === 'install' ? disk.removeStaged(step.temp) : disk.remove(step.temp)));
  if (refusals.length > 0) throw refusals[0];
}

/** Folders whose entries the steps change: brought to the disk before a change counts as done. */
export async function syncFolders(steps: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  const folders = new Set(
    steps
      .filter((s) => s.kind !== 'mode')
      .flatMap((s) => [
        dirname(s.path),
        ...('source' in s ? [dirname(s.source)] : []),
        ...(s.kind === 'trash' ? trashFolders(s.temp) : []),
      ]),
  );
  for (const folder of folders) if ((await disk.identity(folder)) !== null) await disk.syncFolder(folder); // one that moved away is not there
}

/** The folder in the trash, and those above it that may have been made for it. */
function trashFolders(temp: string): string[] {
  const folders = [dirname(temp)];
  while (basename(folders.at(-1)!) !== TRASH[0] && folders.length < 5) folders.push(dirname(folders.at(-1)!));
  return [...folders, dirname(folders.at(-1)!)];
}

/** Made one by one below the root, which must be there: where its place has gone, nothing is made in its stead. */
export async function makeTrashFolders(temp: string, disk: ChangeDisk): Promise<void> {
  for (const folder of trashFolders(temp).slice(0, -1).reverse()) await disk.makeOneFolder(folder);
}
