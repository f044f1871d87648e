import { statSync } from 'node:fs';
import { isProjectFile, type Location, joined } from '@rootmap/core';
import { dirname, join, isInside } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { pathOf } from '../places/places.js';
import type { MapsSeen } from '../project/read-maps.js';
import { linkLocations, type Scope } from '../project/scope.js';

/** Folders to look in together. A later step is taken only while something is not explained. */
export interface SearchStep {
  readonly what: 'near' | 'places';
  readonly folders: readonly string[];
}

/**
 * Where data is looked for, the cheapest first: the root, linked folders, the maps' own folders, what is left of the folders
 * that were recorded, those where other layers have their data, and what the person adds; then the known places.
 */
export function searchSteps(scope: Scope, seen: MapsSeen, added: readonly string[]): SearchStep[] {
  const near = outermost([
    ...(scope.root ? [scope.root] : []),
    ...linkLocations(scope).map((l) => realPathOf(l.location, scope)),
    ...seen.maps.map((m) => dirname(m.path)),
    ...recordedFolders(scope, seen),
    ...foreignFolders(scope, seen),
    ...added,
  ]);
  const places = outermost(scope.places.filter((p) => p.present && p.root.segments.length > 0).map(pathOf));
  return [{ what: 'near', folders: near }, ...(places.length > 0 ? [{ what: 'places' as const, folders: places }] : [])];
}

/** Folders that are there, none of them inside another: a folder with a project file of its own is not looked into from above. */
export function outermost(folders: readonly (string | null)[]): string[] {
  const unique = [...new Set(folders.filter((f): f is string => f !== null && isFolder(f)))];
  return unique.filter((f) => !unique.some((other) => other !== f && isListedWith(f, other)));
}

function isListedWith(folder: string, outer: string): boolean {
  if (!isInside(outer, folder)) return false;
  for (let at = folder; at.length > outer.length; at = dirname(at)) if (readdirSync(at).some(isProjectFile)) return false;
  return true;
}

/** What may not be looked at is no folder to search; whoever names it is told elsewhere. */
function isFolder(path: string): boolean {
  try {
    return statSync(path).isDirectory();
  } catch {
    return false;
  }
}

/** The folders that layers were recorded in, or what is nearest above them and there, a place itself left out. */
function recordedFolders(scope: Scope, seen: MapsSeen): string[] {
  const known = new Map<string, string | null>();
  const nearest = (location: Location): string | null => {
    const key = `${location.place}\n${joined(location.segments.slice(0, -1))}`;
    const before = known.get(key);
    if (before !== undefined) return before;
    let found: string | null = null;
    for (let n = location.segments.length - 1; n > 0 && found === null; n--) {
      const path = realPathOf({ place: location.place, segments: location.segments.slice(0, n) }, scope);
      if (path !== null && isFolder(path) && !isTop(location, n, scope)) found = path;
    }
    known.set(key, found);
    return found;
  };
  return seen.maps.flatMap((m) => m.layers.flatMap(({ judgement: j }) => (j.location ? (nearest(j.location) ?? []) : [])));
}

/** On the command line the whole file system is a place: its first folders (home, mounts) are none to search without being told. */
const MOST_GENERAL = 3;
const isTop = (location: Location, depth: number, scope: Scope): boolean =>
  scope.places.find((p) => p.name === location.place)?.root.segments.length === 0 && depth < MOST_GENERAL;

/**
 * A drive or share that no place claims may be one of the places under another name: where the recorded folder, or its
 * end, stands below a place too, it is looked into.
 */
function foreignFolders(scope: Scope, seen: MapsSeen): string[] {
  const recorded = new Map<string, readonly string[]>();
  for (const { judgement: j } of seen.maps.flatMap((m) => m.layers))
    if (j.foreign) recorded.set(joined(j.foreign.segments.slice(0, -1)), j.foreign.segments.slice(0, -1));
  const places = scope.places.filter((p) => p.present && p.root.segments.length > 0);
  return [...recorded.values()].flatMap((segments) =>
    places.flatMap((place) => {
      for (let n = 0; n < segments.length; n++) {
        const folder = join(pathOf(place), ...segments.slice(n));
        if (isFolder(folder)) return [folder];
      }
      return [];
    }),
  );
}

function realPathOf(location: Location, scope: Scope): string | null {
  const place = scope.places.find((p) => p.name === location.place);
  return place?.present ? join(pathOf(place), ...location.segments) : null;
}
