import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { parseNtv2 } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { setGridsFolder } from '../disk/grids-folder.js';
import { doubtOf } from './doubt.js';
import { gridsFor, gridsMark } from './grids.js';
import { transformer } from './transformer.js';

// Outside reference: cs2cs of Debian's proj-bin, with the grids of its proj-data.
const PROJ_DATA = '/usr/share/proj';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  mkdirSync(t.at('grids'));
  setGridsFolder(t.at('grids'));
});
afterEach(() => {
  setGridsFolder(null);
  t.remove();
});
const put = (name: string, as = name): void => copyFileSync(`${PROJ_DATA}/${name}`, t.at('grids', as));

/** East and north in the target, as PROJ computes them by the grid. @param flip its axes are north first */
function byProj(from: string, to: string, points: readonly (readonly [number, number])[], flip: readonly [boolean, boolean]) {
  const input = points.map(([x, y]) => (flip[0] ? `${y} ${x}` : `${x} ${y}`)).join('\n');
  return execFileSync('cs2cs', ['-f', '%.9f', from, to], { input: `${input}\n`, env: { ...process.env, PROJ_NETWORK: 'OFF' } })
    .toString()
    .trim()
    .split('\n')
    .map((line) => line.trim().split(/\s+/).map(Number))
    .map(([a, b]): [number, number] => (flip[1] ? [b!, a!] : [a!, b!]));
}

describe.each([
  // Axes that the registry has north first are turned for cs2cs: 31467 to 31469, all geographic ones, 2193.
  [
    'BETA2007.gsb',
    'EPSG:31467',
    'EPSG:25832',
    [
      [3500000, 5600000],
      [3410000, 5300000.5],
      [3560123, 5990000],
    ],
    [true, false],
  ],
  [
    'BETA2007.gsb',
    'EPSG:4314',
    'EPSG:4258',
    [
      [9.1, 48.2],
      [13.4, 52.5],
      [7.01, 50.9],
    ],
    [true, true],
  ],
  [
    'ntf_r93.gsb',
    'EPSG:27572',
    'EPSG:2154',
    [
      [600000, 2428000],
      [800000, 1900000],
      [150000, 2390000],
    ],
    [false, false],
  ],
  [
    'nzgd2kgrid0005.gsb',
    'EPSG:4272',
    'EPSG:4167',
    [
      [174.7, -36.8],
      [172.6, -43.5],
      [168.6, -45.03],
    ],
    [true, true],
  ],
] as const)('with %s, from %s to %s', (file, from, to, points, flip) => {
  const theirs = byProj(from, to, points, flip);
  const metres = Math.abs(theirs[0]![0]) < 400 ? 111_000 : 1;
  const far = (a: readonly [number, number], b: readonly [number, number]) => Math.hypot(a[0] - b[0], a[1] - b[1]) * metres;

  test('positions are where PROJ puts them, there and back', () => {
    put(file);
    const [there, back] = [transformer(from, to)!, transformer(to, from)!];
    points.forEach(([x, y], i) => {
      expect([i, far(there(x, y)!, theirs[i]!) < 0.001]).toEqual([i, true]);
      expect([i, far(back(...theirs[i]!)!, [x, y]) < 0.001]).toEqual([i, true]);
    });
  });
  test('without it they are not, and its name is told; with it, how exact it is', () => {
    const plain = transformer(from, to)!;
    expect(points.some(([x, y], i) => far(plain(x, y)!, theirs[i]!) > 0.01)).toBe(true);
    expect(doubtOf(from, to).why).toContain(file.toLowerCase());
    put(file, file.toUpperCase());
    const { why, metres: told } = doubtOf(from, to);
    expect(why).toContain(`By the grid ${file.toUpperCase()}`);
    expect(told).toBeLessThanOrEqual(2);
  });
});

test('the same grid as a TIFF gives the same positions, packed and in tiles, with shifts to the west or the east', () => {
  // Outside reference: GDAL writes the TIFF from the NTv2 grid.
  const script = `
import sys
from osgeo import gdal
source = gdal.Open('NTv2:0:' + sys.argv[1])
options = ['COMPRESS=DEFLATE', 'PREDICTOR=3', 'TILED=YES', 'BLOCKXSIZE=32', 'BLOCKYSIZE=32', 'INTERLEAVE=BAND']
for name, sign in (('west', 1), ('east', -1)):
    target = gdal.GetDriverByName('GTiff').Create(sys.argv[2] + name, source.RasterXSize, source.RasterYSize, 2, gdal.GDT_Float32, options)
    target.SetProjection('EPSG:4314'); target.SetGeoTransform(source.GetGeoTransform())
    target.SetMetadataItem('TYPE', 'HORIZONTAL_OFFSET'); target.SetMetadataItem('AREA_OR_POINT', 'Point')
    for i, what in ((1, 'latitude_offset'), (2, 'longitude_offset')):
        band = target.GetRasterBand(i)
        band.WriteArray(source.GetRasterBand(i).ReadAsArray() * (1 if i == 1 else sign))
        band.SetDescription(what); band.SetUnitType('arc-second')
        if i == 2: band.SetMetadataItem('positive_value', name)
    target = None
`;
  const [from, to] = ['EPSG:31467', 'EPSG:25832'];
  execFileSync('/usr/bin/python3', ['-c', script, `${PROJ_DATA}/BETA2007.gsb`, t.at('as-')], { stdio: 'ignore' });
  put('BETA2007.gsb');
  const at = (): readonly (readonly [number, number] | null)[] =>
    [
      [3500000, 5600000],
      [3410000, 5300000.5],
      [3560123, 5990000],
    ].map(([x, y]) => transformer(from, to)!(x!, y!));
  const expected = at();
  rmSync(t.at('grids/BETA2007.gsb'));
  for (const sign of ['west', 'east']) {
    copyFileSync(t.at(`as-${sign}`), t.at('grids/de_adv_BETA2007.tif'));
    utimesSync(t.at('grids/de_adv_BETA2007.tif'), new Date(), new Date(Date.now() + (sign === 'west' ? 0 : 5000)));
    expect(gridsMark(from)).toBe('de_adv_BETA2007.tif');
    for (const [i, p] of at().entries()) expect(Math.hypot(p![0] - expected[i]![0], p![1] - expected[i]![1])).toBeLessThan(1e-5);
  }
  writeFileSync(t.at('grids/de_adv_BETA2007.tif'), readFileSync(t.at('as-west')).subarray(0, 5000));
  expect(gridsFor(from)).toMatchObject({ there: [], damaged: [expect.stringContaining('cannot be read')] });
});

test('outside its grid a position is shifted as it was before', () => {
  const [x, y] = [-30, 10];
  const before = transformer('EPSG:4314', 'EPSG:4326')!(x, y);
  put('BETA2007.gsb');
  expect(transformer('EPSG:4314', 'EPSG:4326')!(x, y)).toEqual(before);
});

test('pictures are made anew when a grid comes; a grid that is damaged is told, and the rest goes on', () => {
  expect(gridsMark('EPSG:31467', 'EPSG:25832')).toBe('');
  put('BETA2007.gsb');
  expect(gridsMark('EPSG:31467', 'EPSG:25832')).toBe('BETA2007.gsb');
  const bytes = readFileSync(t.at('grids/BETA2007.gsb'));
  writeFileSync(t.at('grids/BETA2007.gsb'), bytes.subarray(0, 40_000));
  expect(gridsFor('EPSG:31467')).toMatchObject({ there: [], damaged: ['BETA2007.gsb: a grid in it is cut off'] });
  expect(doubtOf('EPSG:31467', 'EPSG:25832').why).toContain('BETA2007.gsb: a grid in it is cut off');
  expect(transformer('EPSG:31467', 'EPSG:25832')!(3500000, 5600000)).not.toBeNull();
});

test.each([0, 8, 16, 40, 200, 400, 5000])('a grid of %i bytes is refused with a reason', (length) => {
  expect(typeof parseNtv2(readFileSync(`${PROJ_DATA}/BETA2007.gsb`).subarray(0, length))).toBe('string');
});
