import { statSync } from 'node:fs';
import {
  byCodePoint,
  isMapFile,
  isProjectFile,
  locate,
  locateHere,
  must,
  parseAddress,
  parseProjectFile,
  ProblemError,
  roleOf,
  type Asked,
  type Location,
  type Place,
  type ProjectFile,
} from '@rootmap/core';
import { asSpelled, realPath } from '../disk/real-path.js';
import { dirname, join, resolve, toAddress, below } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readdirSync, readFileSync } from '../disk/files.js';
import { onDisk } from '../disk/disk-problem.js';
import { listFiles } from '../survey/list-files.js';
import { pathOf, realRoot } from '../places/places.js';

/** What a command or a view works on: a project with its places, and what was named of it. */
export interface Scope {
  readonly places: readonly Place[];
  /** Absolute path of the root; null for a lone map. */
  readonly root: string | null;
  readonly projectFile: string | null;
  readonly project: ProjectFile | null;
  /** The folder or map that was named, absolute. */
  readonly named: string;
  /** Absolute paths of the maps, by code point. */
  readonly maps: readonly string[];
  /** What came of asking services, by their addresses; left out: nobody asked. */
  readonly asked?: ReadonlyMap<string, Asked>;
}

/** A scope that has a root: everything but a map by itself. */
export interface RootedScope extends Scope {
  readonly root: string;
}

export const isRooted = (scope: Scope): scope is RootedScope => scope.root !== null;

/** Throws `wrong-use` for a map that is in no project. */
export function rooted(scope: Scope): RootedScope {
  if (!isRooted(scope))
    throw new ProblemError({ code: 'wrong-use', message: `${scope.named} is a map in no project. Open the folder that it belongs to.` });
  return scope;
}

export interface FindOptions {
  readonly places: readonly Place[];
  /** Overrides the search for a root. */
  readonly root?: string;
  /** Leaves the maps to be found by a survey that follows anyway. */
  readonly withoutMaps?: boolean;
}

/** The project around a folder or a map file. Throws `missing`, `two-project-files` and what reading refuses. */
export function findScope(named: string, options: FindOptions): Scope {
  const path = asSpelled(resolve(named));
  const stat = onDisk(path, () => statSync(path));
  const isFolder = stat.isDirectory();
  if (!isFolder && !isMapFile(path))
    throw new ProblemError({ code: 'wrong-use', message: `${path} is neither a folder nor a map file (*.owc.json).` });
  const start = isFolder ? path : dirname(path);
  const found = options.root ? rootAt(asSpelled(resolve(options.root))) : walkUp(start, options.places);
  const root = found.root ?? (isFolder ? path : null);
  const projectFile = found.file;
  const project = projectFile
    ? must(
        parseProjectFile(
          projectFile,
          onDisk(projectFile, () => readFileSync(projectFile, 'utf8', MOST_NOTE_BYTES)),
        ),
      )
    : null;
  const maps = !isFolder ? [path] : options.withoutMaps ? [] : mapsBelow(path, options.places);
  return { places: options.places, root, projectFile, project, named: path, maps };
}

const rootAt = (root: string): { root: string; file: string | null } => ({ root, file: projectFileIn(root) });

/** The one project file of a folder; null: none. Two are an error. */
export function projectFileIn(folder: string): string | null {
  const files = onDisk(folder, () => readdirSync(folder))
    .filter(isProjectFile)
    .sort(byCodePoint);
  if (files.length > 1) throw new ProblemError({ code: 'two-project-files', folder, files });
  return files.length ? join(folder, files[0]!) : null;
}

function walkUp(start: string, places: readonly Place[]): { root: string | null; file: string | null } {
  const limits = new Set(places.filter((p) => p.root.segments.length > 0).map(pathOf));
  for (let folder = start; ; folder = dirname(folder)) {
    const file = projectFileIn(folder);
    if (file) return { root: folder, file };
    if (limits.has(folder) || folder === dirname(folder)) return { root: null, file: null };
  }
}

/** Map files below a folder: no dot folders, no folders with a project file of their own. */
function mapsBelow(folder: string, places: readonly Place[]): string[] {
  return listFiles(folder, { confinedTo: confinementOf(folder, places), closely: (names) => new Set(names.filter(isMapFile)) })
    .files.filter((f) => isMapFile(f.path)) // a container of another program is looked at whole
    .map((f) => join(folder, f.path))
    .sort(byCodePoint);
}

/** The real folder of the place that a path is in: links may not lead out of it. */
export function confinementOf(path: string, places: readonly Place[]): string {
  const location = locateHere(toAddress(path), places);
  const place = location && places.find((p) => p.name === location.place);
  return place ? realRoot(place) : onDisk(path, () => realPath(path));
}

/** A real absolute path as a location in one of the places. Throws `outside-places`. */
export function locationOf(path: string, places: readonly Place[]): Location {
  const location = locateHere(toAddress(path), places);
  if (!location) throw new ProblemError({ code: 'outside-places', path, why: 'it is in none of the places' });
  return location;
}

/** Name of the place that a folder stands in. Throws `outside-places`. */
export const placeNameOf = (folder: string, places: readonly Place[]): string => locationOf(folder, places).place;

/** Where a project's linked folders are: `path` is tried first, then `address`. Absent and unknown ones are left out. */
export function linkLocations(scope: Scope): { name: string; location: Location }[] {
  const { root, project, places } = scope;
  if (!root || !project) return [];
  return project.links.flatMap((link) => {
    const candidates: (Location | null)[] = [];
    if (link.path !== null) candidates.push(locateHere(toAddress(resolve(root, link.path)), places));
    if (link.address !== null) {
      const parsed = parseAddress(link.address);
      candidates.push(parsed.ok ? locate(parsed.value, places) : null);
    }
    const known = candidates.filter((c) => c !== null);
    const there = known.find((c) => isThere(c, places)) ?? known[0];
    return there ? [{ name: link.name, location: there }] : [];
  });
}

/** Linked folders that are there: names and real paths. */
export function presentLinks(scope: Scope): { name: string; folder: string }[] {
  return linkLocations(scope).flatMap(({ name, location }) => {
    const place = scope.places.find((p) => p.name === location.place);
    return place && isThere(location, scope.places) ? [{ name, folder: join(pathOf(place), ...location.segments) }] : [];
  });
}

/** Real paths of the linked folders that are there. */
export const linkFolders = (scope: Scope): string[] => presentLinks(scope).map((l) => l.folder);

/** Whether something is in a folder of the project that holds originals. */
export function amongOriginals({ root, project }: RootedScope, path: string): boolean {
  const inside = below(root, path);
  return inside !== null && roleOf(inside, project?.folders ?? {}) === 'originals';
}

/** Whether a folder stands there, and its place is here. */
export function isThere(location: Location, places: readonly Place[]): boolean {
  const place = places.find((p) => p.name === location.place);
  return !!place?.present && statSync(join(pathOf(place), ...location.segments), { throwIfNoEntry: false })?.isDirectory() === true;
}
