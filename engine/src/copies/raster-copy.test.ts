import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import type { Resampling } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { GeoTiffFile } from '../export/geotiff-file.js';
import { GeoTiffLevels } from '../export/geotiff-levels.js';
import { isFoundIn } from '../geodatabase/second-eyes.js';
import { planRasterCopy, writeRasterCopy, type RasterWish } from './raster-copy.js';

// Outside references: gdalwarp and gdaladdo (through Debian's python3-gdal, without its approximation of coordinates), on rasters that
// GDAL wrote, and on open data.

const MAKE = `
import sys, numpy as np
from osgeo import gdal, osr
gdal.UseExceptions()
W, H = 211, 160
y, x = np.mgrid[0:H, 0:W].astype('f8')
z = 80 * np.sin(x / 21) + 60 * np.cos(y / 17) + np.hypot(x - 100, y - 75) / 2 + 3 * np.sin(x / 3) * np.cos(y / 4)
srs = osr.SpatialReference(); srs.ImportFromEPSG(32624)
def write(name, bands, kind, nodata=None, options=(), turned=False, palette=False, ends=None):
    d = gdal.GetDriverByName('GTiff').Create(sys.argv[1] + '/' + name + '.tif', W, H, len(bands), kind, list(options))
    d.SetProjection(srs.ExportToWkt())
    d.SetGeoTransform((450000, 10, 4, 4900000, 3, -12) if turned else (450000, 10, 0, 4900000, 0, -12.5))
    for i, band in enumerate(bands):
        d.GetRasterBand(i + 1).WriteArray(band)
        if nodata is not None: d.GetRasterBand(i + 1).SetNoDataValue(nodata)
    if palette:
        t = gdal.ColorTable()
        for i in range(8): t.SetColorEntry(i, (i * 30, 255 - i * 30, (i * 77) % 256, 255))
        d.GetRasterBand(1).SetColorTable(t)
hole = z.copy(); hole[40:70, 60:90] = -9999
write('hole', [hole], gdal.GDT_Float32, -9999, ['TILED=YES', 'BLOCKXSIZE=64', 'BLOCKYSIZE=64', 'COMPRESS=DEFLATE'])
write('two', [z, hole], gdal.GDT_Float64, -9999, ['INTERLEAVE=BAND'])
write('turned', [z], gdal.GDT_Float32, turned=True)
write('heights', [hole.round()], gdal.GDT_Int16, -9999)
write('plain', [z.round()], gdal.GDT_Int16)
low = z.round(); low[10:20, 10:20] = -32768
write('lowest', [low], gdal.GDT_Int16)
grey = ((z - z.min()) / (z.max() - z.min()) * 255).round()
write('grey', [grey], gdal.GDT_Byte)
write('classes', [(grey // 32)], gdal.GDT_Byte, palette=True)
write('photo', [grey, 255 - grey, (grey * 3) % 256], gdal.GDT_Byte, options=['PHOTOMETRIC=RGB'])
`;
/** Both files band by band: where both have a value, how far they are apart; where only one has one. */
const COMPARE = `
import sys, json, numpy as np
from osgeo import gdal
gdal.UseExceptions()
ours, theirs, border = gdal.Open(sys.argv[1]), gdal.Open(sys.argv[2]), int(sys.argv[3])
out = []
for b in range(1, min(ours.RasterCount, theirs.RasterCount) + 1):
    if ours.GetRasterBand(b).GetColorInterpretation() == gdal.GCI_AlphaBand: break
    a, c = [d.GetRasterBand(b).ReadAsArray().astype('f8') for d in (ours, theirs)]
    p, q = [d.GetRasterBand(b).GetMaskBand().ReadAsArray() > 0 for d in (ours, theirs)]
    both = p & q
    deep = both.copy()
    for dy in range(-border, border + 1):
        for dx in range(-border, border + 1): deep &= np.roll(np.roll(both, dy, 0), dx, 1)
    apart = np.abs(a - c)
    out.append(dict(both=int(both.sum()), deep=int(deep.sum()), oneOnly=int((p ^ q).sum()), worst=float(apart[deep].max()), differ=int((apart[both] > 0.5).sum())))
print(json.dumps(dict(bands=out, size=[ours.RasterXSize, ours.RasterYSize], kind=gdal.GetDataTypeName(ours.GetRasterBand(1).DataType), nodata=None if ours.GetRasterBand(1).GetNoDataValue() is None else str(ours.GetRasterBand(1).GetNoDataValue()),
  overviews=[[o.XSize, o.YSize] for o in (ours.GetRasterBand(1).GetOverview(i) for i in range(ours.GetRasterBand(1).GetOverviewCount()))], colours=ours.GetRasterBand(1).GetColorTable() is not None,
  crs=ours.GetSpatialRef().GetAuthorityCode(None))))
`;
interface Seen {
  readonly bands: readonly { both: number; deep: number; oneOnly: number; worst: number; differ: number }[];
  readonly size: readonly [number, number];
  readonly kind: string;
  readonly nodata: string | null;
  readonly overviews: readonly (readonly [number, number])[];
  readonly colours: boolean;
  readonly crs: string;
}

let t: TestFolder;
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['-c', MAKE, t.at('.')], { stdio: 'pipe' });
});
afterAll(() => t.remove());

const python = (script: string, ...args: string[]): string =>
  execFileSync('/usr/bin/python3', ['-c', script, ...args], { stdio: 'pipe' }).toString();

const AS_SUITS: RasterWish = { resampling: null, pixel: null };
const THEIRS = { nearest: 'near', bilinear: 'bilinear', cubic: 'cubic' } as const;

/** Ours beside gdalwarp's, on the same grid. */
async function beside(source: string, crs: string, wish: RasterWish, options: readonly string[] = [], border = 3): Promise<Seen> {
  const [found] = datasetsOfFile(source);
  const plan = planRasterCopy(found!, crs, wish);
  if (typeof plan === 'string') throw new Error(plan);
  const { west, north, pixel, width, height } = plan.grid;
  const [ours, theirs] = [t.at('ours.tif'), t.at('theirs.tif')];
  await writeRasterCopy(found!, crs, ours, wish, () => undefined);
  const seen = JSON.parse(python(COMPARE, ours, ours, '0')) as Seen;
  const box = [west, north - height * pixel, west + width * pixel, north].map(String);
  const none = seen.nodata === null ? ['-dstalpha'] : ['-dstnodata', seen.nodata, '-ot', seen.kind];
  const size = ['-ts', String(width), String(height)];
  execFileSync(
    'gdalwarp',
    // prettier-ignore
    ['-q', '-overwrite', '-et', '0', ...options, '-r', THEIRS[plan.resampling], '-t_srs', crs, '-te', ...box, ...size, ...none, source, theirs],
    { stdio: 'pipe' },
  );
  return JSON.parse(python(COMPARE, ours, theirs, String(border))) as Seen;
}

const WAYS: readonly Resampling[] = ['nearest', 'bilinear', 'cubic'];
/** As large as the pixels of the sources or smaller, so that a kernel is as wide as its pixels. */
const FINE: Readonly<Record<string, number>> = { 'EPSG:3857': 12, 'EPSG:4326': 0.00011, 'EPSG:3035': 9 };
/** gdalwarp guesses how wide its kernel should be from boxes around the two, which are larger where one is turned: here it is told. */
const PLAIN_KERNEL = ['-wo', 'XSCALE=1', '-wo', 'YSCALE=1'];

describe.each([
  ['EPSG:3857', ['bilinear']],
  ['EPSG:4326', ['cubic']],
  ['EPSG:3035', WAYS],
] as const)('into %s', (crs, ways) => {
  describe.each([
    ['hole', 'Float32', 'nan'],
    ['two', 'Float64', 'nan'],
    ['turned', 'Float32', 'nan'],
    ['heights', 'Int16', '-9999.0'],
    ['plain', 'Int16', '-32768.0'],
    ['grey', 'Byte', null],
    ['photo', 'Byte', null],
  ] as const)('%s', (name, kind, nodata) => {
    test.each(ways)('%s: the pixels that gdalwarp computes, of the same kind', async (resampling) => {
      const seen = await beside(t.at(`${name}.tif`), crs, { resampling, pixel: FINE[crs]! }, PLAIN_KERNEL);
      expect(seen).toMatchObject({ kind, nodata, crs: crs.slice(5) });
      expect(seen.bands).toHaveLength({ two: 2, photo: 3 }[name as string] ?? 1);
      for (const [i, { both, deep, oneOnly, worst, differ }] of seen.bands.entries()) {
        expect(deep).toBeGreaterThan(15_000);
        // Of several bands gdalwarp drops a pixel of one where another is missing beside it.
        if (i === 0) expect(oneOnly).toBe(0);
        // A place may be off by 0.01 of a pixel: of a nearest pixel that shows at the line between two, of a whole number in its rounding.
        if (resampling === 'nearest') expect(differ / both).toBeLessThan(0.001);
        else if (name === 'photo') expect(differ / both).toBeLessThan(0.05);
        else if (kind.startsWith('Float')) expect(worst).toBeLessThan(0.06);
        else expect([worst <= 1, differ / both < 0.015]).toEqual([true, true]);
      }
    });
  });
});

test.each(['bilinear', 'cubic'] as const)('larger pixels than it has, %s: each counts what lies below it', async (resampling) => {
  const { bands } = await beside(t.at('hole.tif'), 'EPSG:3857', { resampling, pixel: 60 }, [], 6);
  expect(bands[0]).toMatchObject({ oneOnly: expect.any(Number) });
  expect([bands[0]!.deep > 300, bands[0]!.worst < 0.6]).toEqual([true, true]);
});

test('smaller pictures of itself: as gdaladdo averages them', async () => {
  const [found] = datasetsOfFile(t.at('hole.tif'));
  await writeRasterCopy(found!, 'EPSG:3857', t.at('deep.tif'), { resampling: 'bilinear', pixel: 2 }, () => undefined);
  execFileSync('gdal_translate', ['-q', '-co', 'COPY_SRC_OVERVIEWS=NO', t.at('deep.tif'), t.at('plain-deep.tif')], { stdio: 'pipe' });
  const level = (path: string, n: number): string => {
    const out = t.at(`level-${n}-${path === t.at('deep.tif') ? 'ours' : 'theirs'}.tif`);
    execFileSync('gdal_translate', ['-q', '-oo', `OVERVIEW_LEVEL=${n}`, path, out], { stdio: 'pipe' });
    return out;
  };
  const size = JSON.parse(python(COMPARE, t.at('deep.tif'), t.at('deep.tif'), '0')) as Seen;
  const [w, h] = size.size;
  expect(size.overviews).toEqual([
    [Math.ceil(w / 2), Math.ceil(h / 2)],
    [Math.ceil(w / 4), Math.ceil(h / 4)],
  ]);
  execFileSync('gdaladdo', ['-q', '-r', 'average', t.at('plain-deep.tif'), '2', '4'], { stdio: 'pipe' });
  const { bands } = JSON.parse(python(COMPARE, level(t.at('deep.tif'), 0), level(t.at('plain-deep.tif'), 0), '1')) as Seen;
  expect(bands[0]!.deep).toBeGreaterThan(50_000);
  // Where a side is odd, gdaladdo moves its windows along by a fraction.
  expect(bands[0]!.worst).toBeLessThan(0.6);
});

test('a palette: its numbers and colours, whatever is wished', async () => {
  const seen = await beside(t.at('classes.tif'), 'EPSG:3857', { resampling: 'cubic', pixel: null });
  expect(seen).toMatchObject({ kind: 'Byte', colours: true });
  expect(seen.bands[0]!.differ / seen.bands[0]!.both).toBeLessThan(0.001);
  const [found] = datasetsOfFile(t.at('classes.tif'));
  expect(planRasterCopy(found!, 'EPSG:3857', { resampling: 'cubic', pixel: null })).toMatchObject({
    resampling: 'nearest',
    because: expect.stringContaining('palette'),
  });
});

test('a number that says "none" and is one: a wider kind is taken, and no value is lost', async () => {
  const { kind, bands } = await beside(t.at('lowest.tif'), 'EPSG:3857', { resampling: 'nearest', pixel: null });
  expect(kind).toBe('Int32');
  expect(bands[0]!.differ / bands[0]!.both).toBeLessThan(0.001);
});

test.each(['testdata/open/spdata/raster/elev.tif', 'testdata/open/spdata/raster/grain.tif', 'testdata/open/sf/tif/geomatrix.tif'])(
  'open data, as suits it: %s',
  async (path) => {
    const [found] = datasetsOfFile(path);
    const to = found!.dataset.crs?.code === 'EPSG:3857' ? 'EPSG:4326' : 'EPSG:3857';
    const { bands } = await beside(path, to, AS_SUITS, PLAIN_KERNEL, 1);
    expect(bands[0]!.both).toBeGreaterThanOrEqual(36);
    expect(bands[0]).toMatchObject({ oneOnly: 0, differ: 0 });
  },
);

test('what stays as it is, and why', () => {
  const plan = (source: string, crs: string, wish = AS_SUITS): unknown => planRasterCopy(datasetsOfFile(source)[0]!, crs, wish);
  expect(plan(t.at('hole.tif'), 'EPSG:3857', { resampling: null, pixel: 0.0001 })).toMatch(
    /^it would have \d+ × \d+ pixels, .* Choose larger pixels$/,
  );
  writeFileSync(t.at('nowhere.asc'), 'ncols 2\nnrows 1\nxllcorner 0\nyllcorner 0\ncellsize 1\n1 2\n');
  expect(plan(t.at('nowhere.asc'), 'EPSG:3857')).toBe('how its CRS and EPSG:3857 are computed is not known here');
  const large = `ncols 5000\nnrows 4000\nxllcorner 0\nyllcorner 0\ncellsize 1\n${'1 '.repeat(50)}`;
  writeFileSync(t.at('large.asc'), large);
  writeFileSync(t.at('large.prj'), readFileSync('testdata/open/example_project/originals/harbour_office/buoy_001.prj'));
  expect(plan(t.at('large.asc'), 'EPSG:3857')).toMatch(/^it is too large to be read whole\. Turn it into a GeoTIFF first/);
  writeFileSync(t.at('broken.tif'), 'II*\0 not a raster');
  expect(plan(t.at('broken.tif'), 'EPSG:3857')).toBe('it cannot be read');
});

test('damaged blocks: nothing is kept, and what to do is said', async () => {
  const bytes = readFileSync(t.at('hole.tif'));
  bytes.fill(0xa5, 3000, 9000);
  writeFileSync(t.at('damaged.tif'), bytes);
  const [found] = datasetsOfFile(t.at('damaged.tif'));
  await expect(writeRasterCopy(found!, 'EPSG:3857', t.at('x.tif'), AS_SUITS, () => undefined)).rejects.toThrow(
    /its blocks are damaged\. Copy it again from where it came from/,
  );
});

test('what another reader finds is held against what was written: its kind, what is none, and each byte of each strip', async () => {
  const samples = { type: 'i16', bands: 1, shows: 'numbers', hasOpacity: false, isTogether: false, nodata: -9999 } as const;
  const spec = { width: 700, height: 600, samples, extent: [0, 0, 700, 600], crs: { code: 32624, isGeographic: false } } as const;
  const file = new GeoTiffFile(t.at('own.tif'), spec);
  const levels = new GeoTiffLevels(file, spec, 'first');
  await levels.add([Int16Array.from({ length: 700 * 600 }, (_, i) => i % 1000)], 600);
  await levels.finish();
  await file.finish();
  const whole = { width: 700, height: 600, type: 'i16', nodata: -9999, strips: levels.sums };
  expect(await isFoundIn(t.at('own.tif'), whole)).toBe(true);
  const [plane] = whole.strips;
  expect(plane!.length).toBeGreaterThan(2);
  for (const wrong of [{ type: 'u16' }, { nodata: null }, { width: 699 }, { strips: [[...plane!.slice(0, -1), plane!.at(-1)! ^ 1]] }])
    expect(await isFoundIn(t.at('own.tif'), { ...whole, ...wrong })).toBe(false);
});
