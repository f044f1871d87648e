import { geometryKind, kindOfWkb, readFeatures, SHAPE_PARTS, type Dataset, type Feature, type ShapePart } from '@rootmap/core';
import type { NodePlatform } from '../survey/platform.js';

const PART = { point: 'points', line: 'lines', area: 'areas' } as const;

/** Which table a shape goes to, where each kind has its own. */
function partOf(wkb: Uint8Array): ShapePart {
  const kind = geometryKind(kindOfWkb(wkb));
  return kind === null || kind === 'mixed' ? 'others' : PART[kind];
}

/** Kinds of shapes that a dataset has. */
export function partsOf(dataset: Dataset, platform: NodePlatform): ShapePart[] {
  const found = new Set<ShapePart>();
  for (const { geometry } of readFeatures(dataset, platform, { geometry: true, values: false }).features)
    if (geometry) found.add(partOf(geometry));
  return SHAPE_PARTS.filter((part) => found.has(part));
}

/** Records of one part; those without a shape come with the first of them, so that none is lost. */
export function* ofPart(features: Iterable<Feature>, part: ShapePart, isFirst: boolean): Generator<Feature> {
  for (const feature of features) if (feature.geometry ? partOf(feature.geometry) === part : isFirst) yield feature;
}
