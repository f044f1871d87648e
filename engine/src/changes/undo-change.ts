import { ProblemError } from '@rootmap/core';
import type { ChangeRecord } from './change.js';
import { ChangeDisk, sha256 } from './disk.js';
import type { Journal } from './journal-port.js';
import { planUndo, type Kept, type UndoPlan } from './plan-undo.js';
import { runChange, type RunOptions } from './run-change.js';
import { standingOn, wasApplied } from './stands-on.js';
import { StepsAhead } from './steps-ahead.js';
import { Tracks } from './tracks.js';

/** One change that is taken back, and what that does. */
interface UndoPart extends UndoPlan {
  readonly change: ChangeRecord;
}

/** What an undo would do now. Nothing of it is done. */
export interface Undoing {
  /** What it is called in the journal. */
  readonly title: string;
  readonly change: ChangeRecord;
  /** Where the folder that it was done in is now. */
  readonly root: string;
  /** In their order: later changes that stand on it, the latest first, then the change itself. */
  readonly parts: readonly UndoPart[];
  /** The same as long as the undo would do the same. */
  readonly digest: string;
}

export interface UndoOrder {
  /** Later changes that stand on it are undone, too. */
  readonly along?: boolean;
  /** Digest of what a person was shown: nothing else is done. */
  readonly shown?: string | null;
}

export interface Undone {
  /** The last of the changes by which it was undone; null: nothing was. */
  readonly change: ChangeRecord | null;
  readonly parts: readonly (UndoPart & { readonly by: ChangeRecord })[];
  readonly kept: readonly Kept[];
}

/** What undoing a finished change would do now; of a change that undid another, what doing that again would do. */
export async function planUndoing(id: string, journal: Journal, disk = new ChangeDisk()): Promise<Undoing> {
  const change = await undoable(id, journal);
  const all = await journal.since(change);
  const along = await Promise.all(standingOn(change, all).map(({ id }) => undoable(id, journal)));
  const ahead = new StepsAhead();
  const parts: UndoPart[] = [];
  for (const part of [...along, change]) parts.push({ change: part, ...(await planUndo(part, { later: after(part, all), ahead, disk })) });
  const root = rootNow(change, all);
  return { title: await titleOf(change, journal), change, root, parts, digest: digestOf(parts) };
}

/** @param all in their order; `change` may be one of them */
const after = (change: ChangeRecord, all: readonly ChangeRecord[]): readonly ChangeRecord[] =>
  all.slice(all.findIndex((c) => c.id === change.id) + 1);

const rootNow = (change: ChangeRecord, later: readonly ChangeRecord[]): string =>
  Tracks.of(later.filter(wasApplied).flatMap((c) => c.steps)).after(change.root);

async function undoable(id: string, journal: Journal): Promise<ChangeRecord> {
  const change = await journal.get(id);
  if (!change) throw new ProblemError({ code: 'not-found', what: 'change', id });
  const refuse = (why: string): never => {
    throw new ProblemError({ code: 'cannot-undo', path: change.title, why });
  };
  if (change.state === 'undone') refuse(change.undoes === null ? 'it was undone before' : 'it was done again before');
  if (change.state !== 'done') refuse(`it is ${change.state}`);
  return change;
}

/** Undoing an undo does what it undid again, and so on. */
async function titleOf(change: ChangeRecord, journal: Journal): Promise<string> {
  let first = change;
  let isRedo = false;
  for (let before; first.undoes !== null && (before = await journal.get(first.undoes)); first = before) isRedo = !isRedo;
  return `${isRedo ? 'Redo' : 'Undo'}: ${first.title}`;
}

function digestOf(parts: readonly UndoPart[]): string {
  const told = parts.map(({ change, steps, kept }) => [
    change.id,
    steps.map((s) => (s.kind === 'write' ? { ...s, before: s.before && sha256(s.before), after: sha256(s.after) } : s)),
    kept,
  ]);
  return sha256(Buffer.from(JSON.stringify(told), 'utf8'));
}

/**
 * Takes a finished change back as a change of its own, which can be undone in its turn; with it the later changes that stand on
 * it, each as a change of its own. All of them are taken back, or none: where one fails, those before it are done again.
 * Throws `cannot-undo` where later changes stand on it and are not to be undone, and where it would do other than was shown.
 */
export async function undoChange(id: string, who: string, options: RunOptions, order: UndoOrder = {}): Promise<Undone> {
  const { journal } = options;
  const disk = options.disk ?? new ChangeDisk();
  const plan = await planUndoing(id, journal, disk);
  refuseOther(plan, order);
  const kept = plan.parts.flatMap((p) => p.kept);
  if (plan.parts.at(-1)!.steps.length === 0) return { change: null, parts: [], kept };
  const parts: (UndoPart & { by: ChangeRecord })[] = [];
  try {
    for (const shown of plan.parts) {
      const part = plan.parts.length === 1 ? shown : await planAgain(shown, journal, disk);
      if (part.steps.length === 0) continue;
      parts.push({ ...part, by: await carryOut(part, who, options) });
    }
  } catch (error) {
    for (const { by } of parts.reverse()) await carryOut(await planAgain({ change: by }, journal, disk), who, options);
    throw error;
  }
  return { change: parts.at(-1)?.by ?? null, parts, kept };
}

function refuseOther({ change, parts, digest }: Undoing, { along = false, shown = null }: UndoOrder): void {
  const refuse = (why: string): never => {
    throw new ProblemError({ code: 'cannot-undo', path: change.title, why });
  };
  if (shown !== null && shown !== digest) refuse('undoing it would do something else now than what was shown; look at it again');
  if (parts.length === 1 || along) return;
  const titles = parts.slice(0, -1).map((p) => `"${p.change.title}"`);
  const named = titles.slice(0, MOST_NAMED).join(', ') + (titles.length > MOST_NAMED ? ` and ${titles.length - MOST_NAMED} more` : '');
  refuse(
    `${titles.length === 1 ? 'a later change stands' : `${titles.length} later changes stand`} on it (${named}), and can be undone along with it`,
  );
}

const MOST_NAMED = 3;

/** From what is on disk now; throws where more would stay as it is than was shown. */
async function planAgain(
  { change, kept }: { change: ChangeRecord; kept?: readonly Kept[] },
  journal: Journal,
  disk: ChangeDisk,
): Promise<UndoPart> {
  const plan = await planUndo(change, { later: await journal.since(change), ahead: new StepsAhead(), disk });
  const other = plan.kept.find((k) => !kept?.some((was) => was.path === k.path));
  if (other) throw new ProblemError({ code: 'changed-meanwhile', path: other.path });
  return { change, ...plan };
}

async function carryOut({ change, steps, kept }: UndoPart, who: string, options: RunOptions): Promise<ChangeRecord> {
  const { journal } = options;
  const root = rootNow(change, await journal.since(change));
  const title = await titleOf(change, journal);
  const done = await runChange({ title, kind: 'undo', root, who, steps, undoes: change.id }, options);
  if (kept.length > 0) await journal.setNote(change.id, noteOf(kept));
  return done;
}

const WHY: Readonly<Record<Kept['why'], string>> = {
  edited: 'edited since',
  gone: 'no longer there',
  taken: 'something else stands in its place',
  'no-folder': 'the folder that it was in is gone',
  'trash-emptied': 'no longer in the trash',
  'not-empty': 'other things are in it',
  'holds-trash': 'it holds the trash',
};

/** Why something stays as it is, in a few words. */
export const whyKept = (why: Kept['why']): string => WHY[why];

const noteOf = (kept: readonly Kept[]): string => `Left as it is: ${kept.map((k) => `${k.path} (${whyKept(k.why)})`).join(', ')}`;
