import { execFileSync } from 'node:child_process';
import { cpSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { VectorTile } from '@mapbox/vector-tile';
import Pbf from 'pbf';
import type { LayerDrawing } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { datasetsOfFile, type FoundDataset } from '../project/find-dataset.js';
import { gdal } from '../../test/geopackage-validator.js';
import { Previews } from './preview.js';

let folder: string;
let previews: Previews;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-classes-'));
  cpSync('testdata/open/spdata/shapes', join(folder, 'shapes'), { recursive: true });
  gdal('ogr2ogr', '-f', 'GPKG', join(folder, 'c.gpkg'), join(folder, 'shapes/columbus.shp'));
  previews = new Previews(join(folder, 'data'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const shapefile = (): FoundDataset => datasetsOfFile(join(folder, 'shapes/columbus.shp'))[0]!;
const table = (): FoundDataset => datasetsOfFile(join(folder, 'c.gpkg'))[0]!;
const PLAIN: LayerDrawing = { filter: '', rules: [{ filter: null, isElse: false }], label: null, raster: null };
const prepare = (found: FoundDataset, drawing: Partial<LayerDrawing>) =>
  previews.prepareLayer(found, null, { ...PLAIN, ...drawing }, () => undefined);
/** Records that GDAL finds by the same text. */
const counted = (where: string): number =>
  Number(/Feature Count: (\d+)/.exec(execFileSync('ogrinfo', ['-so', '-where', where, join(folder, 'c.gpkg'), 'columbus']).toString())![1]);
const tileOf = async (found: FoundDataset, drawing: Partial<LayerDrawing>) => {
  const { version, drawing: name } = await prepare(found, drawing);
  return new VectorTile(new Pbf(await previews.tile(version, 0, 0, 0, name)));
};

// Source: GDAL's SQL, which reads the same conditions.
describe.each([
  ['a shapefile', shapefile],
  ['a table with an index', table],
] as const)('%s', (_, found) => {
  test.each([
    'CRIME > 40',
    'CRIME BETWEEN 20 AND 30',
    'INC > 15 AND CRIME < 30',
    'NOT (HOVAL >= 40) OR CRIME IS NULL',
    'POLYID IN (1, 2, 99)',
  ])('%s', async (filter) => {
    const view = await prepare(found(), { filter });
    expect(view.counts).toEqual([counted(filter)]);
    expect(view.hidden).toBe(49 - counted(filter));
  });
  test('classes, and all others: each record in one of them', async () => {
    const rules = [
      { filter: 'CRIME >= 0 AND CRIME < 20', isElse: false },
      { filter: 'CRIME >= 20 AND CRIME < 40', isElse: false },
      { filter: null, isElse: true },
    ];
    const { counts, hidden } = await prepare(found(), { rules });
    expect(counts).toEqual([counted(rules[0]!.filter!), counted(rules[1]!.filter!), counted('CRIME >= 40')]);
    expect(hidden).toBe(0);
    const tile = await tileOf(found(), { rules });
    const seen = Array.from({ length: tile.layers['shapes']!.length }, (_, i) => tile.layers['shapes']!.feature(i).properties['c']);
    expect(seen).toHaveLength(49);
    expect(new Set(seen)).toEqual(new Set([0, 1, 2]));
  });
  test('labels stand inside their shapes, each in one tile', async () => {
    const tile = await tileOf(found(), { label: 'N° {POLYID}' });
    const labels = tile.layers['labels']!;
    expect(labels.length).toBe(49);
    const texts = Array.from({ length: 49 }, (_, i) => String(labels.feature(i).properties['l']));
    expect(new Set(texts).size).toBe(49);
    expect(texts).toContain('N° 17');
    const { version, drawing } = await prepare(found(), { label: 'N° {POLYID}' });
    let inTiles = 0;
    for (const [x, y] of [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ] as const)
      inTiles += new VectorTile(new Pbf(await previews.tile(version, 1, x, y, drawing))).layers['labels']?.length ?? 0;
    expect(inTiles).toBe(49);
  });
});

test('rules of which several draw a record', async () => {
  const { classes, counts } = await prepare(shapefile(), {
    rules: [
      { filter: null, isElse: false },
      { filter: 'CRIME > 40', isElse: false },
    ],
  });
  expect(counts).toEqual([49, counted('CRIME > 40')]);
  expect(new Set(classes.map((c) => c.join(' ')))).toEqual(new Set(['0', '0 1']));
});
test('a filter that is none is told in a sentence', async () => {
  await expect(prepare(shapefile(), { filter: 'CRIME >' })).rejects.toThrow(
    'The filter "CRIME >" cannot be used: something is missing after ">".',
  );
});
test('a plain drawing has no classes to be worked out', async () => expect((await prepare(shapefile(), {})).drawing).toBeNull());
