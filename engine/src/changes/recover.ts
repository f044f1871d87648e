import { dirname } from 'node:path';
import type { ChangeRecord, StepRecord } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { isGone } from './owner.js';
import { syncFolders, takeBack } from './step.js';

export interface Recovery {
  readonly change: ChangeRecord;
  readonly outcome: 'finished' | 'taken-back';
  /** Files that neither were as before nor as planned: someone else changed them, and they stay. */
  readonly left: readonly string[];
}

/**
 * At start-up: finishes or takes back changes whose owner is provably gone. One that was still preparing has touched no
 * file of the user's, so only its temporary files go; one that was applying is finished, since all that it needs is on
 * disk; one that was being taken back is taken back to the end. Changes of living processes are not touched.
 */
export async function recoverChanges(journal: Journal, disk = new ChangeDisk()): Promise<Recovery[]> {
  const recovered: Recovery[] = [];
  for (const change of await journal.unfinished()) {
    if (!isGone(change.owner)) continue;
    if (change.state === 'applying') recovered.push(await finish(change, journal, disk));
    else recovered.push(await abandon(change, journal, disk));
  }
  return recovered;
}

async function abandon(change: ChangeRecord, journal: Journal, disk: ChangeDisk): Promise<Recovery> {
  const wasBusy = change.state === 'taking-back';
  await takeBack(change.steps, wasBusy ? change.steps : [], disk);
  if (wasBusy) await syncFolders(change.steps, disk);
  const note = wasBusy ? 'It failed, and was taken back at the next start.' : 'The program ended before anything was changed.';
  await journal.setState(change.id, 'taken-back', note);
  return { change, outcome: 'taken-back', left: [] };
}

async function finish(change: ChangeRecord, journal: Journal, disk: ChangeDisk): Promise<Recovery> {
  const left: string[] = [];
  const open = change.steps.slice(await doneSteps(change.steps, disk));
  for (const step of open) if (!(await finishStep(step, disk))) left.push(step.path);
  await syncFolders(change.steps, disk);
  const note = left.length
    ? `Finished at the next start; changed by someone else and left: ${left.join(', ')}`
    : 'The program ended midway; finished at the next start.';
  await journal.setState(change.id, 'done', note);
  return { change, outcome: 'finished', left };
}

/** Steps are done in their order: all up to the last move whose file stands at its target are. */
async function doneSteps(steps: readonly StepRecord[], disk: ChangeDisk): Promise<number> {
  for (let i = steps.length - 1; i >= 0; i--) {
    const step = steps[i]!;
    if (step.kind !== 'move' || (await disk.identity(step.path)) !== step.beforeHash) continue;
    if ((await disk.identity(step.source!)) !== step.beforeHash) return i + 1; // else: one file under both names, not renamed yet
  }
  return 0;
}

async function finishStep(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  switch (step.kind) {
    case 'folder':
      await disk.makeOneFolder(step.path);
      return true;
    case 'drop-folder':
      await disk.dropFolder(step.path);
      return true;
    case 'mode':
      if ((await disk.modeOf(step.path)) === null) return false;
      await disk.setMode(step.path, parseInt(step.afterHash!, 8));
      return true;
    case 'move':
      return finishMove(step, disk);
    case 'trash':
      return finishTrash(step, disk);
    case 'install':
    case 'copy':
      return finishInstall(step, disk);
    case 'write':
      return finishWrite(step, disk);
  }
}

async function finishMove(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  const there = await disk.identity(step.path);
  if ((await disk.identity(step.source!)) !== step.beforeHash) return there === step.beforeHash;
  if (there !== null && there !== step.beforeHash) return false;
  await disk.rename(step.source!, step.path);
  return true;
}

async function finishTrash(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  if ((await disk.identity(step.temp)) !== null) return true;
  if (step.beforeHash !== null && (await disk.hash(step.path)) !== step.beforeHash) return false;
  if ((await disk.identity(step.path)) === null) return false;
  await disk.makeFolder(dirname(step.temp));
  await disk.rename(step.path, step.temp);
  return true;
}

async function finishInstall(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  const isThere = (await disk.identity(step.path)) !== null;
  if ((await disk.identity(step.temp)) === null) return isThere;
  if (isThere) return false;
  await disk.rename(step.temp, step.path);
  return true;
}

async function finishWrite(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  const staged = (await disk.identity(step.temp)) !== null;
  const now = await disk.read(step.path);
  const hash = now && sha256(now);
  if (hash === step.afterHash) {
    if (staged) await disk.remove(step.temp);
    return true;
  }
  if (hash !== step.beforeHash || !staged || (await disk.hash(step.temp)) !== step.afterHash) {
    if (staged) await disk.remove(step.temp);
    return false;
  }
  await disk.rename(step.temp, step.path);
  return true;
}
