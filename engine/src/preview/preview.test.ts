import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { VectorTile } from '@mapbox/vector-tile';
import Pbf from 'pbf';
import { readFeatures, wkbToGeoJson, writeShapefile, type Dataset } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { doubtOf } from '../crs/doubt.js';
import { platformBelow } from '../survey/platform.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { CacheFolder } from '../disk/cache-folder.js';
import { fieldStatistics } from './field-statistics.js';
import { openPixels } from '../pixels/open-pixels.js';
import { Previews } from './preview.js';
import { thumbnailOf } from './thumbnail.js';

const root = 'testdata/open';
const datasets = surveyFolder(root).datasets.filter((d) => d.state === 'ok' && d.bbox);
let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-preview-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const EXTENT = 4096;

const areaOf = (ring: readonly { x: number; y: number }[]): number =>
  ring.reduce((sum, p, i) => sum + p.x * ring[(i + 1) % ring.length]!.y - ring[(i + 1) % ring.length]!.x * p.y, 0) / 2;

describe('tiles of the open data', () => {
  const vectors = datasets.filter((d) => d.kind === 'vector' && d.group.format !== 'kml');
  test.each(vectors.map((d) => [d.id, d] as const))(
    '%s: every position that is drawn is one of the data, within a unit',
    async (_, dataset) => {
      const previews = new Previews(folder);
      const view = await previews.prepare({ folder: root, dataset }, null, () => undefined);
      const bytes = await previews.tile(view.version, 0, 0, 0);
      if (view.count === 0) return expect(bytes).toHaveLength(0);
      const layer = new VectorTile(new Pbf(bytes)).layers['shapes']!;
      const { minx, maxy, side } = view.square;
      const units = new Set<string>();
      const platform = platformBelow(root);
      const note = (c: unknown): void => {
        if (!Array.isArray(c)) return;
        if (typeof c[0] === 'number')
          units.add(`${Math.round(((c[0] - minx) / side) * EXTENT)} ${Math.round(((maxy - (c[1] as number)) / side) * EXTENT)}`);
        else c.forEach(note);
      };
      for (const { geometry } of readFeatures(dataset, platform).features) if (geometry) note(wkbToGeoJson(geometry)?.coordinates);
      platform.close();
      let drawn = 0;
      for (let i = 0; i < layer.length; i++) {
        const feature = layer.feature(i);
        if (feature.properties['cells']) continue;
        drawn++;
        for (const run of feature.loadGeometry())
          for (const p of run) if (!units.has(`${p.x} ${p.y}`)) expect([dataset.id, p.x, p.y]).toBe('a position of the data');
      }
      expect(drawn + (view.count ?? 0)).toBeGreaterThan(0);
    },
  );

  test('in another CRS, shapes stand where cs2cs puts them', async () => {
    const dataset = vectors.find((d) => d.crs?.code === 'EPSG:4267')!;
    const view = await new Previews(folder).prepare({ folder: root, dataset }, 'EPSG:32617', () => undefined);
    const platform = platformBelow(root);
    let text = '';
    const note = (c: unknown): void => {
      if (!Array.isArray(c)) return;
      if (typeof c[0] === 'number') text += `${c[1]} ${c[0]}\n`;
      else c.forEach(note);
    };
    for (const { geometry } of readFeatures(dataset, platform).features) if (geometry) note(wkbToGeoJson(geometry)?.coordinates);
    platform.close();
    const theirs = execFileSync('cs2cs', ['-f', '%.4f', 'EPSG:4267', 'EPSG:32617'], { input: text })
      .toString()
      .trim()
      .split('\n')
      .map((line) => line.split(/\s+/).map(Number));
    const [xs, ys] = [theirs.map((p) => p[0]!), theirs.map((p) => p[1]!)];
    const box = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
    const { metres } = doubtOf('EPSG:4267', 'EPSG:32617');
    view.extent.forEach((side, i) => expect(Math.abs(side - box[i]!)).toBeLessThan(metres!));
  });
});

// Source: gdallocationinfo of Debian's gdal-bin.
describe('pixels of the open data, as GDAL reads them', () => {
  const rasters = datasets.filter((d) => d.kind === 'raster' && d.group.format !== 'geopackage');
  test('there are some', () => expect(rasters.length).toBeGreaterThan(2));
  test.each(rasters.map((d) => [d.id, d] as const))('%s', async (_, dataset) => {
    const platform = platformBelow(root);
    const pixels = (await openPixels(root, dataset.group, dataset.table, platform))!;
    const { width, height, bands } = dataset.raster!;
    const at = Array.from({ length: 40 }, (_, i) => [(i * 7919) % width, (i * 104729) % height] as const);
    const cols = Int32Array.from(at, ([c]) => c);
    const rows = Int32Array.from(at, ([, r]) => r);
    const values = await pixels.values(cols, rows, 1);
    const colours = await pixels.colours(cols, rows, 1);
    const info = execFileSync('gdallocationinfo', ['-valonly', join(root, dataset.group.path)], {
      input: at.map((p) => p.join(' ')).join('\n'),
    });
    const theirs = info.toString().trim().split('\n').map(Number);
    const each = theirs.length / at.length;
    expect(each).toBe(bands);
    at.forEach((_, i) => {
      const first = theirs[i * each]!;
      if (values && !Number.isNaN(values[i]!)) expect(values[i]).toBeCloseTo(first, 3);
      else if (!values && each >= 3) expect([...colours!.subarray(i * 4, i * 4 + 3)]).toEqual(theirs.slice(i * each, i * each + 3));
    });
    pixels.close();
    platform.close();
  });
});

describe('many shapes, and none', () => {
  const write = (name: string, shapes: (readonly [number, number])[][][]): Dataset => {
    const below = join(folder, name);
    mkdirSync(below, { recursive: true });
    const parts = writeShapefile({
      shapeType: 5,
      shapes,
      fields: [{ name: 'n', code: 'N', lengthBytes: 9 }],
      rows: shapes.map((_, i) => [i % 5]),
      date: { year: 2026, month: 1, day: 1 },
    });
    for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(below, `${name}.${ending}`), bytes);
    return surveyFolder(below).datasets[0]!;
  };
  const square = (x: number, y: number, size: number): (readonly [number, number])[][] => [
    [
      [x, y],
      [x, y + size],
      [x + size, y + size],
      [x + size, y],
      [x, y],
    ],
  ];

  test('thousands of tiny areas become few rectangles that cover where they are; near by they are drawn themselves', async () => {
    const dataset = write(
      'tiny',
      Array.from({ length: 10_000 }, (_, i) => square((i % 100) * 10, Math.floor(i / 100) * 10, 1)),
    );
    const previews = new Previews(folder);
    const view = await previews.prepare({ folder: join(folder, 'tiny'), dataset }, null, () => undefined);
    const whole = new VectorTile(new Pbf(await previews.tile(view.version, 0, 0, 0))).layers['shapes']!;
    expect(whole.length).toBe(1);
    expect(whole.feature(0).properties['cells']).toBe(true);
    expect(whole.feature(0).loadGeometry().length).toBeGreaterThan(5000); // none hides another
    const near = new VectorTile(new Pbf(await previews.tile(view.version, 5, 16, 16))).layers['shapes']!;
    expect(near.feature(0).properties['cells']).toBeUndefined();
    expect(near.length).toBeGreaterThan(4);
    expect(near.length).toBeLessThan(40);
    const thumbnail = (await thumbnailOf({ folder: join(folder, 'tiny'), dataset }))!;
    expect(thumbnail.kind).toBe('area');
    expect(thumbnail.path.length).toBeLessThan(10_000);
  });

  test('an area that is cut by the edge of a tile keeps every corner, wherever its ring begins', async () => {
    // Source: the area of a rectangle within the box of a tile and the units that are drawn beyond its edge.
    const corners: readonly (readonly [number, number])[] = [
      [10, 10],
      [10, 70],
      [90, 70],
      [90, 10],
    ];
    const rings = corners.map((_, i) => [[0, 1, 2, 3, 4].map((k) => corners[(i + k) % 4]!)]);
    const dataset = write('cut', [...rings, square(0, 0, 1), square(99, 99, 1)]);
    const previews = new Previews(folder);
    const view = await previews.prepare({ folder: join(folder, 'cut'), dataset }, null, () => undefined);
    const side = view.square.side / 2;
    const margin = (64 / EXTENT) * side;
    const within = (from: number, to: number, at: number): number =>
      Math.min(to, (at + 1) * side + margin) - Math.max(from, at * side - margin);
    for (const [x, y] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ] as const) {
      const layer = new VectorTile(new Pbf(await previews.tile(view.version, 1, x, y))).layers['shapes']!;
      const areas = Array.from({ length: layer.length }, (_, i) => layer.feature(i))
        .filter((f) => !f.properties['cells'])
        .map((f) => Math.abs(f.loadGeometry().reduce((sum, ring) => sum + areaOf(ring), 0)) * (side / EXTENT) ** 2)
        .filter((area) => area > 2);
      expect(areas).toHaveLength(4);
      for (const area of areas) expect(area).toBeCloseTo(within(10, 90, x) * within(10, 70, 1 - y), -1);
    }
  });

  test('a tile outside is empty; a preview that is gone is said so; a file that changes has another picture', async () => {
    const dataset = write('one', [square(0, 0, 10)]);
    const below = join(folder, 'one');
    const previews = new Previews(folder);
    const view = await previews.prepare({ folder: below, dataset }, null, () => undefined);
    expect(await previews.tile(view.version, 3, 700, 0)).toHaveLength(0);
    await expect(previews.tile('0'.repeat(32), 0, 0, 0)).rejects.toThrow('There is no preview');
    utimesSync(join(below, 'one.shp'), new Date(), new Date(Date.now() + 5000));
    const again = await previews.prepare({ folder: below, dataset: surveyFolder(below).datasets[0]! }, null, () => undefined);
    expect(again.version).not.toBe(view.version);
  });

  test('what stands in the fields', () => {
    const dataset = write(
      'fields',
      Array.from({ length: 12 }, (_, i) => square(i, 0, 1)),
    );
    const view = fieldStatistics({ folder: join(folder, 'fields'), dataset }, () => undefined);
    expect(view.records).toBe(12);
    expect(view.fields[0]).toEqual({
      name: 'n',
      type: 'integer',
      filled: 12,
      distinct: 5,
      min: 0,
      max: 4,
      mean: 21 / 12,
      samples: ['0', '1', '2', '3'],
    });
  });
});

test('the cache forgets what was used longest ago', () => {
  const cache = new CacheFolder(join(folder, 'cache-test'));
  ['a', 'b', 'c'].forEach((name, i) => {
    writeFileSync(join(cache.of(name), 'x'), Buffer.alloc(100));
    utimesSync(join(cache.folder, name), new Date(), new Date(1e12 + i * 1000));
  });
  cache.trim(250);
  expect(surveyNames(cache.folder)).toEqual(['b', 'c']);
});
const surveyNames = (path: string): string[] => execFileSync('ls', [path]).toString().trim().split('\n');
