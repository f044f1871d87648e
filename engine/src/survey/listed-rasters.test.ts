import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { tellAgreement } from '../../../core/test/agreement.js';
import { surveyFolder } from './list-datasets.js';

// Outside reference: gdal_translate and gdalbuildvrt of Debian's gdal-bin write them, gdalinfo says what is in them. Their pixels are not
// read here: they are listed with their size, bands, place and CRS.

interface Info {
  readonly size: readonly [number, number];
  readonly bands: readonly unknown[];
  readonly geoTransform: readonly [number, number, number, number, number, number];
}
let t: TestFolder;
const gdal = (command: string, ...args: string[]): string =>
  execFileSync(command, args, { stdio: ['ignore', 'pipe', 'ignore'] }).toString();

beforeAll(() => {
  t = new TestFolder();
  mkdirSync(t.at('source'));
  const rows = Array.from({ length: 20 }, (_, y) => Array.from({ length: 30 }, (__, x) => ((x * 7 + y * 3) % 200) + 1).join(' ')).join(
    '\n',
  );
  writeFileSync(t.at('source/a.asc'), `ncols 30\nnrows 20\nxllcorner 500000\nyllcorner 4871000\ncellsize 75\n${rows}\n`);
  writeFileSync(t.at('source/d.asc'), `ncols 30\nnrows 20\nxllcorner -39.5\nyllcorner 43.5\ncellsize 0.05\n${rows}\n`);
});
afterAll(() => t.remove());

const METRES = ['-a_srs', 'EPSG:32624', '-ot', 'Byte'];
const CASES: readonly (readonly [name: string, ending: string, source: string, crs: string, options: readonly string[]])[] = [
  ['jp2 with both', 'jp2', 'a.asc', 'EPSG:32624', ['-of', 'JP2OpenJPEG', ...METRES]],
  ['jp2 with a GeoTIFF', 'jp2', 'a.asc', 'EPSG:32624', ['-of', 'JP2OpenJPEG', ...METRES, '-co', 'GMLJP2=NO']],
  ['jp2 with GML', 'jp2', 'a.asc', 'EPSG:32624', ['-of', 'JP2OpenJPEG', ...METRES, '-co', 'GeoJP2=NO']],
  ['jp2 of three bands', 'jp2', 'a.asc', 'EPSG:32624', ['-of', 'JP2OpenJPEG', ...METRES, '-b', '1', '-b', '1', '-b', '1']],
  [
    'a codestream with a world file and its CRS beside it',
    'j2k',
    'a.asc',
    'EPSG:32624',
    ['-of', 'JP2OpenJPEG', ...METRES, '-co', 'WORLDFILE=YES'],
  ],
  ['netcdf 1', 'nc', 'a.asc', 'EPSG:32624', ['-of', 'netCDF', ...METRES, '-co', 'FORMAT=NC']],
  ['netcdf 2', 'nc', 'a.asc', 'EPSG:32624', ['-of', 'netCDF', ...METRES, '-co', 'FORMAT=NC2']],
  ['netcdf in degrees', 'nc', 'd.asc', 'EPSG:4326', ['-of', 'netCDF', '-a_srs', 'EPSG:4326', '-co', 'FORMAT=NC']],
  ['netcdf 4', 'nc', 'a.asc', 'EPSG:32624', ['-of', 'netCDF', ...METRES, '-co', 'FORMAT=NC4']],
  ['netcdf 4, packed', 'nc', 'a.asc', 'EPSG:32624', ['-of', 'netCDF', ...METRES, '-co', 'FORMAT=NC4', '-co', 'COMPRESS=DEFLATE']],
  ['netcdf 4 as the classic model', 'nc', 'd.asc', 'EPSG:4326', ['-of', 'netCDF', '-a_srs', 'EPSG:4326', '-co', 'FORMAT=NC4C']],
  ['img in UTM', 'img', 'a.asc', 'EPSG:32624', ['-of', 'HFA', ...METRES]],
  [
    'img of three bands in the south',
    'img',
    'a.asc',
    'EPSG:32736',
    ['-of', 'HFA', '-ot', 'Byte', '-a_srs', 'EPSG:32736', '-b', '1', '-b', '1', '-b', '1'],
  ],
  ['img in degrees', 'img', 'd.asc', 'EPSG:4326', ['-of', 'HFA', '-a_srs', 'EPSG:4326']],
  ['vrt', 'vrt', 'a.asc', 'EPSG:32624', ['-of', 'VRT', ...METRES, '-b', '1', '-b', '1']],
];

test('formats that are listed only: size, bands, place and CRS as gdalinfo has them', () => {
  let agreed = 0;
  for (const [i, [name, ending, source, crs, options]] of CASES.entries()) {
    const folder = `case${i}`;
    mkdirSync(t.at(folder));
    const file = t.at(folder, `grid.${ending}`);
    gdal('gdal_translate', '-q', ...options, t.at('source', source), file);
    const info = JSON.parse(gdal('gdalinfo', '-json', file)) as Info;
    const [d, ...others] = surveyFolder(t.at(folder)).datasets;
    expect([name, others.map((o) => o.id)]).toEqual([name, []]);
    const [x, px, , y, , py] = info.geoTransform;
    const [w, h] = info.size;
    const box = [x, Math.min(y, y + h * py), x + w * px, Math.max(y, y + h * py)];
    expect([name, d!.state, d!.kind, d!.raster?.width, d!.raster?.height, d!.raster?.bands, d!.crs?.code ?? null]).toEqual([
      name,
      'ok',
      'raster',
      w,
      h,
      info.bands.length,
      crs,
    ]);
    d!.bbox!.forEach((side, k) => expect(Math.abs(side - box[k]!)).toBeLessThan(1e-6 * Math.max(1, Math.abs(side))));
    agreed++;
  }
  tellAgreement(
    'Rasters that are listed only (JPEG 2000, NetCDF, IMG, virtual): size, bands, place, CRS, as gdalinfo has them',
    agreed,
    0,
    CASES.length,
  );
});

test('what they are made of is told; what is not read, or damaged, is told to be so', () => {
  mkdirSync(t.at('more'));
  copyFileSync(t.at('source/a.asc'), t.at('more/a.asc'));
  gdal('gdalbuildvrt', '-q', t.at('more/all.vrt'), t.at('more/a.asc'));
  gdal('gdal_translate', '-q', '-of', 'netCDF', '-co', 'FORMAT=NC4', t.at('source/d.asc'), t.at('more/four.nc'));
  const four = readFileSync(t.at('more/four.nc'));
  writeFileSync(t.at('more/four.nc'), four.fill(0x5a, 40, four.length >> 1));
  writeFileSync(t.at('more/short.nc'), Buffer.from([0x89, 0x48, 0x44, 0x46, 0x0d, 0x0a, 0x1a, 0x0a]));
  writeFileSync(t.at('more/bad.nc'), 'CDF\u0001 and nothing more');
  writeFileSync(t.at('more/bad.jp2'), 'no picture');
  writeFileSync(t.at('more/bad.vrt'), '<OGRVRTDataSource/>');
  writeFileSync(t.at('more/bad.img'), 'EHFA_HEADER_TAG\0 and nothing more');
  const found = new Map(surveyFolder(t.at('more')).datasets.map((d) => [d.id, d]));
  expect(found.get('all.vrt')!.findings.map((f) => f.message)).toContain(
    'all.vrt is put together from 1 file: a.asc. It is listed, not drawn.',
  );
  for (const [id, why] of [
    ['four.nc', 'HDF5'],
    ['short.nc', 'HDF5'],
    ['bad.nc', 'damaged'],
    ['bad.jp2', 'image size'],
    ['bad.vrt', 'states no size'],
    ['bad.img', 'no layer, or is damaged'],
  ] as const)
    expect([id, found.get(id)!.state, found.get(id)!.findings[0]!.message]).toEqual([id, 'unreadable', expect.stringContaining(why)]);
});
