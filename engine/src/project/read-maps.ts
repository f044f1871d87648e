import { statSync } from 'node:fs';
import {
  explain,
  fail,
  judgeLayer,
  LAYER_STATES,
  parseMapFile,
  ProblemError,
  type Judgement,
  type LayerState,
  type Location,
  type MapFile,
  type MapLayer,
  type Result,
  type Surroundings,
} from '@rootmap/core';
import { readFileSync } from '../disk/files.js';
import { diskProblem } from '../disk/disk-problem.js';
import { Looker } from '../survey/look.js';
import { linkLocations, locationOf, type Scope } from './scope.js';
import { withStyleNeeds } from './style-needs.js';

/** A map file is small; one beyond this is something else under its name. */
const LARGEST_MAP_BYTES = 64 * 1024 * 1024;

export interface LayerSeen {
  readonly layer: MapLayer;
  readonly judgement: Judgement;
}
export interface MapSeen {
  readonly path: string;
  readonly location: Location;
  readonly bytes: Buffer;
  readonly file: MapFile;
  readonly layers: readonly LayerSeen[];
}
export interface MapDamaged {
  readonly path: string;
  readonly message: string;
}
export interface MapsSeen {
  readonly maps: readonly MapSeen[];
  readonly damaged: readonly MapDamaged[];
  readonly looker: Looker;
  readonly surroundings: Surroundings;
}

/** Reads a map's bytes and parses them. UTF-8 that is not valid is refused, since writing would change it. */
export function readMap(path: string): Result<{ bytes: Buffer; file: MapFile }> {
  try {
    const size = statSync(path).size;
    if (size > LARGEST_MAP_BYTES) return fail({ code: 'too-large', file: path, bytes: size, limitBytes: LARGEST_MAP_BYTES });
    const bytes = readFileSync(path);
    const text = bytes.toString('utf8');
    if (!Buffer.from(text, 'utf8').equals(bytes))
      return fail({ code: 'wrong-shape', file: path, member: 'text', expected: 'UTF-8 throughout' });
    const file = parseMapFile(path, text);
    return file.ok ? { ok: true, value: { bytes, file: file.value } } : file;
  } catch (error) {
    const problem = diskProblem(error, path);
    if (!problem) throw error;
    return fail(problem);
  }
}

export function surroundingsOf(scope: Scope, looker: Looker): Surroundings {
  return {
    places: scope.places,
    root: scope.root ? locationOf(scope.root, scope.places) : null,
    links: linkLocations(scope).map((l) => l.location),
    ...(scope.asked ? { asked: scope.asked } : {}),
    look: (location, table) => looker.look(location, table).found,
  };
}

/** State and reach of every layer of every map in scope; a damaged map is told and the rest goes on, unless it was named alone. */
export function readMaps(scope: Scope, looker = new Looker(scope.places)): MapsSeen {
  const surroundings = surroundingsOf(scope, looker);
  const maps: MapSeen[] = [];
  const damaged: MapDamaged[] = [];
  for (const path of scope.maps) {
    const read = readMap(path);
    if (read.ok) maps.push(judgeMap(path, read.value.bytes, read.value.file, surroundings));
    else if (path === scope.named) throw new ProblemError(read.problem);
    else damaged.push({ path, message: explain(read.problem) });
  }
  return { maps, damaged, looker, surroundings };
}

export function judgeMap(path: string, bytes: Buffer, file: MapFile, surroundings: Surroundings): MapSeen {
  const location = locationOf(path, surroundings.places);
  return {
    path,
    location,
    bytes,
    file,
    layers: file.layers.map((bare) => {
      const layer = withStyleNeeds(bare, location, surroundings.places);
      return { layer, judgement: judgeLayer(location, layer, surroundings) };
    }),
  };
}

export type StateTotals = Record<LayerState, number>;
export function totalsOf(maps: readonly MapSeen[]): StateTotals {
  const totals = Object.fromEntries(LAYER_STATES.map((s) => [s, 0])) as StateTotals;
  for (const map of maps) for (const { judgement } of map.layers) totals[judgement.state]++;
  return totals;
}
