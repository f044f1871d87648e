import { readdirSync, readFileSync, statSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import type { Dataset } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { surveyFolder } from './list-datasets.js';

/** What GDAL 3.6.2 reads in each file of testdata/open (inventory.json beside them). */
interface Entry {
  path: string;
  bytes: number;
  components?: string[];
  layers?: { name: string; features: number; geometry: string; crs: string | null; fields: number }[];
  raster?: { size: [number, number]; bands: number; crs: string; gt: [number, number, number, number, number, number] };
}
const root = 'testdata/open';
const inventory = (JSON.parse(readFileSync(`${root}/inventory.json`, 'utf8').replaceAll(': NaN', ': null')) as { files: Entry[] }).files;
const survey = surveyFolder(root);
const at = (path: string): Dataset[] => survey.datasets.filter((d) => d.group.path === path);

/** GDAL's words for geometry types, in ours. */
const GEOMETRY: Readonly<Record<string, string>> = {
  Point: 'Point',
  '3D Point': 'PointZ',
  'Measured Point': 'PointM',
  'Multi Point': 'MultiPoint',
  '3D Multi Point': 'MultiPointZ',
  'Measured Multi Point': 'MultiPointM',
  'Line String': 'LineString',
  '3D Line String': 'LineStringZ',
  'Measured Line String': 'LineStringM',
  Polygon: 'Polygon',
  '3D Polygon': 'PolygonZ',
  'Measured Polygon': 'PolygonM',
  'Multi Polygon': 'MultiPolygon',
};

describe('every file of the open data agrees with what an independent reader finds', () => {
  test('the inventory is all there', () => expect(inventory.length).toBe(42));
  test.each(inventory.map((e) => [e.path, e] as const))('%s', (path, entry) => {
    const datasets = at(path);
    expect(statSync(join(root, path)).size).toBe(entry.bytes);
    if (entry.components) {
      const stem = basename(path).replace(/\.[^.]*$/, '');
      const own = [datasets[0]!.group.main, ...datasets[0]!.group.companions].map((f) => basename(f.path).slice(stem.length)).sort();
      // Components that are main files of their own are left out (world.gpkg beside world.shp).
      expect(own).toEqual(entry.components.filter((c) => c !== '.gpkg').sort());
    }
    if (entry.raster) return checkRaster(datasets[0]!, entry.raster);
    expect(datasets).toHaveLength(entry.layers!.length);
    for (const layer of entry.layers!)
      checkLayer(
        datasets.find((d) => d.table === null || d.table === layer.name)!,
        layer,
      );
  });
});

function checkLayer(d: Dataset, layer: NonNullable<Entry['layers']>[number]): void {
  expect(d.state).toBe('ok');
  expect(d.featureCount).toBe(layer.features);
  if (d.kind === 'vector' && GEOMETRY[layer.geometry]) expect(d.geometryType).toBe(GEOMETRY[layer.geometry]);
  // GDAL makes up one field where a table has none, and adds none elsewhere.
  if (d.kind !== 'table') expect(d.fields?.length ?? 0).toBe(layer.fields);
  else expect(d.fields!.length).toBe(layer.fields);
  const code = /^EPSG:\d+/.exec(layer.crs ?? '')?.[0] ?? null;
  expect(d.crs?.code ?? null).toBe(code);
  if (layer.crs?.startsWith('no-auth')) expect(d.crs?.name ?? d.crs?.wkt).toBeTruthy();
}

function checkRaster(d: Dataset, raster: NonNullable<Entry['raster']>): void {
  const [c, a, b, f, dd, e] = raster.gt;
  const corners = [[0, 0], [raster.size[0], 0], [0, raster.size[1]], raster.size].map(
    ([col, row]) => [c + a * col! + b * row!, f + dd * col! + e * row!] as const,
  );
  const xs = corners.map((p) => p[0]);
  const ys = corners.map((p) => p[1]);
  expect(d.raster).toMatchObject({ width: raster.size[0], height: raster.size[1], bands: raster.bands });
  expect(d.bbox).toEqual([Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)]);
  expect(d.crs?.code).toBe(/^EPSG:\d+/.exec(raster.crs)![0]);
}

test('the dbf files: a full field name, UTF-8 beyond the BMP, a code page, an empty table', () => {
  expect(at('dbf/watershed-11chars.dbf')[0]!.fields!.some((f) => f.name.length === 11)).toBe(true);
  expect(at('dbf/empty.dbf')[0]).toMatchObject({ state: 'ok', fields: [], featureCount: 2 });
  for (const name of ['codepage', 'utf', 'watershed', 'watershed-specialCharacters'])
    expect(at(`dbf/${name}.dbf`)[0]).toMatchObject({ state: 'ok', kind: 'table' });
});

test('reading leaves nothing beside the files', () => {
  const list = (folder: string): string[] => readdirSync(folder, { recursive: true }).map(String).sort();
  const before = list(root);
  surveyFolder(root);
  expect(list(root)).toEqual(before);
  expect(dirname(root)).toBe('testdata');
});
