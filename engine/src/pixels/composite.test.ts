import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import type { Loss, ThreeBands } from '@rootmap/core';
import { planImport } from '../geodatabase/plan-import.js';
import { writeRasterExport } from '../export/raster-export.js';
import { ImportWorld } from '../../test/import-world.js';

// Outside reference: GDAL writes the bands and reads the pictures, numpy says what they must be (engine/test/matrix/composite.py).
const python = (...args: string[]): string =>
  execFileSync('/usr/bin/python3', ['engine/test/matrix/composite.py', ...args], { encoding: 'utf8' });

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
  python('make', w.t.at('p'));
});
afterEach(() => w.close());

/** Between which values each band is spread, as the receipt tells it. */
const levelsOf = (losses: readonly Loss[]): string =>
  [...losses.find((l) => l.code === 'digits')!.what.matchAll(/from (\S+) to ([\d.]+)/g)].map(([, from, to]) => `${from}:${to}`).join(',');
const judged = (name: string, picture: string, bands: ThreeBands, levels: string) =>
  JSON.parse(python('compare', w.t.at('p', name), picture, bands.join(','), levels)) as Record<string, number>;
const ALL = 61 * 47;

async function broughtIn(name: string, composite: ThreeBands) {
  const { plan, receipts } = await w.bringIn('r.gpkg', [{ name, table: 'r', composite }]);
  return { plan: plan.items[0]!, receipt: receipts[0]!, path: w.t.at('p/r.gpkg') };
}

test.each([
  ['bands16.tif', [4, 3, 2]],
  ['bands16.tif', [5, 1, 1]],
] as const)('%s, bands %j in a geodatabase: each pixel its level, transparent where a band has nothing', async (name, bands) => {
  const { plan, receipt, path } = await broughtIn(name, bands);
  expect([plan.why, receipt.isEqual, receipt.compared]).toMatchObject([null, true, { pixels: ALL, isByOthers: true }]);
  expect(plan.losses.map((l) => [l.code, l.count])).toEqual([
    ['bands', 5 - new Set(bands).size],
    ['digits', null],
  ]);
  const found = judged(name, path, bands, levelsOf(receipt.losses));
  expect([found['wrong'], found['hidden']! > 100, found['shown']! > 1000]).toEqual([0, true, true]);
});

test('bytes are colours as they are, and nothing of them is lost', async () => {
  const { plan, receipt, path } = await broughtIn('bytes.tif', [4, 2, 1]);
  expect(plan.losses).toEqual([{ code: 'bands', what: 'other band', count: 1 }]);
  expect(receipt).toMatchObject({ isEqual: true, losses: plan.losses });
  expect(judged('bytes.tif', path, [4, 2, 1], '0:255,0:255,0:255')).toEqual({ wrong: 0, hidden: 0, shown: ALL });
});

test('as a GeoTIFF: the same, held against the source by another reader', async () => {
  const path = w.t.at('p/out.tif');
  const done = await writeRasterExport(w.find(w.t.at('p/bands16.tif')), { bands: [], composite: [4, 3, 2] }, path, () => undefined);
  expect(done.check).toEqual({ pixels: ALL, by: 'another' });
  expect(judged('bands16.tif', path, [4, 3, 2], levelsOf(done.losses))['wrong']).toBe(0);
});

test('a band that is not there is told before', async () => {
  const items = [{ dataset: w.t.at('p/bytes.tif'), part: null, table: '', composite: [1, 2, 5] as const }];
  const plan = planImport(w.scope(), (id) => w.find(id), w.t.at('p/r.gpkg'), items, null, 'test');
  expect([plan.items[0]!.why, plan.change]).toEqual(['it has 4 bands, and no 5', null]);
});
