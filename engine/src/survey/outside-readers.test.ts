import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { readFeatures, wkbToGeoJson, type Dataset, type Value } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { platformBelow } from './platform.js';
import { surveyFolder } from './list-datasets.js';

/** What GDAL (Debian's gdal-bin) reads in a layer, as the GeoJSON it makes of it in the layer's own CRS. */
interface Read {
  features: { geometry: { type: string; coordinates: unknown } | null; properties: Record<string, unknown> }[];
}
function gdal(file: string, layer: string | null): Read {
  const args = [
    '-f',
    'GeoJSON',
    '/vsistdout/',
    file,
    '-lco',
    'COORDINATE_PRECISION=15',
    '-lco',
    'WRITE_NAME=NO',
    ...(layer ? [layer] : []),
  ];
  return JSON.parse(execFileSync('ogr2ogr', args, { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] }).toString()) as Read;
}

function ours(folder: string, d: Dataset): { geometry: ReturnType<typeof wkbToGeoJson>; values: readonly Value[] }[] {
  const platform = platformBelow(folder);
  try {
    // One by one: the bytes of a shape are good until the next record is asked for.
    return Array.from(readFeatures(d, platform).features, (f) => ({ geometry: f.geometry && wkbToGeoJson(f.geometry), values: f.values }));
  } finally {
    platform.close();
  }
}

const EPSILON = 1e-9;
function near(a: unknown, b: unknown): boolean {
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((v, i) => near(v, b[i]));
  return typeof a === 'number' && typeof b === 'number' ? Math.abs(a - b) <= EPSILON * Math.max(1, Math.abs(a)) : a === b;
}
/** GDAL writes dates with slashes and times with a space in GeoJSON; booleans of a DBF as numbers or not at all. */
function sameValue(mine: Value, theirs: unknown): boolean {
  if (theirs === undefined || theirs === null || theirs === '') return mine === null || mine === '';
  if (typeof mine === 'boolean') return Number(mine) === Number(theirs);
  if (typeof mine === 'bigint') return Number(mine) === theirs;
  if (typeof mine === 'number') return Math.abs(mine - Number(theirs)) <= 1e-6 * Math.max(1, Math.abs(mine));
  const plain = (v: unknown): string =>
    String(v)
      .replaceAll('/', '-')
      .replace('T', ' ')
      .replace(/(\.000)?(Z|\+00(:00)?)$/, '')
      .trimEnd();
  return plain(mine) === plain(theirs);
}

function compare(folder: string, d: Dataset): void {
  const theirs = gdal(join(folder, d.group.path), d.table).features;
  const mine = ours(folder, d);
  expect(mine).toHaveLength(theirs.length);
  mine.forEach((feature, i) => {
    const other = theirs[i]!;
    expect(feature.geometry?.type ?? null).toBe(other.geometry?.type ?? null);
    if (feature.geometry && !near(feature.geometry.coordinates, other.geometry!.coordinates))
      expect(feature.geometry.coordinates).toEqual(other.geometry!.coordinates);
    d.fields!.forEach((field, k) => {
      // Where a name is repeated, or too long for GDAL's own rules, it is called otherwise there.
      if (!(field.name in other.properties) || d.fields!.filter((f) => f.name === field.name).length > 1) return;
      if (!sameValue(feature.values[k]!, other.properties[field.name]))
        expect([d.id, i, field.name, feature.values[k]]).toEqual([d.id, i, field.name, other.properties[field.name]]);
    });
  });
}

describe('records of the open data, as GDAL reads them', () => {
  const root = 'testdata/open';
  const datasets = surveyFolder(root).datasets.filter((d) => d.state === 'ok' && (d.kind === 'vector' || d.kind === 'table'));
  // GDAL guesses code pages of a DBF in ways of its own; what is in them is checked beside the encodings.
  // Patches have no equal among simple features: they are listed, their shapes not read. Of CSV, GDAL reads points only when told.
  const told = datasets.filter((d) => !/^dbf\/|multipatch|cycle_hire_xy/.test(d.id));
  test('there are some of each kind', () => expect(told.length).toBeGreaterThan(25));
  test.each(told.map((d) => [d.id, d] as const))('%s', (_, d) => compare(root, d));
});

// Every format and kind of shape that GDAL writes is in `vectors-outside.test.ts`; these are what it reads in another way.
describe('files that GDAL writes, read here and there', () => {
  let folder = '';
  const pointsFile = (): string => {
    const feature = (i: number) => ({
      type: 'Feature',
      properties: {
        name: ['Ærø', 'tide, "high"', null][i],
        depth: i === 2 ? null : i + 0.25,
        n: i,
        big: 9007199254740991,
        day: '2026-03-1' + i,
      },
      geometry: { type: 'Point', coordinates: [-39.25, 44.5] },
    });
    const path = join(folder, 'points.geojson');
    writeFileSync(path, JSON.stringify({ type: 'FeatureCollection', features: [0, 1, 2].map(feature) }));
    return path;
  };
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'rootmap-gdal-'));
  });
  afterAll(() => rmSync(folder, { recursive: true, force: true }));

  test('tables: CSV with coordinates, XLSX, GPX', () => {
    const source = pointsFile();
    const into = (driver: string, name: string, ...options: string[]): string => {
      const target = join(folder, `t_${name.replace('.', '_')}`);
      mkdirSync(target, { recursive: true });
      execFileSync('ogr2ogr', ['-f', driver, join(target, name), source, ...options], { stdio: ['ignore', 'ignore', 'ignore'] });
      return target;
    };
    const csv = into('CSV', 'points.csv', '-lco', 'GEOMETRY=AS_XY', '-lco', 'SEPARATOR=SEMICOLON');
    const [points] = surveyFolder(csv).datasets;
    expect(points).toMatchObject({ kind: 'vector', geometryType: 'Point', featureCount: 3, bbox: [-39.25, 44.5, -39.25, 44.5] });
    expect(ours(csv, points!).map((f) => f.geometry)).toEqual([0, 1, 2].map(() => ({ type: 'Point', coordinates: [-39.25, 44.5] })));
    const sheet = into('XLSX', 'table.xlsx');
    compare(sheet, surveyFolder(sheet).datasets[0]!);
    const gpx = into('GPX', 'ways.gpx', '-dsco', 'GPX_USE_EXTENSIONS=YES', '-nln', 'waypoints');
    const [ways] = surveyFolder(gpx).datasets;
    expect(ways!.table).toBe('waypoints');
    compare(gpx, ways!);
    // Heights that only some points of a line have: kept (GDAL drops them all), and what is missing is told.
    const partly = join(folder, 'partly');
    mkdirSync(partly);
    const marks = [3, null, -1.5].map(
      (ele, i) => `<trkpt lat="${44 + i}" lon="${-39 + i}">${ele === null ? '' : `<ele>${ele}</ele>`}</trkpt>`,
    );
    writeFileSync(
      join(partly, 'partly.gpx'),
      `<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><trk><name>t</name><trkseg>${marks.join('')}</trkseg></trk></gpx>`,
    );
    const [track] = surveyFolder(partly).datasets;
    expect(ours(partly, track!)[0]!.geometry).toMatchObject({
      coordinates: [
        [
          [-39, 44, 3],
          [-38, 45, 0],
          [-37, 46, -1.5],
        ],
      ],
    });
    expect(track!.findings).toMatchObject([{ code: 'heights-missing', message: expect.stringContaining('1 of 3 points') }]);
  });
});

test('a raster that only has ground control points is told to be unrectified, with their number', () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-gcp-'));
  const points = [
    [0, 0, -39, 45],
    [9, 0, -38, 45],
    [0, 9, -39, 44],
    [9, 9, -38, 44],
  ].flatMap((p) => ['-gcp', ...p.map(String)]);
  const grid = join(folder, 'plain.asc');
  writeFileSync(
    grid,
    `ncols 10\nnrows 10\nxllcorner 0\nyllcorner 0\ncellsize 1\n${'1 '.repeat(10).trim()}\n`.replace(/(1 .*\n)$/, '$1'.repeat(10)),
  );
  execFileSync('gdal_translate', ['-q', '-of', 'GTiff', '-a_srs', 'EPSG:4326', ...points, grid, join(folder, 'scan.tif')], {
    stdio: 'ignore',
  });
  rmSync(grid);
  const [scan] = surveyFolder(folder).datasets;
  rmSync(folder, { recursive: true });
  expect(scan).toMatchObject({ kind: 'raster', bbox: null, crs: { code: 'EPSG:4326' } });
  expect(scan!.findings.map((f) => f.message)).toEqual([
    'scan.tif has 4 ground control points and is not rectified, so its pixels have no place on Earth yet.',
  ]);
});
