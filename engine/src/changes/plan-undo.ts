import { basename, dirname, join, isBelow } from '../disk/native-path.js';
import type { ChangeRecord, PlannedStep, StepRecord, TreeStamps } from './change.js';
import { sha256, type ChangeDisk } from './disk.js';
import { DiskAfter } from './disk-after.js';
import { wasApplied } from './stands-on.js';
import { StepsAhead } from './steps-ahead.js';
import { Tracks } from './tracks.js';

/** Why something stays as it is. `taken`: something else stands where it would go; `no-folder`: the folder that it was in is gone. */
type KeptWhy = 'edited' | 'gone' | 'taken' | 'no-folder' | 'trash-emptied' | 'not-empty' | 'holds-trash';

export interface Kept {
  readonly path: string;
  readonly why: KeptWhy;
}

/** What happens to a file or a folder. `restored`: it gets its old bytes. `removed`: into the trash. `returned`: out of it. */
export interface ComesBack {
  readonly path: string;
  readonly what: 'restored' | 'removed' | 'returned' | 'moved' | 'bits' | 'folder' | 'folder-removed';
}

export interface UndoPlan {
  readonly steps: readonly PlannedStep[];
  readonly back: readonly ComesBack[];
  readonly kept: readonly Kept[];
}

/** So many steps are looked at before others have their turn. */
const STEPS_AT_ONCE = 200;
/** Files that are read side by side. */
const READ_AT_ONCE = 32;

type Turn = { readonly step: PlannedStep; readonly what: ComesBack['what'] } | { readonly why: KeptWhy } | null;

export interface UndoSetting {
  /** All changes that began after it, in their order: what they moved is followed. */
  readonly later: readonly ChangeRecord[];
  /** What undoing those of them does that are undone before it; what this one does is added. */
  readonly ahead: StepsAhead;
  readonly disk: ChangeDisk;
}

/**
 * What undoing a change would do now. Each file is held against what the change left: one that was edited stays, and is named;
 * what was moved moves back, also where it was edited since; what went into the trash comes out of it.
 */
export async function planUndo(change: ChangeRecord, { later, ahead, disk }: UndoSetting): Promise<UndoPlan> {
  const since = Tracks.of(later.filter(wasApplied).flatMap((c) => c.steps));
  const before = new StepsAhead(ahead);
  const now = (path: string): string => before.follow(since.after(path));
  const content = new DiskAfter(disk, before);
  const undone = await inParts(change.steps, { content, now, later });
  const own = Tracks.of(undone);
  const left = new Set(
    undone.flatMap((s) => (s.kind === 'drop-folder' || s.kind === 'trash' ? [s.path] : s.kind === 'move' ? [s.source] : [])),
  );
  /** Where a folder was that the change itself took away, something else may be now. */
  const slot = (path: string): string => {
    const folder = dirname(path);
    return join(left.has(folder) ? slot(folder) : now(folder), basename(path));
  };
  const writes: PlannedStep[] = [];
  const others: PlannedStep[] = [];
  const back: ComesBack[] = [];
  const kept = new Map<string, KeptWhy>();
  const turns = new StepsAhead(before); // writes come first; what else stands in the way is told by what was undone until then
  const world: World = {
    content,
    turn: new DiskAfter(disk, turns),
    now,
    slot,
    root: now(change.root),
    isTrashed: () => others.some((s) => s.kind === 'trash'),
    later,
    written: new Map(),
  };
  const ends = undone.map((step, i) => own.after(step.path, i + 1));
  const written = undone.flatMap((step, i) => (step.kind === 'write' ? [now(ends[i]!)] : []));
  for (let i = 0; i < written.length; i += READ_AT_ONCE)
    await Promise.all(written.slice(i, i + READ_AT_ONCE).map(async (path) => world.written.set(path, await world.content.read(path))));
  for (const [i, step] of [...undone.entries()].reverse()) {
    if (i % STEPS_AT_ONCE === 0) await new Promise((next) => setImmediate(next));
    const end = ends[i]!;
    const path = now(end);
    const isPlace = step.kind === 'trash' || step.kind === 'drop-folder' || end !== step.path;
    const turn = await turnOf(step, { now: path, then: isPlace ? slot(step.path) : path }, world);
    if (turn === null) continue;
    if ('why' in turn) {
      if (!kept.has(path)) kept.set(path, turn.why);
      continue;
    }
    if (turn.step.kind === 'write') writes.push(turn.step);
    else {
      others.push(turn.step);
      turns.add([turn.step]);
    }
    back.push({ path, what: turn.what });
  }
  const steps = [...writes, ...others]; // writes name files as they are before the moves
  ahead.add(steps);
  return { steps, back, kept: [...kept].map(([path, why]) => ({ path, why })) };
}

interface World {
  /** Before this change is undone, and when the turn of a step comes. */
  readonly content: DiskAfter;
  readonly turn: DiskAfter;
  /** Where that is now, once the changes before were undone, which stood at a path when the change was done. */
  readonly now: (path: string) => string;
  /** The same of a name in a folder, whatever has it. */
  readonly slot: (path: string) => string;
  readonly root: string;
  readonly isTrashed: () => boolean;
  readonly later: readonly ChangeRecord[];
  /** What stands now where the change wrote. */
  readonly written: Map<string, Buffer | null>;
}

/** Where what a step left is now, after the moves that followed it, and where it will be when the turn of the step comes. */
interface Where {
  readonly now: string;
  readonly then: string;
}

async function turnOf(step: StepRecord, { now, then }: Where, world: World): Promise<Turn> {
  const { content, turn, slot } = world;
  const isThere = async (path: string): Promise<boolean> => (await turn.identity(path)) !== null;
  switch (step.kind) {
    case 'install': {
      if ((await content.identity(now)) === null) return { why: 'gone' };
      return (await isAsInstalled(now, step.stamp, world))
        ? { step: { kind: 'trash', path: then, hash: null }, what: 'removed' }
        : { why: 'edited' };
    }
    case 'copy': {
      const hash = await content.hashTree(now);
      if (hash === null) return { why: 'gone' };
      return hash === step.treeHash ? { step: { kind: 'trash', path: then, hash: null }, what: 'removed' } : { why: 'edited' };
    }
    case 'trash': {
      const temp = world.now(step.temp);
      if (!(await isThere(temp))) return { why: 'trash-emptied' };
      if (await isThere(then)) return { why: 'taken' };
      if (!(await isThere(dirname(then)))) return { why: 'no-folder' };
      return { step: { kind: 'move', from: temp, path: then }, what: 'returned' };
    }
    case 'folder': {
      if (!(await isThere(then))) return null; // somebody took it away since
      if (!(await turn.isEmpty(then))) return { why: 'not-empty' };
      if (then === world.root && world.isTrashed()) return { why: 'holds-trash' };
      return { step: { kind: 'drop-folder', path: then }, what: 'folder-removed' };
    }
    case 'drop-folder':
      if (await isThere(then)) return null;
      if (!(await isThere(dirname(then)))) return { why: 'no-folder' };
      return { step: { kind: 'folder', path: then }, what: 'folder' };
    case 'move': {
      if (!(await isThere(then))) return { why: 'gone' };
      const source = slot(step.source);
      const there = await turn.identity(source);
      // On a disk that ignores case, a name in other letters finds the file itself.
      if (there !== null && there !== (await turn.identity(then))) return { why: 'taken' };
      if (isBelow(then, source) || !(await isThere(dirname(source)))) return { why: 'no-folder' };
      return { step: { kind: 'move', from: then, path: source }, what: 'moved' };
    }
    case 'mode': {
      const mode = await content.modeOf(now);
      if (step.before === null) return null; // the change itself made it, and takes it away
      if (mode === null) return { why: 'gone' };
      return mode === step.after ? { step: { kind: 'mode', path: then, mode: step.before }, what: 'bits' } : { why: 'edited' };
    }
    case 'write': {
      const bytes = world.written.get(now) ?? null;
      const hash = bytes && sha256(bytes);
      if (hash !== step.afterHash) return { why: hash === null ? 'gone' : 'edited' };
      if (step.before === null) return { step: { kind: 'trash', path: then, hash: step.afterHash }, what: 'removed' };
      return { step: { kind: 'write', path: now, before: bytes, after: step.before }, what: 'restored' };
    }
  }
}

/**
 * The steps of a change, where a folder that came as a whole, installed or out of the trash, and in which something is other now
 * stands as one step for each file and folder in it: what was edited in it and what people put there stays, and the rest goes.
 */
async function inParts(steps: readonly StepRecord[], world: Pick<World, 'content' | 'now' | 'later'>): Promise<readonly StepRecord[]> {
  const own = Tracks.of(steps);
  const parts = await Promise.all(
    steps.map(async (step, i): Promise<readonly StepRecord[]> => {
      if ((step.kind !== 'install' && step.kind !== 'move') || !step.tree) return [step];
      const folder = world.now(own.after(step.path, i + 1));
      if (await isTreeAsInstalled(folder, step.tree, world)) return [step];
      const folders = Object.keys(step.tree).filter((name) => name.endsWith('/'));
      return [
        ...['', ...folders].map((name) => ({ kind: 'folder' as const, n: step.n, path: join(step.path, name.slice(0, -1)) })),
        ...Object.entries(step.tree).flatMap(([name, stamp]) =>
          name.endsWith('/') ? [] : [{ kind: 'install' as const, n: step.n, path: join(step.path, name), temp: '', stamp, tree: null }],
        ),
      ];
    }),
  );
  return parts.flat();
}

async function isTreeAsInstalled(folder: string, tree: TreeStamps, world: Pick<World, 'content' | 'later'>): Promise<boolean> {
  const names = await world.content.namesBelow(folder);
  if (names.length !== Object.keys(tree).length) return false;
  for (const name of names) {
    const stamp = tree[name];
    if (stamp === undefined) return false;
    if (!name.endsWith('/') && !(await isAsInstalled(join(folder, name), stamp, world))) return false;
  }
  return true;
}

/**
 * Whether what was installed stands there as it was staged. Where a later change wrote it and was undone, it is another file
 * with the same bytes: the journal knows the hash of what that change took the place of, and that this was the installed file.
 */
async function isAsInstalled(path: string, stamp: string | null, { content, later }: Pick<World, 'content' | 'later'>): Promise<boolean> {
  if (await content.isAsStaged(path, stamp)) return true;
  const hashes = new Set(
    later
      .flatMap((c) => c.steps)
      .flatMap((s) => (s.kind === 'write' && s.beforeStamp === stamp && s.beforeHash !== null ? [s.beforeHash] : [])),
  );
  if (stamp === null || hashes.size === 0) return false;
  const hash = await content.hash(path);
  return hash !== null && hashes.has(hash);
}
