import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { IdentifiedLayer, LayerDrawing } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { Previews } from './preview.js';

const root = 'testdata/open';
const datasets = surveyFolder(root).datasets.filter((d) => d.state === 'ok' && d.bbox);
let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-identify-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Numbers from 0 to 1 that are the same in every run (mulberry32, of the public domain). */
function seeded(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

/** Outside reference: GEOS, by SpatiaLite, through ogrinfo. Ids of records within reach of a point. */
function theirs(path: string, table: string, [x, y]: readonly number[], reach: number): number[] {
  const sql = `SELECT ROWID AS n FROM "${table}" WHERE ST_Distance(geometry, MakePoint(${x}, ${y})) <= ${reach}`;
  const told = execFileSync('ogrinfo', ['-q', '-ro', path, '-dialect', 'sqlite', '-sql', sql], { stdio: ['ignore', 'pipe', 'ignore'] });
  return [...told.toString().matchAll(/ {2}n \(\w+\) = (\d+)/g)].map((m) => Number(m[1])).sort((a, b) => a - b);
}

const ask = async (previews: Previews, version: string, at: readonly [number, number], reach: number, drawing: string | null = null) =>
  (await previews.identify({ at, reach, layers: [{ id: 'one', version, drawing }] }))[0] as IdentifiedLayer;

describe('records at a point of the open data', () => {
  const vectors = datasets.filter(
    (d) => d.group.format === 'shapefile' && (d.featureCount ?? 0) > 0 && !/Patch/.test(d.geometryType ?? ''),
  );
  test.each(vectors.map((d) => [d.id, d] as const))('%s: those that GEOS finds', async (_, dataset) => {
    const previews = new Previews(folder);
    const { version, extent } = await previews.prepare({ folder: root, dataset }, null, () => undefined);
    const random = seeded(24);
    const [minx, miny, maxx, maxy] = extent;
    const reach = Math.max(maxx - minx, maxy - miny, 1e-3) / 40;
    const table = dataset.group.path.replace(/^.*\//, '').replace(/\.shp$/, '');
    for (let i = 0; i < 6; i++) {
      const at = [minx + random() * (maxx - minx), miny + random() * (maxy - miny)] as const;
      const { shapes, more, problem } = await ask(previews, version, at, reach);
      expect([problem, more]).toEqual([null, 0]);
      expect([at, shapes.map((s) => s.record).sort((a, b) => a - b)]).toEqual([
        at,
        theirs(join(root, dataset.group.path), table, at, reach),
      ]);
      const away = shapes.map((s) => s.away);
      expect(away).toEqual([...away].sort((a, b) => a - b));
    }
  });
});

test('the pixel of a raster is the one that gdallocationinfo reads', async () => {
  const rasters = datasets.filter((d) => d.kind === 'raster' && d.group.format === 'geotiff');
  let asked = 0;
  for (const dataset of rasters) {
    const previews = new Previews(folder);
    const { version, extent } = await previews.prepare({ folder: root, dataset }, null, () => undefined);
    const random = seeded(7);
    const info = execFileSync('gdalinfo', ['-json', join(root, dataset.group.path)], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();
    const nodata = (JSON.parse(info) as { bands: { noDataValue?: number }[] }).bands.map((b) => b.noDataValue ?? null);
    for (let i = 0; i < 5; i++) {
      const at = [extent[0] + random() * (extent[2] - extent[0]), extent[1] + random() * (extent[3] - extent[1])] as const;
      const { bands, problem } = await ask(previews, version, at, 0);
      expect(problem).toBeNull();
      const told = execFileSync('gdallocationinfo', ['-valonly', '-geoloc', join(root, dataset.group.path), String(at[0]), String(at[1])]);
      const values = told.toString().trim().split('\n').map(Number);
      if (bands === null || told.toString().trim() === '') {
        expect([dataset.id, at, bands, told.toString().trim()]).toEqual([dataset.id, at, null, '']); // beside a raster that is turned
        continue;
      }
      if (bands.length === 0) continue; // colours only
      const theirBands = values.map((v, n) => (v === nodata[n] || Number.isNaN(v) ? null : v));
      expect([dataset.id, at, bands]).toEqual([dataset.id, at, theirBands]);
      asked++;
    }
    expect((await ask(previews, version, [extent[2] + 1e6, extent[3]], 0)).bands).toBeNull();
  }
  expect(asked).toBeGreaterThan(0);
});

test('what a filter hides is not there, a version that is gone is told, and shapes come as they are drawn', async () => {
  const dataset = datasets.find((d) => d.id.endsWith('columbus.shp'))!;
  const previews = new Previews(folder);
  const drawing: LayerDrawing = { filter: 'CRIME > 1000', rules: [], label: null, raster: null };
  const hidden = await previews.prepareLayer({ folder: root, dataset }, null, drawing, () => undefined);
  const plain = await previews.prepare({ folder: root, dataset }, null, () => undefined);
  const [minx, miny, maxx, maxy] = plain.extent;
  const middle = [(minx + maxx) / 2, (miny + maxy) / 2] as const;
  const all = await ask(previews, plain.version, middle, maxx - minx);
  expect(all.shapes.length + all.more).toBe(plain.count);
  expect(await ask(previews, hidden.version, middle, maxx - minx, hidden.drawing)).toMatchObject({ shapes: [], more: 0, problem: null });
  expect((await ask(previews, 'f'.repeat(32), middle, 1)).problem).toMatch(/preview/);
  const [first] = all.shapes;
  const [shape, ...rest] = previews.shapes({ version: plain.version, records: [first!.record, 1e9] });
  expect(rest).toEqual([]);
  expect(shape).toMatchObject({ record: first!.record, kind: 'area' });
  const xs = shape!.runs!.flatMap((run) => run.filter((_, i) => i % 2 === 0));
  expect([Math.min(...xs), Math.max(...xs)]).toEqual([shape!.box[0], shape!.box[2]]);
});
