import { expect, test } from '@jest/globals';
import { PLAIN_LABEL, PLAIN_RASTER, plainLook, plainSymbol } from '@rootmap/core';
import type { DraftLayer, LayerDataView, MapDocView, MapLayerView, NewLayerView } from '@rootmap/core/contract';
import { draftLayer } from '../../../test/draft-layer.js';
import { factsOfLayer, layerWords, type LayerFacts } from './layer-facts.js';

const layer = (more: Partial<DraftLayer> = {}): DraftLayer => draftLayer({ look: plainLook('area'), ...more });
const data = (more: Partial<LayerDataView> = {}): LayerDataView =>
  ({ kind: 'area', crs: 'EPSG:32624', crsName: null, isPlaced: true, pixel: null, ...more }) as LayerDataView;
const facts = (more: Partial<LayerDataView> = {}, file: object | null = null): LayerFacts => ({
  data: data(more),
  file:
    file &&
    ({ ...data(more), reach: 'inside', href: '../a.shp', style: { state: 'sound', missing: [] }, ...file } as unknown as MapLayerView),
  fresh: null,
});

test('the file knows a layer first; one that is not saved yet is known by its source', () => {
  const inFile = { id: 'a' } as unknown as MapLayerView;
  const added = { kind: 'line' } as unknown as NewLayerView;
  const doc = { layers: [inFile] } as unknown as MapDocView;
  const fresh = new Map([['/r/b.shp', added]]);
  expect(factsOfLayer(layer({ source: '/r/b.shp' }), doc, fresh)).toEqual({ data: inFile, file: inFile, fresh: null });
  expect(factsOfLayer(layer({ id: 'b', source: '/r/b.shp' }), doc, fresh)).toEqual({ data: added, file: null, fresh: added });
  expect(factsOfLayer(layer({ id: 'c' }), doc, fresh)).toEqual({ data: null, file: null, fresh: null });
});

test('a plain layer in the CRS of its map needs no words; what is not plain has some', () => {
  expect(layerWords(layer(), facts(), 'EPSG:32624')).toEqual([]);
  const byValue = { kind: 'by-value', field: 'kind', entries: [], other: null } as const;
  const rules = { kind: 'rules', rules: [1, 2].map((n) => ({ title: String(n), filter: null, isElse: false, minScale: null, maxScale: null, symbol: plainSymbol('area') })) } as const; // prettier-ignore
  expect(layerWords(layer({ look: byValue, filter: ' depth > 3 ', minScale: 1000 }), facts(), 'EPSG:32624')).toEqual([
    'by kind',
    'filter: depth > 3',
    'by scale',
  ]);
  expect(layerWords(layer({ look: rules, label: { ...PLAIN_LABEL, template: '{name}' } }), facts(), null)).toEqual([
    '2 rules',
    'labels: name',
  ]);
  expect(layerWords(layer({ label: { ...PLAIN_LABEL, template: '{name}, {n} m' } }), facts(), null)).toEqual(['labels: {name}, {n} m']);
});

test('other coordinates are said, and pixels in their unit; nothing is said of a CRS that a table has not', () => {
  const raster = { kind: 'raster', pixel: [0.0083333, 0.0083333] } as const;
  expect(layerWords(layer({ look: PLAIN_RASTER }), facts({ ...raster, crs: 'EPSG:4326' }), 'EPSG:32624')).toEqual([
    'raster, 0.00833 ° pixels',
    'reprojected from EPSG:4326',
  ]);
  expect(layerWords(layer(), facts({ crs: null, crsName: 'Polar of 1911' }), 'EPSG:32624')).toEqual(['reprojected from Polar of 1911']);
  expect(layerWords(layer(), facts({ isPlaced: false }), 'EPSG:32624')).toEqual(['CRS not known']);
  expect(layerWords(layer(), facts({ isPlaced: false, kind: 'table' }), 'EPSG:32624')).toEqual([]);
});

test('what servers draw, and styles that went astray', () => {
  const service = { reach: 'service', href: 'https://maps.example/wms?SERVICE=WMS&REQUEST=GetMap&LAYERS=a' };
  expect(layerWords(layer(), facts({ isPlaced: false }, service), null)).toEqual(['picture by a server']);
  const style = (state: string, missing: string[] = []) => facts({}, { style: { state, missing } });
  expect(layerWords(layer(), style('adrift'), null)).toEqual(['its style is missing: drawn plainly']);
  expect(layerWords(layer(), style('unreadable'), null)).toEqual(['its style cannot be read: drawn plainly']);
  expect(layerWords(layer(), style('sound', ['a.svg', 'b.svg']), null)).toEqual(['2 pictures missing']);
});
