import { join } from 'node:path';
import { parseReference, placeNamed, resolveIn, type Place } from '@rootmap/core';
import { actualLocations } from '../move/actual-locations.js';
import type { KnownProject } from '../move/known-maps.js';
import { pathOf } from '../places/places.js';

/** Real paths of all data that layers name, and how many layers name each; a table counts for its file. */
export function usedPaths(projects: readonly KnownProject[], places: readonly Place[]): Map<string, number> {
  const actual = actualLocations(places);
  const used = new Map<string, number>();
  for (const map of projects.flatMap((p) => p.maps))
    for (const layer of map.file.layers) {
      const named = new Set<string>();
      for (const reference of layer.reference ? [layer.reference, ...layer.others] : layer.others) {
        const parsed = parseReference(reference.href);
        if (!parsed.ok || parsed.value.kind === 'service') continue;
        const target = resolveIn(map.location, parsed.value, places);
        if (target === 'above-root' || 'flavour' in target) continue;
        const real = actual(target);
        named.add(join(pathOf(placeNamed(places, real.place)!), ...real.segments));
      }
      for (const path of named) used.set(path, (used.get(path) ?? 0) + 1);
    }
  return used;
}
