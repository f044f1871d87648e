import { mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { describeGroup, groupFiles, memorySource, readFullPart, type FileGroup, type Platform } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { diskSentence } from '../disk/disk-problem.js';
import { platformBelow } from './platform.js';
import { describeBelow } from './list-datasets.js';

const MUTATIONS = 10_000;
const SPARE_BYTES = 64 * 1024 * 1024;
const LONGEST_MS = 2_000;

/** mulberry32: the same mutations on every machine. */
function seeded(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** One to four bytes changed; numbers that matter in formats (0, 1, 127, 255) are preferred, now and then a run of them. */
function mutate(bytes: Uint8Array, random: () => number): Uint8Array {
  const out = Uint8Array.from(bytes);
  const times = 1 + Math.floor(random() * 4);
  for (let i = 0; i < times; i++) {
    const at = Math.floor(random() * (random() < 0.5 ? Math.min(out.length, 200) : out.length));
    const value = random() < 0.5 ? [0, 1, 127, 255][Math.floor(random() * 4)]! : Math.floor(random() * 256);
    const run = random() < 0.2 ? 4 : 1;
    out.fill(value, at, at + run);
  }
  return out;
}

type Files = Record<string, Uint8Array>;
function inMemory(files: Files): { group: FileGroup; platform: Platform } {
  const real = platformBelow('/nonexistent');
  const group = groupFiles(Object.entries(files).map(([path, b]) => ({ path, bytes: b.length, modifiedMs: 0 }))).groups[0]!;
  return { group, platform: { ...real, open: (path) => memorySource(files[path]!) } };
}

/** Reads headers and the full part; anything but a value is a failure. Gives the state. */
function readAll(files: Files): string {
  const { group, platform } = inMemory(files);
  const started = performance.now();
  const [dataset] = describeGroup(group, platform, () => null);
  readFullPart(dataset!, platform);
  expect(performance.now() - started).toBeLessThan(LONGEST_MS);
  return dataset!.state;
}

const shape = (stem: string): Files =>
  Object.fromEntries(['shp', 'shx', 'dbf'].map((e) => [`x.${e}`, readFileSync(`testdata/open/shape-types/${stem}.${e}`)]));
const types = [
  'multipatch',
  'multipoint',
  'multipointm',
  'multipointz',
  'point',
  'pointm',
  'pointz',
  'polygon',
  'polygonm',
  'polygonz',
  'polyline',
  'polylinem',
  'polylinez',
];
const geojson = Buffer.from(
  JSON.stringify({
    type: 'FeatureCollection',
    features: [
      {
        type: 'Feature',
        properties: { a: 1, b: 'ü', c: null },
        geometry: {
          type: 'Polygon',
          coordinates: [
            [
              [0, 0],
              [1, 0],
              [1, 1],
              [0, 0],
            ],
          ],
        },
      },
      { type: 'Feature', properties: { a: 2.5 }, geometry: { type: 'MultiPoint', coordinates: [[5, 6, 7]] } },
    ],
  }),
);
const tiff = (name: string): Uint8Array => readFileSync(`testdata/open/${name}`);
const grid = Buffer.from('ncols 3\nnrows 2\nxllcorner 1\nyllcorner 2\ncellsize 10\nNODATA_value -1\n1 2 3\n4 -1 6\n');

const samples: [string, Files][] = [
  ...types.map((t): [string, Files] => [`shapefile ${t}`, shape(t)]),
  ['GeoJSON', { 'x.geojson': geojson }],
  ['GeoTIFF, LZW', { 'x.tif': tiff('spdata/raster/elev.tif') }],
  ['GeoTIFF, rotated', { 'x.tif': tiff('sf/tif/geomatrix.tif') }],
  ['ASCII grid', { 'x.asc': grid }],
  ['CSV', { 'x.csv': readFileSync('testdata/open/sf/csv/pt.csv') }],
  ['DBF', { 'x.dbf': readFileSync('testdata/open/dbf/codepage.dbf') }],
];

describe('truncated at every byte', () => {
  test.each(samples)('%s', (_, files) => {
    for (const [name, bytes] of Object.entries(files))
      for (let length = 0; length < bytes.length; length++) readAll({ ...files, [name]: bytes.subarray(0, length) });
  });
  test('a shapefile cut short says so', () => {
    const files = shape('polygon');
    expect(readAll(files)).toBe('ok');
    expect(readAll({ ...files, 'x.shp': files['x.shp']!.subarray(0, 120) })).toBe('unreadable');
    expect(readAll({ ...files, 'x.shp': files['x.shp']!.subarray(0, 40) })).toBe('unreadable');
  });
});

describe(`${MUTATIONS} seeded mutations`, () => {
  test.each([
    ['shapefile', types.map(shape)],
    ['GeoJSON', [{ 'x.geojson': geojson }]],
    [
      'GeoTIFF',
      [
        { 'x.tif': tiff('spdata/raster/elev.tif') },
        { 'x.tif': tiff('sf/tif/geomatrix.tif') },
        { 'x.tif': tiff('spdata/raster/grain.tif') },
      ],
    ],
  ] as [string, Files[]][])('%s', (_, variants) => {
    const random = seeded(4711);
    global.gc?.();
    const before = process.memoryUsage().arrayBuffers;
    let most = 0;
    for (let i = 0; i < MUTATIONS; i++) {
      const files = { ...variants[i % variants.length]! };
      const names = Object.keys(files);
      const name = names[Math.floor(random() * names.length)]!;
      files[name] = mutate(files[name]!, random);
      readAll(files);
      most = Math.max(most, process.memoryUsage().arrayBuffers - before);
    }
    expect(most).toBeLessThan(SPARE_BYTES + 10_000);
  });
});

describe('GeoPackage', () => {
  let folder: string;
  let original: Buffer;
  const file = (): string => join(folder, 'x.gpkg');
  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'rootmap-hostile-'));
    original = smallGeopackage(file());
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  const read = (): string => {
    const [group] = groupFiles([{ path: 'x.gpkg', bytes: original.length, modifiedMs: 0 }]).groups;
    const platform = platformBelow(folder);
    const datasets = describeBelow(folder, group!);
    for (const d of datasets) readFullPart(d, platform);
    return datasets.map((d) => d.state).join();
  };

  test('whole, it is read', () => expect(read()).toBe('ok,ok'));

  test('truncated at every byte', () => {
    writeFileSync(file(), original);
    for (let length = original.length - 1; length >= 0; length--) {
      truncateSync(file(), length);
      read();
    }
  });

  test(`${MUTATIONS} seeded mutations`, () => {
    const random = seeded(4712);
    const before = process.memoryUsage().rss;
    for (let i = 0; i < MUTATIONS; i++) {
      writeFileSync(file(), mutate(original, random));
      read();
    }
    expect(process.memoryUsage().rss - before).toBeLessThan(4 * SPARE_BYTES); // of the whole test process, garbage included
  });

  test('a folder under its name, and a missing file, are told and not thrown', () => {
    const platform = platformBelow(folder);
    const group: FileGroup = {
      format: 'geopackage',
      kind: 'vector',
      path: 'none.gpkg',
      main: { path: 'none.gpkg', bytes: 0, modifiedMs: 0 },
      companions: [],
      borrowed: [],
    };
    expect(describeGroup(group, platform, diskSentence)[0]).toMatchObject({ state: 'unreadable' });
  });
});

/** Small pages keep the file small, so that every byte can be cut away in reasonable time. */
function smallGeopackage(path: string): Buffer {
  const db = new Database(path);
  db.pragma('page_size = 512');
  db.exec(readFileSync('engine/test/two-tables.sql', 'utf8'));
  const point = Buffer.from('47500001e61000000101000000000000000000f03f0000000000000040', 'hex');
  for (let i = 2; i < 20; i++) db.prepare('INSERT INTO a VALUES (?, ?, ?)').run(i, point, `name ${i}`);
  db.close();
  return readFileSync(path);
}
