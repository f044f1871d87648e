import { locateHere, type BrokenLayer, type SeenMove, type Target, type Trail, joined } from '@rootmap/core';
import { dirname, isInside, rebase, toAddress, join } from '../disk/native-path.js';
import type { JournalMove } from '../changes/change.js';
import { objectId } from '../disk/object-id.js';
import type { SeenObjects, SeenStore } from '../survey/sqlite-index.js';
import { selfAndAbove } from '../changes/path-steps.js';
import type { Scope } from '../project/scope.js';
import type { Reached } from './gather.js';
import { nameOfData } from './replace-data.js';

/** Data where it belongs, with what it is on the disk. */
export function withObjects(
  sound: readonly { readonly path: string; readonly table: string | null }[],
): ({ readonly data: string } & SeenObjects)[] {
  const known = new Map<string, string | null>();
  const object = (path: string): string | null => {
    let id = known.get(path);
    if (id === undefined) known.set(path, (id = objectId(path)));
    return id;
  };
  return sound.map(({ path, table }) => ({ data: nameOfData(path, table), file: object(path), folder: object(dirname(path)) }));
}

/** A broken layer, and the real path (`#table` behind it) that its data was recorded at; null: in no place. */
export interface SoughtLayer {
  readonly broken: BrokenLayer;
  readonly data: string | null;
}

/**
 * Moves that are known because the folder, or the file, that was seen where a layer's data was recorded stands elsewhere now:
 * the same one by what it is on the disk, not one that is like it.
 */
export function movesOnDisk(sought: readonly SoughtLayer[], reached: readonly Reached[], known: SeenStore): SeenMove[] {
  const folders = new Map<string, { readonly from: Trail; readonly ms: number }>();
  const files = new Map<string, { readonly from: Trail; readonly ms: number }>();
  for (const { broken, data } of sought) {
    const seen = broken.recorded && data !== null ? known.seen(data) : null;
    if (!seen) continue;
    const { recorded } = broken;
    const note = (map: typeof folders, object: keyof SeenObjects, from: Trail): void => {
      const id = seen[object];
      if (id !== null && (map.get(id)?.ms ?? -1) < seen.ms) map.set(id, { from, ms: seen.ms });
    };
    note(files, 'file', recorded!);
    note(folders, 'folder', { space: recorded!.space, segments: recorded!.segments.slice(0, -1) });
  }
  if (files.size === 0 && folders.size === 0) return [];
  const moves: SeenMove[] = [];
  const looked = new Set<string>();
  const look = (path: string, to: Trail, map: typeof folders, what: string): void => {
    if (looked.has(path)) return;
    looked.add(path);
    const id = objectId(path);
    const before = id === null ? undefined : map.get(id);
    if (!before || isSame(before.from, to)) return;
    moves.push({ from: before.from, to, how: `It is the same ${what} on the disk that was seen there on ${dayOf(before.ms)}.` });
  };
  const couldBeFile = fitsBySize(sought);
  for (const { target, folder, dataset } of reached) {
    const path = join(folder, dataset.group.main.path);
    const to: Trail = { space: target.location.place, segments: target.location.segments };
    look(dirname(path), { space: to.space, segments: to.segments.slice(0, -1) }, folders, 'folder');
    if (couldBeFile(target)) look(path, to, files, 'file');
  }
  return moves;
}

const isSame = (a: Trail, b: Trail): boolean => a.space === b.space && joined(a.segments) === joined(b.segments);
const dayOf = (ms: number): string => new Date(ms).toISOString().slice(0, 10);

/** A file that was only moved has the size that is remembered, so that the others need not be asked what they are. */
function fitsBySize(sought: readonly SoughtLayer[]): (target: Target) => boolean {
  const sizes = new Set<number>();
  for (const { broken } of sought) {
    if (!broken.fingerprint) return () => true;
    for (const bytes of Object.values(broken.fingerprint.bytes)) sizes.add(bytes);
  }
  return ({ fingerprint }) => fingerprint.format === 'geopackage' || Object.values(fingerprint.bytes).some((bytes) => sizes.has(bytes));
}

/**
 * Where the app moved things: of each path that something was moved from, and that data is sought at or below, to where it stands
 * now, later moves reckoned in.
 * @param moved the oldest first
 * @param sought real paths, `#table` behind them
 */
export function movesInJournal(moved: readonly JournalMove[], sought: readonly (string | null)[], scope: Scope): SeenMove[] {
  const concerned = new Set(sought.flatMap((data) => (data === null ? [] : [...selfAndAbove(data.replace(/#.*$/s, ''))])));
  const latest = new Map(moved.flatMap((move, n) => (concerned.has(move.from) ? [[move.from, n] as const] : [])));
  return [...latest].flatMap(([from, n]): SeenMove[] => {
    const { title, ms } = moved[n]!;
    const now = moved.slice(n + 1).reduce((at, next) => movedBy(at, next) ?? at, moved[n]!.to);
    const [before, to] = [trailOf(from, scope), trailOf(now, scope)];
    return before && to && now !== from ? [{ from: before, to, how: `The app moved it there: '${title}', ${dayOf(ms)}.` }] : [];
  });
}

const movedBy = (path: string, { from, to }: JournalMove): string | null => (isInside(from, path) ? rebase(path, from, to) : null);

/** Null: in no place. */
function trailOf(path: string, scope: Scope): Trail | null {
  const at = locateHere(toAddress(path), scope.places);
  return at && { space: at.place, segments: at.segments };
}
