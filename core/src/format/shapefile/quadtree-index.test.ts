import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { memorySource } from '../../bytes/byte-source.js';
import { quadtreeIndex } from './quadtree-index.js';
import { writeShapefile } from './write-shapefile.js';

// Judge: GDAL's own `CREATE SPATIAL INDEX` on the same file, byte for byte.
let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-qix-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

function gdal(stem: string): Buffer {
  execFileSync('ogrinfo', [join(folder, `${stem}.shp`), '-q', '-sql', `CREATE SPATIAL INDEX ON "${stem}"`]);
  return readFileSync(join(folder, `${stem}.qix`));
}
const ours = (stem: string): Buffer => Buffer.from(quadtreeIndex(memorySource(readFileSync(join(folder, `${stem}.shp`))))!);

/** Numbers of a linear congruential generator, so that the same shapes come every time. */
function numbers(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 1664525 + 1013904223) % 2 ** 32) / 2 ** 32;
}

function write(stem: string, shapeType: 1 | 3 | 5, count: number, seed: number): void {
  const next = numbers(seed);
  const shapes = Array.from({ length: count }, () => {
    const [x, y, r] = [next() * 900, next() * 400, next() ** 3 * 90];
    if (shapeType === 1) return [[[x, y] as const]];
    const ring = [
      [x, y],
      [x, y + r],
      [x + r, y + r],
      [x, y],
    ] as const;
    return [ring.slice(0, shapeType === 3 ? 3 : 4)];
  });
  const parts = writeShapefile({
    shapeType,
    shapes,
    fields: [{ name: 'n', code: 'N', lengthBytes: 9 }],
    rows: shapes.map((_, i) => [i]),
    date: { year: 2026, month: 1, day: 2 },
  });
  for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(folder, `${stem}.${ending}`), bytes);
}

test.each([
  ['points', 1, 1],
  ['points', 1, 4],
  ['points', 1, 5],
  ['points', 1, 3000],
  ['lines', 3, 777],
  ['areas', 5, 1],
  ['areas', 5, 9],
  ['areas', 5, 20_000],
] as const)('%s (%i): of %i shapes it is that of GDAL', (what, type, count) => {
  const stem = `${what}_${count}`;
  write(stem, type, count, count + 7);
  expect(ours(stem).equals(gdal(stem))).toBe(true);
});

const open = 'testdata/open';
const published = readdirSync(open, { recursive: true, encoding: 'utf8' }).filter(
  (f) => f.endsWith('.shp') && !/multipatch|example_project/.test(f),
);
test.each(published)('of the published %s, too', (file) => {
  const stem = basename(file, '.shp');
  for (const ending of ['shp', 'shx', 'dbf']) cpSync(join(open, file.replace(/shp$/, ending)), join(folder, `${stem}.${ending}`));
  expect(ours(stem).equals(gdal(stem))).toBe(true);
});

test('a file that is cut off, or none at all, gives no index', () => {
  write('whole', 5, 12, 1);
  const whole = readFileSync(join(folder, 'whole.shp'));
  expect(quadtreeIndex(memorySource(whole.subarray(0, whole.length - 3)))).toBeNull();
  expect(quadtreeIndex(memorySource(whole.subarray(0, 50)))).toBeNull();
  expect(quadtreeIndex(memorySource(Buffer.alloc(200)))).toBeNull();
});
