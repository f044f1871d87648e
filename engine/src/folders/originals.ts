import { createHash } from 'node:crypto';
import { isMapFile, isProjectFile, roleOf, type FileEntry } from '@rootmap/core';
import type { TamperedView } from '@rootmap/core/contract';
import { basename, join } from '../disk/native-path.js';
import { createReadStream } from '../disk/files.js';
import { diskSentence } from '../disk/disk-problem.js';
import { RECORDS } from '../move/records.js';
import { followOwn, type OwnStep } from './own-steps.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';

/** One original as it was when it came, and as it was last seen. */
interface Original {
  readonly hash: string;
  readonly bytes: number;
  readonly modifiedMs: number;
  readonly why: TamperedView['why'] | null;
  readonly sinceMs: number;
}
type Originals = Record<string, Original>;

export interface OriginalsCheck {
  /** What to keep for the next check: plain text. */
  readonly known: string;
  readonly tampered: readonly TamperedView[];
  /** There was more to read than one run takes: call again. */
  readonly isPartial: boolean;
}

export interface OriginalsOptions {
  /** What the app itself did since: no reason for alarm. */
  readonly own?: readonly OwnStep[];
  /** What is there now counts as original from here on. */
  readonly accept?: boolean;
  readonly mostBytes?: number;
  readonly now?: number;
}

/** One run reads at most about this much, so that other work gets its turn. */
const MOST_BYTES = 128 << 20;

/**
 * Compares the originals with what they were when they came: by size and time, and where those differ, by SHA-256. A file that
 * was moved is known again by its hash. Nothing is written to the project.
 */
export async function checkOriginals(scope: RootedScope, known: string | null, options: OriginalsOptions = {}): Promise<OriginalsCheck> {
  const root = scope.root;
  const now = options.now ?? Date.now();
  const before = known === null ? {} : (JSON.parse(known) as Originals);
  followOwn(before, options.own ?? [], root);
  const files = originalsIn(scope);
  const budget = { left: options.mostBytes ?? MOST_BYTES };
  const after: Originals = {};
  const fresh: FileEntry[] = [];
  let isPartial = false;
  for (const f of files) {
    const old = Object.hasOwn(before, f.path) ? before[f.path]! : null;
    if (old && old.bytes === f.bytes && old.modifiedMs === f.modifiedMs && old.why !== 'gone') after[f.path] = old;
    else if (budget.left <= 0) {
      isPartial = true;
      if (old) after[f.path] = old;
    } else {
      budget.left -= f.bytes;
      const hash = await hashOf(join(root, f.path));
      if (hash === null) {
        if (old) after[f.path] = old;
        continue;
      }
      if (!old) {
        after[f.path] = { hash, bytes: f.bytes, modifiedMs: f.modifiedMs, why: null, sinceMs: now };
        fresh.push(f);
      } else {
        const why = hash === old.hash ? null : 'changed';
        after[f.path] = { hash: old.hash, bytes: f.bytes, modifiedMs: f.modifiedMs, why, sinceMs: why === old.why ? old.sinceMs : now };
      }
    }
  }
  if (isPartial) Object.assign(after, { ...before, ...after });
  else keepGone(before, after, fresh, now);
  if (options.accept) await acceptAll(root, after, files);
  const tampered = Object.entries(after).flatMap(([path, o]) => (o.why ? [{ path, why: o.why, sinceMs: o.sinceMs }] : []));
  return { known: JSON.stringify(after), tampered, isPartial };
}

function originalsIn(scope: RootedScope): FileEntry[] {
  const folders = scope.project?.folders ?? {};
  if (!Object.values(folders).includes('originals')) return [];
  return listFiles(scope.root, { confinedTo: confinementOf(scope.root, scope.places) }).files.filter(
    (f) => roleOf(f.path, folders) === 'originals' && basename(f.path) !== RECORDS && !isMapFile(f.path) && !isProjectFile(f.path),
  );
}

/** What is not there any more: moved, if the same bytes came up elsewhere among the originals; else gone. */
function keepGone(before: Originals, after: Originals, fresh: readonly FileEntry[], now: number): void {
  const cameUp = new Map<string, number>();
  for (const f of fresh) cameUp.set(after[f.path]!.hash, (cameUp.get(after[f.path]!.hash) ?? 0) + 1);
  for (const [path, old] of Object.entries(before)) {
    if (Object.hasOwn(after, path)) continue;
    const left = cameUp.get(old.hash) ?? 0;
    if (left > 0) cameUp.set(old.hash, left - 1);
    else after[path] = { ...old, why: 'gone', sinceMs: old.why === 'gone' ? old.sinceMs : now };
  }
}

async function acceptAll(root: string, after: Originals, files: readonly FileEntry[]): Promise<void> {
  const there = new Set(files.map((f) => f.path));
  for (const [path, o] of Object.entries(after)) {
    if (!there.has(path)) delete after[path];
    else if (o.why) after[path] = { ...o, hash: (await hashOf(join(root, path))) ?? o.hash, why: null };
  }
}

async function hashOf(path: string): Promise<string | null> {
  const hash = createHash('sha256');
  try {
    for await (const piece of createReadStream(path, { highWaterMark: 1 << 20 })) hash.update(piece as Buffer);
    return hash.digest('hex');
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return null; // it cannot be read now: looked at again next time
  }
}
