import { expect, test } from '@jest/globals';
import { patchText } from '../json/patch-text';
import { must } from '../problem';
import { patchAddLayers } from './add-layers';
import { parseMapFile } from './map-file';
import { writeMapFile, type NewLayer } from './write-map';

const layer = (id: string, geometryType: string | null, isRaster = false): NewLayer => ({
  id,
  title: id,
  format: 'shapefile',
  href: `../${id}.shp`,
  fingerprint: {
    v: 1,
    format: 'shapefile',
    geometryType,
    count: 1,
    vertices: null,
    fields: [],
    extent: null,
    crs: null,
    raster: isRaster ? { width: 1, height: 1, pixel: [1, 1], bands: 1 } : null,
    bytes: {},
    modified: null,
    grid: null,
    hash: null,
  } as never,
});
const map = (layers: readonly NewLayer[]): string =>
  writeMapFile({ id: 'urn:m', title: 'M', updated: '2026-01-01T00:00:00Z', crs: null, storedForm: 'relative', layers });
const added = (text: string, layers: readonly NewLayer[]): string =>
  patchText(text, patchAddLayers(must(parseMapFile('m', text)), layers, '2026-02-02T00:00:00Z'));
const order = (text: string): string[] => must(parseMapFile('m', text)).layers.map((l) => l.id);

test('points go over lines over areas over rasters; what is not known keeps its place', () => {
  const text = map([layer('line', 'LineString'), layer('odd', null), layer('area', 'Polygon')]);
  expect(
    order(added(text, [layer('r', null, true), layer('p', 'Point'), layer('a2', 'MultiPolygonZ'), layer('l2', 'MultiLineString')])),
  ).toEqual(['p', 'line', 'odd', 'l2', 'area', 'a2', 'r']);
});
test('the text around them stays byte for byte, in the manner of the file', () => {
  const text = map([layer('line', 'LineString'), layer('area', 'Polygon')]);
  const now = added(text, [layer('p', 'Point')]);
  const lines = now.split('\n');
  const kept = text.split('\n').filter((l) => !lines.includes(l));
  expect(kept).toEqual([]);
  expect(now).toBe(
    map([layer('p', 'Point'), layer('line', 'LineString'), layer('area', 'Polygon')])
      .replace('2026-01-01', '2026-01-01')
      .replace(/("id": "p"[\s\S]*?"updated": ")2026-01-01/, '$12026-02-02'),
  );
});
test('into an empty map, and into a compact one', () => {
  expect(order(added(map([]), [layer('p', 'Point'), layer('l', 'LineString')]))).toEqual(['p', 'l']);
  const compact = '{"type":"FeatureCollection","features":[{"type":"Feature","id":"x","properties":{"title":"X"}}]}';
  const now = added(compact, [layer('p', 'Point')]);
  expect(now).not.toContain('\n');
  expect(now.startsWith(compact.slice(0, -2))).toBe(true);
});
