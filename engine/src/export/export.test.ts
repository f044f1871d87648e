import { execFileSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync, readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { check } from '@placemarkio/check-geojson';
import { lossWords } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { crsKey } from '../crs/definitions.js';
import { surveyFolder } from '../survey/list-datasets.js';
import type { FoundDataset } from '../project/find-dataset.js';
import type { Scope } from '../project/scope.js';
import { wholeDisks, openPlace } from '../places/places.js';
import { planExport } from './plan-export.js';
import { writeExport, type RecordFormat } from './write-export.js';

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-export-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

interface Layer {
  readonly features: readonly {
    readonly geometry: { readonly type: string; readonly coordinates: unknown } | null;
    readonly properties: Record<string, unknown>;
  }[];
}
/** Outside reference: what ogr2ogr reads. */
const layer = (...args: string[]): Layer =>
  JSON.parse(
    execFileSync('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', ...args, '-lco', 'RFC7946=NO', '-lco', 'COORDINATE_PRECISION=12'], {
      maxBuffer: 1 << 28,
      stdio: ['ignore', 'pipe', 'ignore'],
    }).toString(),
  ) as Layer;

const positions = (c: unknown): number[][] =>
  !Array.isArray(c) ? [] : typeof c[0] === 'number' ? [c as number[]] : (c as unknown[]).flatMap(positions);
/** Corners in an order that does not depend on where a ring begins or which way it runs. */
const corners = (c: unknown): string[] => [...new Set(positions(c).map((p) => p.map((v) => v.toFixed(6)).join(' ')))].sort();

/** Outside reference: the csv module of Python. */
const pythonRows = (path: string): number =>
  Number(
    execFileSync('/usr/bin/python3', [
      '-c',
      'import csv, sys; csv.field_size_limit(1 << 30); print(sum(1 for _ in csv.reader(open(sys.argv[1], newline=""))))',
      path,
    ]),
  );

/** A folder that is in no project. */
const bare: Scope = { places: wholeDisks([]).map(openPlace), root: null, projectFile: null, project: null, named: '/', maps: [] };
let n = 0;
async function exported(found: FoundDataset, format: RecordFormat, crs: string | null = null) {
  const to = join(folder, `e${n++}`);
  mkdirSync(to);
  const ending = { geopackage: 'gpkg', shapefile: 'shp', geojson: 'geojson', csv: 'csv' }[format];
  const plan = planExport(bare, found, { format, crs }, join(to, `out.${ending}`), 'test');
  if (plan.why !== null) return { plan, done: null, path: '' };
  const done = await writeExport(found, { format, crs, name: 'out' }, plan.targets, () => undefined);
  for (const f of plan.files) if (f.bytes !== null) expect([f.path, readFileSync(f.path).length]).toEqual([f.path, f.bytes]);
  return { plan, done, path: plan.files[0]!.path };
}

describe('the open data', () => {
  const root = 'testdata/open';
  const datasets = surveyFolder(root).datasets.filter(
    (d) => (d.kind === 'vector' || d.kind === 'table') && d.state === 'ok' && (d.featureCount ?? 0) > 0 && (d.featureCount ?? 0) < 20_000,
  );
  const source = (d: FoundDataset['dataset']): string[] => [join(root, d.group.path), ...(d.table ? [d.table] : [])];
  const formats = ['geopackage', 'shapefile', 'geojson', 'csv'] as const;
  test.each(datasets.flatMap((d) => formats.map((f) => [d.id, f, d] as const)))(
    '%s as %s: ogr2ogr reads the same',
    async (_, format, dataset) => {
      const found = { folder: root, dataset };
      if (format === 'geojson' && dataset.kind === 'vector' && crsKey(dataset.crs) === null) {
        await expect(exported(found, format)).rejects.toThrow('nobody knows which CRS it is in');
        return;
      }
      const { plan, done, path } = await exported(found, format);
      if (!done) return expect(plan.why).toMatch(/several kinds|surfaces in space/);
      expect(done.read).toBe(done.written + done.skipped.length);
      const theirs = layer(...source(dataset));
      const count = theirs.features.length - done.skipped.length;
      if (format === 'csv') return expect(pythonRows(path)).toBe(count + 1); // ogr2ogr opens no CSV of one column
      const mine = layer(path);
      expect(mine.features).toHaveLength(count);
      const isAlike = plan.crs === (dataset.crs?.code ?? null) && done.skipped.length === 0 && dataset.group.format !== 'csv';
      if (!isAlike) return;
      mine.features.forEach((f, i) =>
        expect([i, corners(f.geometry?.coordinates)]).toEqual([i, corners(theirs.features[i]!.geometry?.coordinates)]),
      );
    },
  );
});

describe('values and shapes that formats hold badly', () => {
  const geometry = {
    type: 'Polygon',
    coordinates: [
      [
        [0, 0],
        [0, 2],
        [2, 2],
        [2, 0],
        [0, 0],
      ],
      [
        [0.5, 0.5],
        [1, 0.5],
        [1, 1],
        [0.5, 1],
        [0.5, 0.5],
      ],
    ],
  };
  const features = [
    {
      type: 'Feature',
      properties: {
        a_very_long_name: 1.5,
        a_very_long_name_2: -1.2345678901234567e-100,
        text: 'å'.repeat(200),
        flag: true,
        day: '2026-03-01',
        list: [1, 2],
        none: null,
      },
      geometry,
    },
    { type: 'Feature', properties: { a_very_long_name: 1e21, flag: false, text: '' }, geometry: null },
  ];
  const found = (name: string, all: unknown[]): FoundDataset => {
    const at = join(folder, name);
    mkdirSync(at, { recursive: true });
    writeFileSync(join(at, `${name}.geojson`), JSON.stringify({ type: 'FeatureCollection', features: all }));
    return { folder: at, dataset: surveyFolder(at).datasets[0]! };
  };

  test('shapefile: names, widths and cuts are told before; rings are wound; doubles keep every digit', async () => {
    const { plan, path } = await exported(found('hard', features), 'shapefile');
    const told = plan.losses.map(lossWords);
    expect(told).toContain('a_very_long_name: it is called a_very_lon');
    expect(told).toContain('a_very_long_name_2: it is called a_very_l_1');
    expect(told).toContain('text: 1 text is cut to 254 bytes');
    expect(told).toContain('1 record has no shape: it becomes a null shape');
    const [one, two] = layer(path).features;
    expect(one!.properties).toMatchObject({ a_very_lon: 1.5, a_very_l_1: -1.2345678901234567e-100, text: 'å'.repeat(127), list: [1, 2] }); // ogr2ogr writes text that is JSON as such
    expect([two!.geometry, two!.properties['a_very_lon']]).toEqual([null, 1e21]);
    const area = execFileSync('ogrinfo', ['-q', path, '-dialect', 'sqlite', '-sql', 'SELECT sum(ST_Area(geometry)) AS a FROM out'], {
      stdio: ['ignore', 'pipe', 'ignore'],
    }).toString();
    expect(Number(/a \(Real\) = ([\d.]+)/.exec(area)![1])).toBeCloseTo(4 - 0.25, 9);
  });

  test('GeoJSON: as RFC 7946 has it, held against a checker of the registry; values come back', async () => {
    const { path } = await exported(found('hard', features), 'geojson');
    const text = readFileSync(path, 'utf8');
    expect(check(text)).toBeTruthy();
    const [one] = (JSON.parse(text) as Layer).features;
    expect(one!.properties).toMatchObject({ flag: true, list: [1, 2], day: '2026-03-01' });
    const [outer, hole] = one!.geometry!.coordinates as [number, number][][];
    const turn = (ring: [number, number][]): number =>
      ring.slice(1).reduce((sum, [x, y], i) => sum + (ring[i]![0] * y - x * ring[i]![1]), 0);
    expect([turn(outer!) > 0, turn(hole!) < 0]).toEqual([true, true]);
  });

  test('CSV: commas, quotes and line ends in text; shapes as text', async () => {
    const text = 'a "b", c\nd';
    const { path } = await exported(found('comma', [{ type: 'Feature', properties: { text }, geometry }]), 'csv');
    const [one] = layer(path).features;
    expect(one!.properties['text']).toBe(text);
    expect(corners(one!.geometry!.coordinates)).toEqual(corners(geometry.coordinates));
  });

  test('several kinds of shapes: a shapefile is refused, and says what to do', async () => {
    const mixed = [
      { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [1, 2] } },
      { type: 'Feature', properties: {}, geometry },
    ];
    expect((await exported(found('mixed', mixed), 'shapefile')).plan.why).toContain('several kinds');
  });

  test('another CRS: computed, and as ogr2ogr computes it', async () => {
    const { path, plan } = await exported(found('hard', features.slice(0, 1)), 'shapefile', 'EPSG:32631');
    expect(plan.crs).toBe('EPSG:32631');
    const theirs = layer(join(folder, 'hard', 'hard.geojson'), '-t_srs', 'EPSG:32631');
    const [a, b] = [
      positions(layer(path, '-t_srs', 'EPSG:32631').features[0]!.geometry!.coordinates),
      positions(theirs.features[0]!.geometry!.coordinates),
    ];
    const near = (p: number[]): number => Math.min(...b.map((q) => Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!)));
    expect(Math.max(...a.map(near))).toBeLessThan(0.001);
  });

  test('Z and M of a shapefile', async () => {
    for (const kind of ['POINT ZM (1 2 3 4)', 'LINESTRING ZM (1 2 3 4,5 6 7 8)', 'MULTIPOINT Z ((1 2 3),(4 5 6))', 'POINT M (1 2 4)']) {
      const at = join(folder, `z${n++}`);
      mkdirSync(at);
      writeFileSync(join(at, 'z.csv'), `WKT,n\n"${kind}",1\n`);
      execFileSync(
        'ogr2ogr',
        ['-f', 'GPKG', join(at, 'z.gpkg'), join(at, 'z.csv'), '-oo', 'GEOM_POSSIBLE_NAMES=WKT', '-a_srs', 'EPSG:32631'],
        { stdio: 'ignore' },
      );
      rmSync(join(at, 'z.csv'));
      const { path } = await exported({ folder: at, dataset: surveyFolder(at).datasets[0]! }, 'shapefile');
      const wkt = (file: string): string =>
        /^ {2}((POINT|LINE|MULTI).*)$/m.exec(
          execFileSync('ogrinfo', ['-q', '-al', file], { stdio: ['ignore', 'pipe', 'ignore'] }).toString(),
        )![1]!;
      expect(wkt(path)).toBe(wkt(join(at, 'z.gpkg')));
    }
  });
});

test('heights that only some records have go into a shapefile, and what they lack is told; surfaces in space are refused', async () => {
  const at = join(folder, 'heights');
  mkdirSync(at);
  const point = (coordinates: number[]) => ({
    type: 'Feature',
    properties: { n: coordinates.length },
    geometry: { type: 'MultiPoint', coordinates: [coordinates] },
  });
  writeFileSync(
    join(at, 'flat.geojson'),
    JSON.stringify({ type: 'FeatureCollection', features: [point([1, 2]), point([3, 4, 5.5]), point([6, 7])] }),
  );
  const [d] = surveyFolder(at).datasets;
  const { plan, done, path } = await exported({ folder: at, dataset: d! }, 'shapefile');
  expect(plan.losses.map(lossWords)).toContain('2 records have no height (Z), and get 0');
  expect(done!.written).toBe(3);
  expect(layer(path).features.map((f) => positions(f.geometry!.coordinates)[0])).toEqual([
    [1, 2, 0],
    [3, 4, 5.5],
    [6, 7, 0],
  ]);
  const patch = { ...d!, geometryType: 'MultiPatch' };
  for (const format of ['shapefile', 'geojson', 'csv'] as const)
    expect(planExport(bare, { folder: at, dataset: patch }, { format, crs: null }, join(at, `x.${format}`), 'test').why).toContain(
      'surfaces in space',
    );
});

test('a component beyond 2,147,483,647 bytes is refused before anything is written', async () => {
  const at = join(folder, 'wide');
  mkdirSync(at);
  const fields = Array.from({ length: 200 }, (_, i) => `f${i}`).join(',');
  // Forty thousand rows of two hundred texts, one of which is 254 bytes wide in the first row.
  const wide = Array.from({ length: 200 }, () => 'x'.repeat(254)).join(',');
  writeFileSync(join(at, 'wide.csv'), `${fields}\n${wide}\n${`${','.repeat(199)}\n`.repeat(45_000)}`);
  const { plan } = await exported({ folder: at, dataset: surveyFolder(at).datasets[0]! }, 'shapefile');
  expect(plan.why).toContain('2147483647');
  expect(plan.change).toBeNull();
});
