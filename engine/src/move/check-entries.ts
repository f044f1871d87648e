import { existsSync, lstatSync } from 'node:fs';
import { groupBy, placeNamed, ProblemError, roleOf, type Place, partsOf } from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { dirname, isBelow, pathFrom, isInside } from '../disk/native-path.js';
import { realRoot } from '../places/places.js';
import { locationOf } from '../project/scope.js';
import type { MovedEntry } from './expand.js';
import type { KnownProject } from './known-maps.js';
import { isOneDisk, nearestFolder } from './one-disk.js';

/** The moved folder that a path is in, without the path itself; null: none. */
export function carrierOf(path: string, folders: ReadonlyMap<string, MovedEntry>): MovedEntry | null {
  for (let above = dirname(path); above !== dirname(above); above = dirname(above)) {
    const folder = folders.get(above);
    if (folder) return folder;
  }
  return null;
}

export const foldersAmong = (entries: readonly MovedEntry[]): Map<string, MovedEntry> =>
  new Map(entries.filter((e) => e.isFolder).map((e) => [e.from, e]));

const depthOf = (path: string): number => partsOf(path).length;

/** Throws, as a sentence, what cannot be done: targets that exist, places that cannot be written to, originals. */
export function checkEntries(
  entries: readonly MovedEntry[],
  places: readonly Place[],
  projects: readonly KnownProject[],
  evenOriginals: boolean,
): void {
  const byTarget = groupBy(entries, (e) => e.to);
  const folders = foldersAmong(entries);
  const freed = new Set(entries.flatMap((e) => (e.isShared ? [] : [e.from])));
  const checked = new Set<string>();
  for (const entry of entries) {
    const { from, to } = entry;
    const twins = byTarget.get(to)!;
    if (twins.length > 1 && !twins.every((t) => t.isShared)) throw new ProblemError({ code: 'exists', path: to });
    checkCarriers(entry, folders);
    if (!freed.has(to) && existsSync(to) && !isSameFile(from, to)) throw new ProblemError({ code: 'exists', path: to });
    for (const path of [from, to]) checkFolder(path, places, checked);
    if (!evenOriginals && !entry.isShared) checkOriginal(from, projects);
  }
}

/** A folder's content is moved along: what is in it cannot go elsewhere at once, where one would have to wait for the other. */
function checkCarriers({ from, to }: MovedEntry, folders: ReadonlyMap<string, MovedEntry>): void {
  const target = carrierOf(to, folders);
  let isInCopied = false;
  for (let around = carrierOf(from, folders); around; around = carrierOf(around.from, folders))
    isInCopied ||= !isOneDisk(around.from, around.to);
  const isBelowLater = target !== null && target.from !== from && depthOf(target.from) >= depthOf(from);
  if (isBelowLater || isInCopied)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${from} and a folder around it or its target cannot move at once. Move one after the other.`,
    });
}

/** A folder that is written in must be inside its place, for real, and the place must take it. Each is looked at once. */
function checkFolder(path: string, places: readonly Place[], checked: Set<string>): void {
  const there = nearestFolder(path);
  if (checked.has(there)) return;
  const place = placeNamed(places, locationOf(path, places).place)!;
  if (place.readOnly) throw new ProblemError({ code: 'read-only', path });
  if (!isInside(realRoot(place), realPath(there)))
    throw new ProblemError({ code: 'outside-places', path, why: 'a link on the way leads out of its place' });
  checked.add(there);
}

function checkOriginal(from: string, projects: readonly KnownProject[]): void {
  const owner = projects.find((p) => p.project && isBelow(p.root, from));
  if (owner && roleOf(pathFrom(owner.root, from), owner.project!.folders) === 'originals')
    throw new ProblemError({ code: 'protected', path: from, folder: owner.root });
}

const isSameFile = (a: string, b: string): boolean => lstatSync(a).ino === lstatSync(b).ino && lstatSync(a).dev === lstatSync(b).dev;
