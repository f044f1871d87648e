import { expect, test } from '@jest/globals';
import type { NewLayerView } from '@rootmap/core/contract';
import { newDraftLayer, withNewLayers } from './add-layers.js';

const view = (title: string, kind: NewLayerView['kind']): NewLayerView => ({
  title,
  kind,
  href: `../${title}`,
  otherProject: null,
  reach: 'inside',
  dataset: title,
  count: 1,
  fields: [],
  crs: null,
  crsName: null,
  isPlaced: false,
  pixel: null,
  degrees: null,
  bbox: null,
});
const kinds: Readonly<Record<string, NewLayerView['kind']>> = {
  depth: 'raster',
  beds: 'area',
  fairway: 'line',
  gauges: 'point',
  bays: 'area',
};
const kindOf = (l: { title: string }): NewLayerView['kind'] => kinds[l.title]!;
const add = (layers: ReturnType<typeof withNewLayers>, names: readonly string[]) =>
  withNewLayers(
    layers,
    names,
    names.map((n) => view(n, kinds[n]!)),
    kindOf,
  );

// Common practice, no source: rasters lie below, then areas, lines, points.
test('a raster and shapes, added at once in any order', () => {
  expect(add([], ['depth', 'gauges', 'beds', 'fairway']).map((l) => l.title)).toEqual(['gauges', 'fairway', 'beds', 'depth']);
});
test('new layers come above those of their kind, and below what belongs over them', () => {
  const there = add([], ['depth', 'gauges', 'beds']);
  expect(add(there, ['bays', 'fairway']).map((l) => l.title)).toEqual(['gauges', 'fairway', 'bays', 'beds', 'depth']);
});
test('each has an id and a tone of its own', () => {
  const [a, b] = [newDraftLayer('/a', view('beds', 'area'), 0), newDraftLayer('/b', view('bays', 'area'), 1)];
  expect(a.id).not.toBe(b.id);
  expect(a.look).not.toEqual(b.look);
});
