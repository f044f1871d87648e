import { mapWkb, type Feature } from '@rootmap/core';
import type { Transformer } from '../crs/transformer.js';

const DAMAGED = new Uint8Array(1);

/** Features in another CRS. A shape with no place there becomes one that no writer takes, so that its record is skipped and told. */
export function* moved(features: Iterable<Feature>, to: Transformer): Generator<Feature> {
  for (const feature of features) yield feature.geometry ? { ...feature, geometry: mapWkb(feature.geometry, to) ?? DAMAGED } : feature;
}
