import { randomUUID } from 'node:crypto';
import { explain, ProblemError } from '@rootmap/core';
import { basename, dirname, join, isBelow, isInside, rebase, keptBits } from '../disk/native-path.js';
import { diskProblem } from '../disk/disk-problem.js';
import { awayRoot, rootsOf } from './away.js';
import type { ChangeRecord, CopyStep, InstallStep, PlannedChange, PlannedStep, PlannedWrite, SeenRoot, StepRecord } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { release, thisProcess } from './owner.js';
import { isInTrash, selfAndAbove } from './path-steps.js';
import { stagedName, TRASH } from './staged-name.js';
import { Tracks } from './tracks.js';
import { perform, StopHere, syncFolders, takeBack, unchanged } from './step.js';

export { StopHere } from './step.js';

export interface RunOptions {
  readonly journal: Journal;
  readonly disk?: ChangeDisk;
  readonly program: string;
  /** Fills the staged path of each `install`; runs after the journal knows of it, so that a crash leaves no litter. */
  readonly stage?: (stagedPath: string, targetPath: string) => Promise<void>;
  /** Fills the staged paths of all installs at once, before the first of them; `stage` is then not asked. */
  readonly stageAll?: (installs: readonly { readonly staged: string; readonly target: string }[]) => Promise<void>;
  /** Bytes copied so far, and what is being copied. */
  readonly onCopied?: (bytes: number, path: string) => void;
  /** Ends the preparing; once files take their places, a change is carried out to its end. */
  readonly signal?: AbortSignal | undefined;
}

const BEAT_MS = 5000;

/**
 * Carries a change out. Order of durability: journal (preparing) → temporary files and copies, synced and read back →
 * journal (applying) → bytes compared once more and renamed → folders synced → read back → journal (done). On any failure
 * what was done is put back (journal: taking-back), and the failure is thrown.
 */
export async function runChange(plan: PlannedChange, options: RunOptions): Promise<ChangeRecord> {
  const disk = options.disk ?? new ChangeDisk();
  const { journal } = options;
  let current = plan.root;
  const id = randomUUID();
  const steps = await toSteps(plan, id, disk);
  const record = toRecord(plan, id, options.program, await rootsOf(plan, disk), steps);
  await journal.begin(record, plan.otherRoots);
  const beat = setInterval(() => void journal.beat(record.id).catch(() => undefined), BEAT_MS);
  const performed: StepRecord[] = [];
  let isApplying = false;
  try {
    for (const [i, step] of plan.steps.entries()) {
      options.signal?.throwIfAborted();
      current = step.path;
      if (step.kind === 'install' && options.stageAll && !steps.slice(0, i).some((s) => s.kind === 'install'))
        await options.stageAll(steps.flatMap((s) => (s.kind === 'install' ? [{ staged: s.temp, target: s.path }] : [])));
      steps[i] = await prepare(step, steps[i]!, { id, earlier: steps.slice(0, i), disk, options });
    }
    await journal.setState(record.id, 'applying');
    isApplying = true;
    for (const step of steps) {
      current = step.path;
      await perform(step, disk);
      performed.push(step);
    }
    await syncFolders(steps, disk);
    await verify(steps, disk);
    await journal.setState(record.id, 'done');
    return { ...record, state: 'done' };
  } catch (error) {
    if (error instanceof StopHere) throw error;
    const problem = toProblem(error, plan, current);
    await giveUp({ ...record, state: isApplying ? 'applying' : 'preparing', steps }, performed, {
      journal,
      disk,
      why: problem ? explain(problem) : String(error),
    });
    throw problem ? new ProblemError(problem) : error;
  } finally {
    clearInterval(beat);
  }
}

interface GivingUp {
  readonly journal: Journal;
  readonly disk: ChangeDisk;
  readonly why: string;
}

/**
 * Puts back what was done. A change has failed only when every step back is confirmed; where the disk or the journal refuses,
 * it stays as it is written down, for `recoverChanges` to finish or take back, and `unfinished` is thrown.
 */
async function giveUp(change: ChangeRecord, performed: readonly StepRecord[], { journal, disk, why }: GivingUp): Promise<void> {
  try {
    if (change.state === 'applying') await journal.setState(change.id, 'taking-back', why);
    await takeBack(change.steps, performed, disk);
    if (performed.length > 0) await syncFolders(performed, disk);
    const away = await awayRoot(change, disk);
    if (away !== null) throw new ProblemError({ code: 'away', path: away });
    await journal.setState(change.id, 'failed', why);
  } catch (error) {
    if (error instanceof StopHere) throw error;
    release(change.id);
    throw new ProblemError({ code: 'unfinished', what: change.title, why });
  }
}

function toProblem(error: unknown, plan: PlannedChange, current: string) {
  if (error instanceof ProblemError) return error.problem;
  if ((error as { name?: string } | null)?.name === 'AbortError') return { code: 'cancelled', what: plan.title } as const;
  return diskProblem(error, current);
}

const toRecord = (
  plan: PlannedChange,
  id: string,
  program: string,
  roots: readonly SeenRoot[],
  steps: readonly StepRecord[],
): ChangeRecord => ({
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
  roots,
  steps,
});

async function toSteps(plan: PlannedChange, id: string, disk: ChangeDisk): Promise<StepRecord[]> {
  const steps: StepRecord[] = [];
  const within = stepsWithin(plan.steps);
  for (const [n, step] of plan.steps.entries()) {
    const record = await stepRecord(await atTarget(step, disk), n, id, plan, disk);
    // Where no other step changes anything in it, a folder will be as it is now once it is out of the trash.
    const isAsNow = record.kind === 'move' && isInTrash(record.source) && within.get(record.source) === 1 && within.get(record.path) === 1;
    steps.push(isAsNow ? { ...record, tree: await disk.treeStamps(record.source) } : record);
  }
  return steps;
}

/** A file that is a link is written where it leads, and stays a link. */
const atTarget = async (step: PlannedStep, disk: ChangeDisk): Promise<PlannedStep> =>
  step.kind === 'write' ? { ...step, path: await disk.targetOf(step.path) } : step;

async function stepRecord(step: PlannedStep, n: number, id: string, plan: PlannedChange, disk: ChangeDisk): Promise<StepRecord> {
  const { path } = step;
  const temp = join(await stagingFolder(step.path, disk), stagedName(id, n));
  switch (step.kind) {
    case 'write':
      return {
        kind: 'write',
        n,
        path,
        temp,
        before: step.before,
        beforeHash: step.before && sha256(step.before),
        beforeStamp: step.before && (await disk.stamp(path)),
        afterHash: sha256(step.after),
      };
    case 'install':
      return { kind: 'install', n, path, temp, stamp: null, tree: null };
    case 'copy':
      return { kind: 'copy', n, path, temp, source: step.from, treeHash: null };
    case 'trash':
      return {
        kind: 'trash',
        n,
        path,
        temp: join(trashOf(step.trashOf ?? plan.root, path), id, String(n), basename(path)),
        hash: step.hash,
      };
    case 'folder':
    case 'drop-folder':
      return { kind: step.kind, n, path };
    case 'move':
      return {
        kind: 'move',
        n,
        path,
        source: step.from,
        identity: await identityOf(step.from, plannedMoves(plan.steps.slice(0, n)), disk),
        tree: null,
      };
    case 'mode': {
      const before = await disk.modeOf(originOf(path, plannedMoves(plan.steps.slice(0, n))));
      return { kind: 'mode', n, path, before, after: keptBits(step.mode) };
    }
  }
}

/** How many steps name a path or something below it. */
function stepsWithin(steps: readonly PlannedStep[]): ReadonlyMap<string, number> {
  const within = new Map<string, number>();
  for (const step of steps)
    for (const named of 'from' in step ? [step.path, step.from] : [step.path])
      for (const path of selfAndAbove(named)) within.set(path, (within.get(path) ?? 0) + 1);
  return within;
}

/** Where a step is staged: beside its target, or above it where the folders on the way are still to be made. */
async function stagingFolder(path: string, disk: ChangeDisk): Promise<string> {
  let folder = dirname(path);
  while ((await disk.identity(folder)) === null && folder !== dirname(folder)) folder = dirname(folder);
  return folder;
}

/** Where what will stand at `path` when its turn comes is now: earlier moves and copies bring it there. */
function originOf(path: string, earlier: readonly Moving[]): string {
  let origin = path;
  for (const step of [...earlier].reverse()) if (isInside(step.path, origin)) origin = rebase(origin, step.path, step.from);
  return origin;
}

type Moving = { readonly from: string; readonly path: string };
const movesOf = (steps: readonly StepRecord[]): Moving[] =>
  steps.flatMap((s) => (s.kind === 'move' || s.kind === 'copy' ? [{ from: s.source, path: s.path }] : []));
const plannedMoves = (steps: readonly PlannedStep[]): Moving[] => steps.filter((s) => s.kind === 'move' || s.kind === 'copy');

async function identityOf(from: string, earlier: readonly Moving[], disk: ChangeDisk): Promise<string> {
  const identity = await disk.identity(originOf(from, earlier));
  if (identity === null) throw new ProblemError({ code: 'missing', path: from });
  return identity;
}

/** The trash of a root; of the folder itself for what is not below the root. */
const trashOf = (root: string, path: string): string => join(isBelow(root, path) ? root : dirname(path), ...TRASH);

interface Preparing {
  readonly id: string;
  readonly earlier: readonly StepRecord[];
  readonly disk: ChangeDisk;
  readonly options: RunOptions;
}

/** Stages what a step needs. Gives the step with what is known of it then. */
async function prepare(plan: PlannedStep, step: StepRecord, { id, earlier, disk, options }: Preparing): Promise<StepRecord> {
  const learn = async (known: StepRecord): Promise<StepRecord> => {
    await options.journal.keepStep(id, known);
    return known;
  };
  switch (step.kind) {
    case 'write':
      await unchanged(step, disk);
      await disk.stage(step.temp, (plan as PlannedWrite).after, await disk.permissionsOf(step.path));
      return step;
    case 'install':
      return learn(await stageInstall(step, disk, options));
    case 'copy':
      return learn({ ...step, treeHash: await stageCopy(step, disk, options) });
    case 'move': {
      const from = originOf(step.source, movesOf(earlier));
      const written = earlier.find((s) => s.kind === 'write' && s.path === from); // puts another file there
      const identity = written?.kind === 'write' ? await disk.identity(written.temp) : null;
      return identity === null ? step : learn({ ...step, identity });
    }
    default:
      return step;
  }
}

async function stageInstall(step: InstallStep, disk: ChangeDisk, options: RunOptions): Promise<InstallStep> {
  if (!options.stageAll) {
    if (!options.stage) throw new Error('an install step needs a stage function');
    await options.stage(step.temp, step.path);
  }
  const stamp = await disk.stamp(step.temp);
  if (stamp === null) throw new Error(`nothing was staged for ${step.path}`);
  await disk.syncTree(step.temp);
  return { ...step, stamp, tree: await disk.treeStamps(step.temp) };
}

async function stageCopy({ source, temp }: CopyStep, disk: ChangeDisk, options: RunOptions): Promise<string> {
  const hash = await disk.copyTree(source, temp, (bytes, path) => {
    options.signal?.throwIfAborted();
    options.onCopied?.(bytes, path);
  });
  if ((await disk.hashTree(temp)) !== hash)
    throw new ProblemError({ code: 'failed', what: `Copying ${source}`, why: 'what was read back is not what was written' });
  return hash;
}

async function verify(steps: readonly StepRecord[], disk: ChangeDisk): Promise<void> {
  const moves = Tracks.of(steps);
  for (const [i, step] of steps.entries()) {
    if (step.kind !== 'write') continue;
    const path = moves.after(step.path, i + 1);
    const hash = await disk.hash(path);
    if (hash === null) throw new ProblemError({ code: 'changed-meanwhile', path }); // taken away by another
    if (hash !== step.afterHash)
      throw new ProblemError({ code: 'failed', what: `Writing ${path}`, why: 'what was read back is not what was written' });
  }
}
