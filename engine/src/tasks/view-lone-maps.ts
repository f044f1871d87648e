import { explain, ProblemError, type Place, isInOrder } from '@rootmap/core';
import type { StrayMapsView } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { mapsInPlaces } from '../mend/stray-maps.js';
import { readMaps, type MapSeen } from '../project/read-maps.js';
import { findScope, type Scope } from '../project/scope.js';
import { titleOf } from './view-mend.js';

export interface StrayMaps extends Pick<StrayMapsView, 'isStopped'> {
  readonly maps: readonly (Omit<StrayMapsView['maps'][number], 'at'> & { readonly path: string })[];
}

/** One map that can be read. Throws a sentence where it cannot. */
export function aboutMap(scope: Scope): { title: string; layers: number } {
  const { maps, damaged } = readMaps(scope);
  if (!maps[0]) throw new ProblemError({ code: 'wrong-use', message: damaged[0]?.message ?? `${scope.named} cannot be read.` });
  return { title: titleOf(maps[0]), layers: maps[0].layers.length };
}

/** The maps in the places that belong to no project, each with how many of its layers are not sound. */
export function viewStrayMaps(places: readonly Place[], onFolder: (path: string) => void): StrayMaps {
  const { maps, isStopped } = mapsInPlaces(places, onFolder);
  return { isStopped, maps: maps.filter((m) => !m.isInProject).map(({ path }) => ({ path, ...stateOf(path, places) })) };
}

function stateOf(path: string, places: readonly Place[]): Omit<StrayMaps['maps'][number], 'path'> {
  const name = basename(path);
  const told = (damaged: string) => ({ title: name, layers: 0, broken: 0, damaged });
  try {
    const { maps, damaged } = readMaps(findScope(path, { places }));
    return maps[0] ? { ...countsOf(maps[0]), damaged: null } : told(damaged[0]?.message ?? 'it cannot be read');
  } catch (error) {
    if (error instanceof ProblemError) return told(explain(error.problem));
    throw error;
  }
}

const countsOf = (map: MapSeen) => ({
  title: titleOf(map),
  layers: map.layers.length,
  broken: map.layers.filter((l) => !isInOrder(l.judgement.state)).length,
});
