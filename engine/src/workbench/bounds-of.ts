import { realPath } from '../disk/real-path.js';
import type { Bounds } from '../disk/bounds.js';
import { realRoot, type PlaceSetting } from '../places/places.js';
import type { PlaceRepository } from '../repositories/place-repository.js';

const BOUNDS_MS = 250;

/** Bounds of a server, looked up anew from time to time: a place that is back may stand elsewhere. */
export function boundsOf(places: PlaceRepository, dataFolder: string): () => Bounds {
  const own = [...new Set([dataFolder, realPath(dataFolder)])];
  let known: Bounds = { places: [], own };
  let of: readonly PlaceSetting[] | null = null;
  let atMs = 0;
  return () => {
    if (of === places.all() && performance.now() - atMs < BOUNDS_MS) return known;
    [of, atMs] = [places.all(), performance.now()];
    return (known = { places: places.opened().map(realRoot), own });
  };
}
