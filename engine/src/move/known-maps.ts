import { statSync } from 'node:fs';
import { explain, type Location, type MapFile, type Place, type ProjectFile } from '@rootmap/core';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import { readMap, type MapDamaged } from '../project/read-maps.js';
import { findScope, locationOf } from '../project/scope.js';

export interface KnownMap {
  readonly path: string;
  readonly location: Location;
  readonly bytes: Buffer;
  readonly file: MapFile;
}

export interface KnownProject {
  readonly root: string;
  readonly location: Location;
  readonly projectFile: string | null;
  readonly project: ProjectFile | null;
  readonly projectBytes: Buffer | null;
  readonly maps: readonly KnownMap[];
  readonly damaged: readonly MapDamaged[];
}

/** Maps that were parsed, by path; each stays as long as size and time of its file are the same. */
const parsed = new Map<string, { readonly key: string; readonly bytes: Buffer; readonly file: MapFile }>();
const MOST_PARSED = 2000;

/** Every project whose maps may refer to what moves. A root that cannot be opened now is passed over: it is absent. */
export function knownProjects(roots: readonly string[], places: readonly Place[]): KnownProject[] {
  return [...new Set(roots)].flatMap((root) => {
    if (!statSync(root, { throwIfNoEntry: false })?.isDirectory()) return [];
    const scope = findScope(root, { places, root });
    const damaged: MapDamaged[] = [];
    const maps = scope.maps.flatMap((path): KnownMap[] => {
      const map = readKnown(path, damaged);
      return map ? [{ path, location: locationOf(path, places), ...map }] : [];
    });
    const projectBytes = scope.projectFile ? readFileSync(scope.projectFile, null, MOST_NOTE_BYTES) : null;
    const location = locationOf(root, places);
    return [{ root, location, projectFile: scope.projectFile, project: scope.project, projectBytes, maps, damaged }];
  });
}

function readKnown(path: string, damaged: MapDamaged[]): { bytes: Buffer; file: MapFile } | null {
  const stat = statSync(path, { throwIfNoEntry: false, bigint: true });
  const key = stat ? `${stat.ino} ${stat.size} ${stat.mtimeNs} ${stat.ctimeNs}` : '';
  const known = parsed.get(path);
  if (known?.key === key) return known;
  const read = readMap(path);
  if (!read.ok) {
    damaged.push({ path, message: explain(read.problem) });
    return null;
  }
  if (parsed.size >= MOST_PARSED) parsed.clear();
  parsed.set(path, { key, ...read.value });
  return read.value;
}
