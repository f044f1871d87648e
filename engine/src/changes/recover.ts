import { explain, ProblemError } from '@rootmap/core';
import { diskProblem } from '../disk/disk-problem.js';
import { awayRoot } from './away.js';
import type { ChangeRecord, CopyStep, InstallStep, MoveStep, StepRecord, TrashStep, WriteStep } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { isLeft, release, thisProcess } from './owner.js';
import { makeTrashFolders, StopHere, syncFolders, takeBack } from './step.js';

export interface Recovery {
  readonly change: ChangeRecord;
  /** `waiting`: its folder is away, or cannot be written now; it stays as it is, and its folder cannot be changed until then. */
  readonly outcome: 'finished' | 'taken-back' | 'waiting';
  /** Files that are neither as before nor as planned; they stay. */
  readonly left: readonly string[];
  /** Why it waits. */
  readonly why: string | null;
}

/**
 * At start-up, and again while changes wait: finishes or takes back changes that nobody works on any more. One that was still
 * preparing has touched no file of the user's, so only its temporary files go; one that was applying is finished, since all
 * that it needs is on disk; one that was being taken back is taken back to the end. Changes of living processes are not
 * touched. A change whose folder is away, or whose disk refuses, waits, and keeps none of the others waiting.
 */
export async function recoverChanges(journal: Journal, disk = new ChangeDisk()): Promise<Recovery[]> {
  const recovered: Recovery[] = [];
  for (const change of await journal.unfinished()) {
    if (!isLeft(change)) continue;
    const mine = { ...change, owner: thisProcess(change.owner.program) };
    try {
      if (!(await journal.claim(change.id, change.owner, mine.owner))) continue; // another process was first
      recovered.push(await recover(mine, journal, disk));
    } catch (error) {
      if (error instanceof StopHere) throw error;
      const why = whyOf(error, change.root);
      if (why !== change.note) await journal.setNote(change.id, why).catch(() => undefined); // a journal that is full: told on the page alone
      recovered.push({ change: { ...mine, note: why }, outcome: 'waiting', left: [], why });
    } finally {
      release(change.id); // where it waits, whoever comes next may take it up
    }
  }
  return recovered;
}

function whyOf(error: unknown, path: string): string {
  const problem = error instanceof ProblemError ? error.problem : diskProblem(error, (error as { path?: string }).path ?? path);
  return problem ? explain(problem) : String(error);
}

async function recover(change: ChangeRecord, journal: Journal, disk: ChangeDisk): Promise<Recovery> {
  const away = await awayRoot(change, disk);
  if (away !== null) throw new ProblemError({ code: 'away', path: away });
  const ended = change.state === 'applying' ? await finish(change, disk) : await abandon(change, disk);
  const gone = await awayRoot(change, disk); // one that went meanwhile proves nothing that was seen of it
  if (gone !== null) throw new ProblemError({ code: 'away', path: gone });
  await journal.setState(change.id, ended.outcome === 'finished' ? 'done' : 'taken-back', ended.note);
  return { change, outcome: ended.outcome, left: ended.left, why: null };
}

type Ended = Pick<Recovery, 'left'> & { readonly outcome: 'finished' | 'taken-back'; readonly note: string };

async function abandon(change: ChangeRecord, disk: ChangeDisk): Promise<Ended> {
  const wasBusy = change.state === 'taking-back';
  await takeBack(change.steps, wasBusy ? change.steps : [], disk);
  if (wasBusy) await syncFolders(change.steps, disk);
  const note = wasBusy ? 'It failed, and was taken back later.' : 'The program ended before anything was changed.';
  return { outcome: 'taken-back', left: [], note };
}

async function finish(change: ChangeRecord, disk: ChangeDisk): Promise<Ended> {
  const left: string[] = [];
  const open = change.steps.slice(await doneSteps(change.steps, disk));
  for (const step of open) if (!(await finishStep(step, disk))) left.push(step.path);
  await syncFolders(change.steps, disk);
  const note = left.length
    ? `It was left midway and finished later; not as planned, and left as they are: ${left.join(', ')}`
    : 'It was left midway and finished later.';
  return { outcome: 'finished', left, note };
}

/** Steps are done in their order: all up to the last move whose file stands at its target are. */
async function doneSteps(steps: readonly StepRecord[], disk: ChangeDisk): Promise<number> {
  for (let i = steps.length - 1; i >= 0; i--) {
    const step = steps[i]!;
    if (step.kind !== 'move' || (await disk.identity(step.path)) !== step.identity) continue;
    if ((await disk.identity(step.source)) !== step.identity) return i + 1; // else: one file under both names, not renamed yet
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
      await disk.setMode(step.path, step.after);
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

async function finishMove(step: MoveStep, disk: ChangeDisk): Promise<boolean> {
  const there = await disk.identity(step.path);
  if ((await disk.identity(step.source)) !== step.identity) return there === step.identity;
  if (there !== null && there !== step.identity) return false;
  await disk.rename(step.source, step.path);
  return true;
}

async function finishTrash(step: TrashStep, disk: ChangeDisk): Promise<boolean> {
  if ((await disk.identity(step.temp)) !== null) return true;
  if (step.hash !== null && (await disk.hash(step.path)) !== step.hash) return false;
  if ((await disk.identity(step.path)) === null) return false;
  await makeTrashFolders(step.temp, disk);
  await disk.rename(step.path, step.temp);
  return true;
}

async function finishInstall(step: InstallStep | CopyStep, disk: ChangeDisk): Promise<boolean> {
  const isThere = (await disk.identity(step.path)) !== null;
  if ((await disk.identity(step.temp)) === null) return isThere;
  if (isThere) return false;
  await disk.rename(step.temp, step.path);
  return true;
}

async function finishWrite(step: WriteStep, disk: ChangeDisk): Promise<boolean> {
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
