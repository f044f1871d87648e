import { randomUUID } from 'node:crypto';
import { basename, dirname, join } from 'node:path';
import { explain, ProblemError } from '@rootmap/core';
import { diskProblem } from '../disk/disk-problem.js';
import type { ChangeRecord, PlannedChange, PlannedStep, StepRecord } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { thisProcess } from './owner.js';

export interface RunOptions {
  readonly journal: Journal;
  readonly disk?: ChangeDisk;
  readonly program: string;
  /** Fills the staged path of each `install`; runs after the journal knows of it, so that a crash leaves no litter. */
  readonly stage?: (stagedPath: string, targetPath: string) => Promise<void>;
}

const BEAT_MS = 5000;

/**
 * Carries a change out. Order of durability: journal (preparing) → temporary files, synced → journal (applying) → bytes
 * compared once more and renamed → folders synced → read back → journal (done). On any failure what was renamed is put
 * back, and the failure is thrown.
 */
export async function runChange(plan: PlannedChange, options: RunOptions): Promise<ChangeRecord> {
  const disk = options.disk ?? new ChangeDisk();
  const { journal } = options;
  const record = toRecord(plan, options.program);
  await journal.begin(record);
  const beat = setInterval(() => void journal.beat(record.id).catch(() => undefined), BEAT_MS);
  const renamed: StepRecord[] = [];
  let current = plan.root;
  try {
    for (const [i, step] of plan.steps.entries()) {
      current = step.path;
      await prepare(step, record.steps[i]!, disk, options);
    }
    await journal.setState(record.id, 'applying');
    for (const step of record.steps) {
      current = step.path;
      await perform(step, disk);
      renamed.push(step);
    }
    await syncFolders(record.steps, disk);
    await verify(record.steps, disk);
    await journal.setState(record.id, 'done');
    return { ...record, state: 'done' };
  } catch (error) {
    if (error instanceof StopHere) throw error;
    const problem = error instanceof ProblemError ? error.problem : diskProblem(error, current);
    const note = problem ? explain(problem) : String(error);
    await takeBack(record, renamed, disk);
    await journal.setState(record.id, 'failed', note);
    throw problem ? new ProblemError(problem) : error;
  } finally {
    clearInterval(beat);
  }
}

/** Thrown by tests in place of a crash: nothing is tidied up behind it. */
export class StopHere extends Error {}

function toRecord(plan: PlannedChange, program: string): ChangeRecord {
  const id = randomUUID();
  return {
    id,
    title: plan.title,
    kind: plan.kind,
    root: plan.root,
    who: plan.who,
    createdMs: Date.now(),
    state: 'preparing',
    owner: thisProcess(program),
    note: null,
    undoes: plan.undoes ?? null,
    steps: plan.steps.map((step, n) => stepRecord(step, n, id)),
  };
}

function stepRecord(step: PlannedStep, n: number, id: string): StepRecord {
  const folder = dirname(step.path);
  const base = { n, kind: step.kind, path: step.path };
  const temp = join(folder, `.${basename(step.path)}.rootmap-${id.slice(0, 8)}-${n}`);
  switch (step.kind) {
    case 'write':
      return { ...base, temp, before: step.before, beforeHash: step.before && sha256(step.before), afterHash: sha256(step.after) };
    case 'install':
      return { ...base, temp, before: null, beforeHash: null, afterHash: null };
    case 'trash':
      return {
        ...base,
        temp: join(folder, '.rootmap', 'trash', id, `${n}-${basename(step.path)}`),
        before: null,
        beforeHash: step.hash,
        afterHash: null,
      };
  }
}

async function prepare(step: PlannedStep, record: StepRecord, disk: ChangeDisk, options: RunOptions): Promise<void> {
  if (step.kind === 'write') {
    await unchanged(record, disk);
    await disk.stage(record.temp, step.after, (await disk.modeOf(step.path)) ?? 0o644);
  } else if (step.kind === 'install') {
    if (!options.stage) throw new Error('an install step needs a stage function');
    await options.stage(record.temp, step.path);
  }
}

/** Just before each rename the bytes must still be those planned from. */
async function unchanged(step: StepRecord, disk: ChangeDisk): Promise<void> {
  const now = await disk.read(step.path);
  if (step.beforeHash === null ? now !== null : now === null || sha256(now) !== step.beforeHash)
    throw new ProblemError(step.beforeHash === null ? { code: 'exists', path: step.path } : { code: 'changed-meanwhile', path: step.path });
}

async function perform(step: StepRecord, disk: ChangeDisk): Promise<void> {
  if (step.kind === 'write') {
    await unchanged(step, disk);
    await disk.rename(step.temp, step.path);
  } else if (step.kind === 'install') {
    await disk.giveWay(step.path);
    await disk.rename(step.temp, step.path);
  } else {
    if (step.beforeHash !== null && (await disk.hash(step.path)) !== step.beforeHash)
      throw new ProblemError({ code: 'changed-meanwhile', path: step.path });
    await disk.makeFolder(dirname(step.temp));
    await disk.rename(step.path, step.temp);
  }
}

async function syncFolders(steps: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  for (const folder of new Set(steps.map((s) => dirname(s.path)))) await disk.syncFolder(folder);
}

async function verify(steps: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  for (const step of steps)
    if (step.kind === 'write' && (await disk.hash(step.path)) !== step.afterHash)
      throw new ProblemError({ code: 'failed', what: `Writing ${step.path}`, why: 'what was read back is not what was written' });
}

/** After a failure: every file that was renamed gets its old bytes again, newest first; temporary files go. */
async function takeBack(record: ChangeRecord, renamed: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  for (const step of [...renamed].reverse()) await restore(step, disk);
  for (const step of record.steps) if (step.kind !== 'trash') await disk.remove(step.temp);
}

/** Puts one renamed step back; leaves what someone else changed meanwhile. */
export async function restore(step: StepRecord, disk: ChangeDisk): Promise<boolean> {
  if (step.kind === 'trash') {
    if ((await disk.modeOf(step.path)) !== null || (await disk.modeOf(step.temp)) === null) return false;
    await disk.rename(step.temp, step.path);
    return true;
  }
  if (step.kind === 'install') {
    await disk.remove(step.path);
    return true;
  }
  const now = await disk.read(step.path);
  if (now === null || sha256(now) !== step.afterHash) return false;
  if (step.before === null) {
    await disk.remove(step.path);
    return true;
  }
  const mode = (await disk.modeOf(step.path)) ?? 0o644;
  await disk.remove(step.temp);
  await disk.stage(step.temp, step.before, mode);
  await disk.rename(step.temp, step.path);
  return true;
}
