import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { execFileSync } from 'node:child_process';
import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import { createSchema } from '../geopackage-write/schema.js';
import { writeRaster } from '../geopackage-write/write-raster.js';
import { platformBelow } from '../survey/platform.js';
import { openPixels } from '../pixels/open-pixels.js';
import { findDataset } from '../project/find-dataset.js';
import { faultOf, gdal } from '../../test/geopackage-validator.js';
import { checkGeodatabase } from './check-geodatabase.js';
import { compareRaster } from './compare-raster.js';
import { secondEyes } from './second-eyes.js';
import { planImport } from './plan-import.js';
import { writeImport } from './write-import.js';
import sharp from 'sharp';
import { ImportWorld } from '../../test/import-world.js';

const isValid = (path: string): boolean => faultOf(path) === null;

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
});
afterEach(() => w.close());

describe('rasters', () => {
  // The open data as it is, larger than a tile, in bytes, in three bands, and with a palette.
  test.each([
    ['elev', []],
    ['grain', []],
    ['elev', ['-outsize', '700', '500', '-r', 'bilinear', '-ot', 'Float32', '-a_nodata', '-1']],
    ['elev', ['-outsize', '300', '600', '-ot', 'Byte', '-scale', '-co', 'TILED=YES', '-co', 'COMPRESS=LZW']],
    ['elev', ['-b', '1', '-b', '1', '-b', '1', '-ot', 'Byte', '-scale', '-colorinterp', 'red,green,blue', '-co', 'COMPRESS=DEFLATE']],
  ] as const)('%s %j: every pixel as gdallocationinfo reads it', async (name, options) => {
    gdal('gdal_translate', '-q', ...options, `testdata/open/spdata/raster/${name}.tif`, w.t.at('p/r.tif'));
    const { receipts, plan } = await w.bringIn('r.gpkg', ['r.tif']);
    expect([plan.items[0]!.why, receipts[0]!.isEqual]).toEqual([null, true]);
    const path = w.t.at('p/r.gpkg');
    expect(isValid(path)).toBe(true);
    expect(checkGeodatabase(path)).toEqual([]);
    const info = JSON.parse(gdal('gdalinfo', '-json', path)) as { bands: { overviews?: unknown[] }[]; geoTransform: number[] };
    const before = JSON.parse(gdal('gdalinfo', '-json', w.t.at('p/r.tif'))) as {
      size: [number, number];
      geoTransform: number[];
      bands: { noDataValue?: number }[];
    };
    expect(info.bands[0]!.overviews?.length ?? 0).toBe(Math.max(0, Math.ceil(Math.log2(Math.max(...before.size) / 256))));
    const nodata = before.bands[0]!.noDataValue;
    const [left, px, , top, , py] = before.geoTransform as [number, number, number, number, number, number];
    const at = Array.from({ length: 30 }, (_, i) => [(i * 7919) % before.size[0], (i * 104729) % before.size[1]] as const);
    const points = at.map(([c, r]) => `${left + (c + 0.5) * px} ${top + (r + 0.5) * py}`).join('\n');
    const values = (file: string): number[] =>
      execFileSync('gdallocationinfo', ['-valonly', '-geoloc', '-b', '1', file], { input: points })
        .toString()
        .trim()
        .split('\n')
        .map(Number);
    const theirs = values(w.t.at('p/r.tif'));
    // The tables are read here as GDAL reads them, at the same places.
    const table = findDataset(w.scope(), `${path}#r`);
    const pixels = (await openPixels(w.t.at('p'), table.dataset.group, 'r', platformBelow(w.t.at('p'))))!;
    const own = await pixels.values(
      Int32Array.from(at, ([c]) => c),
      Int32Array.from(at, ([, r]) => r),
      1,
    );
    if (own) values(path).forEach((v, i) => expect(Number.isNaN(own[i]!) ? -9999 : own[i]!).toBeCloseTo(v, 3));
    pixels.close();
    // What was no value in the one is none in the other.
    values(path).forEach((v, i) => (v === -9999 ? expect(theirs[i]).toBe(nodata) : expect(v).toBeCloseTo(theirs[i]!, 3)));
  });
});

test.each(['coverage', 'tiles'])('a pixel that is written wrongly is found on reading back: %s', async (kind) => {
  const scaled = kind === 'tiles' ? ['-b', '1', '-b', '1', '-b', '1', '-ot', 'Byte', '-scale', '-colorinterp', 'red,green,blue'] : [];
  gdal('gdal_translate', '-q', ...scaled, 'testdata/open/spdata/raster/elev.tif', w.t.at('p/r.tif'));
  const { folder, dataset } = w.find(w.t.at('p/r.tif'));
  const pixels = (await openPixels(folder, dataset.group, null, platformBelow(folder)))!;
  const db = new Database(w.t.at('r.gpkg'));
  db.unsafeMode(true);
  createSchema(db);
  const written = await writeRaster(db, { name: 'r', crs: null, extent: dataset.bbox! }, pixels);
  const eyes = (await secondEyes({ folder, dataset }, platformBelow(folder)))!;
  const count = eyes.width * eyes.height;
  expect([written.kind, await compareRaster(db, 'r', written, eyes, false)]).toEqual([kind, { pixels: count, rounded: 0, isEqual: true }]);
  const tiles = db.prepare<[], { id: number; data: Buffer }>('SELECT id, tile_data AS data FROM r ORDER BY zoom_level DESC').all();
  const spoiled =
    kind === 'coverage'
      ? Buffer.from(tiles[0]!.data.map((b, i) => (i >= 8 && i < 4000 ? 7 : b)))
      : await sharp({ create: { width: 256, height: 256, channels: 3, background: '#123456' } })
          .png()
          .toBuffer();
  db.prepare('UPDATE r SET tile_data = ? WHERE id = ?').run(spoiled, tiles[0]!.id);
  expect((await compareRaster(db, 'r', written, eyes, false)).isEqual).toBe(false);
  // One that is left out is missed.
  db.prepare('DELETE FROM r WHERE id = ?').run(tiles[0]!.id);
  expect((await compareRaster(db, 'r', written, eyes, false)).isEqual).toBe(false);
  db.close();
  pixels.close();
});

describe('what is in a raster and not in a geodatabase', () => {
  const made = (name: string, ...options: string[]): void =>
    void gdal('gdal_translate', '-q', ...options, 'testdata/open/spdata/raster/elev.tif', w.t.at('p', name));

  test('bands, digits and colours are told before and after; what is rounded is counted', async () => {
    made('bands.tif', '-b', '1', '-b', '1', '-b', '1');
    made('wide.tif', '-ot', 'Int32', '-scale', '0', '1', '100000001', '100000003');
    const { receipts, plan } = await w.bringIn('r.gpkg', ['bands.tif', 'wide.tif']);
    expect(plan.items.map((i) => i.losses)).toEqual([
      [{ code: 'bands', what: 'bands beyond the first', count: 2 }],
      [{ code: 'digits', what: expect.stringContaining('24 bits'), count: null }],
    ]);
    const wide = receipts[1]!;
    expect(receipts.map((r) => [r.isEqual, r.compared!.isByOthers, r.compared!.pixels === r.compared!.of])).toEqual([
      [true, true, true],
      [true, true, true],
    ]);
    expect(receipts[0]!.losses).toEqual(plan.items[0]!.losses);
    expect(wide.losses).toEqual([{ code: 'rounded', what: expect.any(String), count: expect.any(Number) }]);
    expect(wide.losses[0]!.count).toBeGreaterThan(0);
  });

  test('a PNG of 16 bits comes in as a picture of 8, and that is told', async () => {
    made('deep.png', '-of', 'PNG', '-ot', 'UInt16', '-scale', '0', '40', '0', '65535', '-co', 'WORLDFILE=YES');
    const { receipts, plan } = await w.bringIn('r.gpkg', ['deep.png']);
    const losses = [{ code: 'digits', what: expect.stringContaining('8 bits of a picture'), count: null }];
    expect([plan.items[0]!.losses, receipts[0]!.losses, receipts[0]!.compared!.isByOthers]).toEqual([losses, losses, false]);
  });

  test('one that has its south first has its north first in the table', async () => {
    made('north.tif');
    execFileSync('/usr/bin/python3', [
      '-c',
      `from osgeo import gdal
a = gdal.Open('${w.t.at('p/north.tif')}'); g = a.GetGeoTransform(); b = a.GetRasterBand(1)
o = gdal.GetDriverByName('GTiff').Create('${w.t.at('p/south.tif')}', a.RasterXSize, a.RasterYSize, 1, b.DataType)
o.SetGeoTransform((g[0], g[1], 0, g[3] + g[5] * a.RasterYSize, 0, -g[5])); o.SetProjection(a.GetProjection())
if b.GetNoDataValue() is not None: o.GetRasterBand(1).SetNoDataValue(b.GetNoDataValue())
o.GetRasterBand(1).WriteArray(b.ReadAsArray()[::-1])`,
    ]);
    const { receipts } = await w.bringIn('r.gpkg', ['north.tif', 'south.tif']);
    expect(receipts.map((r) => [r.isEqual, r.compared!.isByOthers])).toEqual([
      [true, true],
      [true, true],
    ]);
    const sums = ['north', 'south'].map(
      (table) => /Checksum=(\d+)/.exec(gdal('gdalinfo', '-checksum', `GPKG:${w.t.at('p/r.gpkg')}:${table}`))![1],
    );
    expect(sums[1]).toBe(sums[0]);
  });

  test('one that cannot be read is left out, with the reason; the others come in', async () => {
    made('good.tif');
    made('packed.tif', '-co', 'COMPRESS=LZMA');
    for (const [name, packing] of [
      ['damaged.tif', 'DEFLATE'],
      ['lerc.tif', 'LERC'],
    ] as const) {
      made(name, '-outsize', '300', '300', '-r', 'bilinear', '-co', `COMPRESS=${packing}`);
      const path = w.t.at('p', name);
      const bytes = readFileSync(path);
      writeFileSync(path, bytes.fill(0x5a, bytes.length / 2, bytes.length / 2 + 4000));
    }
    writeFileSync(w.t.at('p/cut.tif'), readFileSync(w.t.at('p/good.tif')).subarray(0, 100));
    const names = ['packed.tif', 'cut.tif', 'damaged.tif', 'good.tif', 'lerc.tif', 'visits.csv'];
    const { receipts, failed, plan } = await w.bringIn('r.gpkg', names);
    expect(plan.items.map((i) => i.why)).toEqual(['its pixels are packed in a way that is not read here', 'it cannot be read', null, null]);
    expect(receipts.map((r) => [r.table, r.isEqual])).toEqual([
      ['good', true],
      ['visits', true],
    ]);
    const why = expect.stringMatching(/^\d blocks? of its pixels (is|are) damaged/);
    expect(failed).toEqual([
      { dataset: w.t.at('p/damaged.tif'), part: null, why },
      { dataset: w.t.at('p/lerc.tif'), part: null, why },
    ]);
    expect(isValid(w.t.at('p/r.gpkg'))).toBe(true);
    await expect(w.bringIn('r.gpkg', ['damaged.tif'])).rejects.toThrow(/of its pixels (is|are) damaged/);
  });

  // A gridded coverage of whole numbers, as GDAL writes it (OGC 17-066r1: pictures of 16 bits, a scale for each tile).
  test('whole numbers of a coverage are read as GDAL reads them', async () => {
    made('short.tif', '-ot', 'Int16', '-a_nodata', '1');
    gdal(
      'gdal_translate',
      '-q',
      '-of',
      'GPKG',
      w.t.at('p/short.tif'),
      w.t.at('p/short.gpkg'),
      '-co',
      'TILE_FORMAT=PNG',
      '-co',
      'RASTER_TABLE=short',
    );
    const table = findDataset(w.scope(), `${w.t.at('p/short.gpkg')}#short`);
    const pixels = (await openPixels(w.t.at('p'), table.dataset.group, 'short', platformBelow(w.t.at('p'))))!;
    const { size } = JSON.parse(gdal('gdalinfo', '-json', w.t.at('p/short.gpkg'))) as { size: [number, number] };
    const at = Array.from({ length: 200 }, (_, i) => [(i * 7919) % size[0], (i * 104729) % size[1]] as const);
    const own = await pixels.values(
      Int32Array.from(at, ([c]) => c),
      Int32Array.from(at, ([, r]) => r),
      1,
    );
    const theirs = execFileSync('gdallocationinfo', ['-valonly', w.t.at('p/short.gpkg')], {
      input: at.map(([c, r]) => `${c} ${r}`).join('\n'),
    })
      .toString()
      .split('\n');
    // Its tiles reach beyond its content: it comes into another geodatabase in its place.
    const { receipts, plan } = await w.bringIn('other.gpkg', ['short.gpkg#short']);
    expect([plan.items[0]!.why, receipts[0]!.isEqual]).toEqual([null, true]);
    const places = at.map(([c, r]) => `${c} ${r}`).join('\n');
    const { geoTransform } = JSON.parse(gdal('gdalinfo', '-json', w.t.at('p/short.gpkg'))) as { geoTransform: number[] };
    const [left, px, , top, , py] = geoTransform as [number, number, number, number, number, number];
    const points = places
      .split('\n')
      .map((p) => p.split(' ').map(Number))
      .map(([c, r]) => `${left + (c! + 0.5) * px} ${top + (r! + 0.5) * py}`);
    const found = execFileSync('gdallocationinfo', ['-valonly', '-geoloc', w.t.at('p/other.gpkg')], { input: points.join('\n') })
      .toString()
      .split('\n');
    at.forEach((_, i) => expect([i, found[i] === '-9999' ? '-32768' : found[i]]).toEqual([i, theirs[i]]));
    expect(isValid(w.t.at('p/other.gpkg'))).toBe(true);
    at.forEach((_, i) => expect([i, Number.isNaN(own![i]!) ? -32768 : own![i]]).toEqual([i, Number(theirs[i])]));
    expect(own!.some((v) => Number.isNaN(v))).toBe(true);
    pixels.close();
  });
});

describe('rasters that are turned', () => {
  test('stay where they are, with the reason', () => {
    cpSync('testdata/open/sf/tif/geomatrix.tif', w.t.at('p/r.tif'));
    expect(planImport(w.scope(), w.find, w.t.at('p/r.gpkg'), w.items('r.tif'), null, 'test').items[0]!.why).toContain('it is turned');
  });
});

// Outside reference: what gdallocationinfo finds in that band of the source.
test('one band of several comes in as numbers, judged by another reader in that band; one that is not there is refused', async () => {
  const source = w.t.at('p/three.tif');
  gdal('gdal_translate', '-q', '-b', '1', '-b', '1', '-b', '1', '-ot', 'Float32', 'testdata/open/spdata/raster/elev.tif', source);
  const script = `
import sys
from osgeo import gdal
t = gdal.Open(sys.argv[1], gdal.GA_Update)
for b in (2, 3):
    band = t.GetRasterBand(b); band.WriteArray(band.ReadAsArray() * b + 0.5)`;
  execFileSync('/usr/bin/python3', ['-c', script, source], { stdio: 'ignore' });
  const target = w.t.at('p/bands.gpkg');
  const item = (band: number) => [{ dataset: source, part: null, table: `band_${band}`, band }];
  const plan = planImport(w.scope(), w.find, target, item(3), null, 'test');
  expect(plan.items[0]).toMatchObject({ bands: 3, band: 3, why: null, losses: [{ code: 'bands', count: 2, what: 'other bands' }] });
  // What is left out loses nothing, and its bands can still be chosen.
  const none = planImport(w.scope(), w.find, target, item(4), null, 'test').items[0]!;
  expect([none.why, none.losses, none.bands]).toEqual(['it has 3 bands, and no 4', [], 3]);
  const { receipts } = await writeImport(w.find, plan.items, target, w.t.at('staged.gpkg'), () => undefined);
  expect(receipts[0]).toMatchObject({ isEqual: true, compared: { isByOthers: true }, losses: [{ code: 'bands', count: 2 }] });
  const places = Array.from({ length: 30 }, (_, i) => `${(i * 7) % 90} ${(i * 11) % 80}`).join('\n');
  const at = (file: string, band: string): number[] =>
    execFileSync('gdallocationinfo', ['-valonly', '-b', band, file], { input: places, stdio: ['pipe', 'pipe', 'ignore'] })
      .toString()
      .trim()
      .split('\n')
      .map(Number);
  expect(at(`GPKG:${w.t.at('staged.gpkg')}:band_3`, '1')).toEqual(at(source, '3'));
  // Each of them as a table: nothing is left behind, and nothing is said to be.
  const each = [1, 2, 3].map((band) => ({ dataset: source, part: null, table: '', band }));
  const all = planImport(w.scope(), w.find, target, each, null, 'test');
  expect(all.items.map((i) => [i.table, i.losses, i.why])).toEqual([1, 2, 3].map((n) => [`three_band_${n}`, [], null]));
  const written = await writeImport(w.find, all.items, target, w.t.at('all.gpkg'), () => undefined);
  expect(written.receipts.map((r) => [r.isEqual, r.losses])).toEqual([1, 2, 3].map(() => [true, []]));
  for (const n of [1, 2, 3]) expect(at(`GPKG:${w.t.at('all.gpkg')}:three_band_${n}`, '1')).toEqual(at(source, String(n)));
});
