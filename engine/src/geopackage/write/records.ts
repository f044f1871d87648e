import { commonKind, kindOfWkb, mapWkb, type Feature } from '@rootmap/core';
import type { Transformer } from '../../crs/transformer.js';

/** The one kind that holds all shapes: a header may say lines where some have several parts. */
export function kindOf(features: Iterable<Feature>): string {
  const kinds = new Set<string>();
  for (const { geometry } of features) if (geometry) kinds.add(kindOfWkb(geometry) ?? 'Geometry');
  return commonKind(kinds) ?? 'Geometry';
}

const DAMAGED = new Uint8Array(1);

/** Features in another CRS. A shape with no place there becomes one that no writer takes, so that its record is skipped and told. */
export function* moved(features: Iterable<Feature>, to: Transformer): Generator<Feature> {
  for (const feature of features) yield feature.geometry ? { ...feature, geometry: mapWkb(feature.geometry, to) ?? DAMAGED } : feature;
}
