import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { join } from '../disk/native-path.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { writeCopy } from './write-copy.js';

// Outside references: validate_gpkg of Debian's python3-gdal, ogrinfo and ogr2ogr of gdal-bin.
const VALIDATOR = '/usr/lib/python3/dist-packages/osgeo_utils/samples/validate_gpkg.py';
const validate = (path: string): string =>
  execFileSync('/usr/bin/python3', [VALIDATOR, path], { stdio: ['ignore', 'pipe', 'pipe'] }).toString();
const layer = (args: readonly string[]) =>
  JSON.parse(
    execFileSync('ogr2ogr', ['-f', 'GeoJSON', '/vsistdout/', ...args], {
      maxBuffer: 1 << 28,
      stdio: ['ignore', 'pipe', 'ignore'],
    }).toString(),
  ) as {
    features: { geometry: { type: string; coordinates: unknown } | null; properties: Record<string, unknown> }[];
  };

let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-copies-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const positions = (c: unknown): [number, number][] =>
  !Array.isArray(c) ? [] : typeof c[0] === 'number' ? [[c[0], c[1] as number]] : (c as unknown[]).flatMap(positions);

describe('copies of the open data in another CRS', () => {
  const root = 'testdata/open';
  const datasets = surveyFolder(root).datasets.filter(
    (d) => d.kind === 'vector' && d.state === 'ok' && d.crs?.code && (d.featureCount ?? 0) > 0,
  );
  test('there are some of each format', () => expect(new Set(datasets.map((d) => d.group.format)).size).toBeGreaterThan(2));
  test.each(datasets.map((d) => [d.id, d] as const))('%s: valid, and every number as ogr2ogr has it', (id, dataset) => {
    const path = join(folder, `${id.replace(/\W/g, '_')}.gpkg`);
    const target = dataset.crs!.code === 'EPSG:4326' ? 'EPSG:3857' : 'EPSG:4326';
    const written = writeCopy({ folder: root, dataset }, target, path, 'copy', () => undefined);
    expect(written.read).toBe(written.written + written.skipped.length);
    expect(written.read).toBe(dataset.featureCount);
    expect(validate(path)).not.toContain('fail');
    expect(readdirSync(folder).filter((n) => /-(wal|shm|journal)$/.test(n))).toEqual([]);
    const mine = layer([path]);
    // Without grids, as ours: what a grid would add is told as doubt.
    const theirs = layer([
      join(root, dataset.group.path),
      ...(dataset.table ? [dataset.table] : []),
      '-t_srs',
      target,
      '-s_srs',
      dataset.crs!.code!,
      '-lco',
      'RFC7946=NO',
    ]);
    expect(mine.features).toHaveLength(theirs.features.length);
    const tolerance = target === 'EPSG:3857' ? 0.01 : 0.003;
    mine.features.forEach((f, i) => {
      const [a, b] = [positions(f.geometry?.coordinates), positions(theirs.features[i]!.geometry?.coordinates)];
      expect(a).toHaveLength(b.length);
      const far = a.findIndex((p, k) => Math.hypot(p[0] - b[k]![0], p[1] - b[k]![1]) > tolerance);
      if (far >= 0) expect([id, i, a[far]]).toEqual([id, i, b[far]]);
    });
  });
});

test('the index finds exactly what a search without it finds', () => {
  const root = join(folder, 'many');
  mkdirSync(root);
  let seed = 5;
  const next = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const features = Array.from({ length: 20_000 }, (_, i) => {
    const [x, y] = [next() * 20 - 10, next() * 20 - 10];
    const coordinates =
      i % 3 === 0
        ? [
            [x, y],
            [x + next(), y + next()],
          ]
        : [
            [x, y],
            [x, y],
          ];
    return {
      type: 'Feature',
      properties: { fid: i, geom: 'own', n: i % 7, flag: i % 2 === 0 },
      geometry: i % 500 === 0 ? null : { type: 'LineString', coordinates },
    };
  });
  writeFileSync(join(root, 'lines.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
  const path = join(root, 'lines.gpkg');
  const written = writeCopy({ folder: root, dataset: surveyFolder(root).datasets[0]! }, 'EPSG:4326', path, 'lines', () => undefined);
  expect(written).toMatchObject({ read: 20_000, written: 20_000, nulls: 40, skipped: [] });
  expect(validate(path)).not.toContain('fail');
  const db = new Database(path, { readonly: true });
  expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
  expect(db.prepare("SELECT rtreecheck('rtree_lines_geom')").pluck().get()).toBe('ok');
  expect(db.pragma('table_info(lines)')).toMatchObject([
    { name: 'fid' },
    { name: 'geom' },
    { name: 'fid_1', type: 'MEDIUMINT' },
    { name: 'geom_1' },
    { name: 'n' },
    { name: 'flag', type: 'BOOLEAN' },
  ]);
  for (let k = 0; k < 50; k++) {
    const [x, y, w] = [next() * 20 - 10, next() * 20 - 10, next() * 2];
    const found = new Set(
      db
        .prepare('SELECT id FROM rtree_lines_geom WHERE maxx >= ? AND minx <= ? AND maxy >= ? AND miny <= ?')
        .pluck()
        .all(x, x + w, y, y + w) as number[],
    );
    features.forEach(({ geometry }, i) => {
      if (!geometry) return;
      const [a, b] = geometry.coordinates as [[number, number], [number, number]];
      const meets =
        Math.max(a[0], b[0]) >= x && Math.min(a[0], b[0]) <= x + w && Math.max(a[1], b[1]) >= y && Math.min(a[1], b[1]) <= y + w;
      if (meets && !found.has(i + 1)) expect(['missing in the index', i]).toEqual([]);
    });
  }
  db.close();
});

test('a CRS that nobody knows is told, and no file is left', () => {
  const root = join(folder, 'unknown');
  mkdirSync(root);
  for (const e of ['shp', 'shx', 'dbf'])
    cpSync(`testdata/open/example_project/originals/harbour_office/buoy_001.${e}`, join(root, `a.${e}`));
  const path = join(root, 'a.gpkg');
  expect(() => writeCopy({ folder: root, dataset: surveyFolder(root).datasets[0]! }, 'EPSG:3857', path, 'a', () => undefined)).toThrow(
    'nobody knows which CRS',
  );
  expect(existsSync(path)).toBe(false);
});
