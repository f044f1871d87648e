import { parseReference, resolveIn, type Location, type Place, type Reference } from '@rootmap/core';
import { actualLocations } from './actual-locations.js';
import { pathAt } from './plan-move.js';

export interface Reached {
  /** Real path, whatever letters and symbolic links the reference goes through; something need not stand there. */
  readonly path: string;
  readonly reference: Exclude<Reference, { kind: 'service' }>;
}

/** Tells which path a reference of a map reaches; null: a service, or no place that is known. */
export function reachedPaths(places: readonly Place[]): (map: Location, href: string) => Reached | null {
  const actual = actualLocations(places);
  return (map, href) => {
    const parsed = parseReference(href);
    if (!parsed.ok || parsed.value.kind === 'service') return null;
    const target = resolveIn(map, parsed.value, places);
    return target === 'above-root' || 'flavour' in target ? null : { path: pathAt(actual(target), places), reference: parsed.value };
  };
}
