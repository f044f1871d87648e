import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '../disk/native-path.js';
import { openPlace, wholeDisks } from '../places/places.js';
import type { FoundDataset } from '../project/find-dataset.js';
import type { Scope } from '../project/scope.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { planExport } from './plan-export.js';
import { areAlike, writeRasterExport } from './raster-export.js';

/* GDAL makes the rasters and judges what was exported of them, value by value. */
const SCRIPT = 'engine/test/matrix/raster_export.py';
const python = (...args: string[]): string => execFileSync('/usr/bin/python3', [SCRIPT, ...args], { encoding: 'utf8' });

let folder = '';
let found: (name: string) => FoundDataset;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-rasters-'));
  mkdirSync(join(folder, 'from'));
  python('make', join(folder, 'from'));
  const { datasets } = surveyFolder(join(folder, 'from'));
  found = (name) => ({ folder: join(folder, 'from'), dataset: datasets.find((d) => d.group.path === name)! });
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const bare: Scope = { places: wholeDisks([]).map(openPlace), root: null, projectFile: null, project: null, named: '/', maps: [] };
let n = 0;
async function exported(name: string, bands: readonly number[] = []) {
  const path = join(folder, `e${n++}.tif`);
  const plan = planExport(bare, found(name), { format: 'geotiff', crs: null, bands }, path, 'test');
  expect([name, plan.why]).toEqual([name, null]);
  const done = await writeRasterExport(found(name), { bands, composite: null }, path, () => undefined);
  return { plan, done, path };
}
const against = (name: string, path: string, bands: string) =>
  JSON.parse(python('compare', join(folder, 'from', name), path, bands)) as Record<string, unknown>;

describe('a raster as a GeoTIFF, held against it by GDAL', () => {
  test.each([
    ['heights.tif', '1', 'Float32', []],
    ['depths16.tif', '1', 'Float32', []],
    ['exact.tif', '1', 'Float64', []],
    ['counts32.tif', '1', 'Float64', []],
    ['three.tif', '1,2,3', 'Float32', []],
    ['three.tif', '3,1', 'Float32', [3, 1]],
    ['photo.tif', '1,2,3', 'Byte', []],
    ['photo.tif', '2', 'Float32', [2]],
    ['south.tif', '1', 'Float32', []],
    ['degrees.tif', '1', 'Float32', []],
    ['nowhere.tif', '1', 'Float32', []],
    ['grid.asc', '1', 'Float32', []],
    ['cover.gpkg', '1', 'Float32', []],
    ['tiles.gpkg', '1,2,3', 'Byte', []],
  ] as const)('%s, bands %s: %s', async (name, bands, type, chosen) => {
    const { done, path } = await exported(name, chosen);
    const isColour = type === 'Byte';
    expect(against(name, path, bands)).toMatchObject({
      place: true,
      crs: name === 'grid.asc' ? expect.anything() : true,
      same: true,
      type,
      bands: isColour ? 4 : bands.split(',').length,
      ...(isColour ? { opacity: 255 } : {}),
    });
    const isTiles = name.endsWith('.gpkg'); // no other reader here reads those of a geodatabase
    expect(done.check).toMatchObject({
      by: isTiles ? 'own' : 'another',
      pixels: 37 * 29 * (isColour ? 1 : bands.split(',').length),
    });
  });

  test('opacity comes along', async () => {
    const { path, done } = await exported('cut.tif');
    expect(against('cut.tif', path, '1,2,3,4')).toMatchObject({ same: true, bands: 4 });
    expect(done.check?.by).toBe('another');
  });
});

test('what cannot be is said before: a band that is not there, a name that is taken, records as pixels', async () => {
  const plan = (name: string, bands: readonly number[], path = join(folder, 'new.tif')) =>
    planExport(bare, found(name), { format: 'geotiff', crs: null, bands }, path, 'test');
  expect(plan('three.tif', [4]).why).toBe('it has 3 bands of numbers, and no 4');
  const { path } = await exported('heights.tif');
  expect(plan('heights.tif', [], path).why).toMatch(/is there already/);
  expect(plan('nowhere.tif', []).losses).toMatchObject([{ what: 'nobody knows its CRS, and the file says none' }]);
  expect(() => planExport(bare, found('three.tif'), { format: 'csv', crs: null }, join(folder, 'x.csv'), 'test')).toThrow(
    'A raster is exported as a GeoTIFF.',
  );
});

describe('the judge of an export', () => {
  const values = (...v: number[]) => ({ values: Float64Array.from(v) });
  const colours = (...v: number[]) => ({ colours: Uint8Array.from(v) });
  test('one other value, one that is missing, another kind are not alike', () => {
    expect(areAlike(values(1, NaN, 3), values(1, NaN, 3), 3, false)).toBe(true);
    expect(areAlike(values(1, NaN, 3), values(1, NaN, 3.0000001), 3, false)).toBe(false);
    expect(areAlike(values(1, NaN, 3), values(1, 0, 3), 3, false)).toBe(false);
    expect(areAlike(values(1, 2, 3), values(1, 2, NaN), 3, false)).toBe(false);
    expect(areAlike(values(1), colours(1), 1, false)).toBe(false);
    expect(areAlike(values(1, 2), values(1), 2, false)).toBe(false);
  });
  test('south first is turned before; the colour of what nobody sees does not count', () => {
    expect(areAlike(values(1, 2, 3, 4), values(3, 4, 1, 2), 2, true)).toBe(true);
    expect(areAlike(values(1, 2, 3, 4), values(1, 2, 3, 4), 2, true)).toBe(false);
    expect(areAlike(colours(1, 2, 3, 0), colours(9, 9, 9, 0), 1, false)).toBe(true);
    expect(areAlike(colours(1, 2, 3, 255), colours(1, 2, 4, 255), 1, false)).toBe(false);
  });
});
