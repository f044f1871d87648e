import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { plainLook } from '@rootmap/core';
import { keptLook, keptName, pageLayout, type KeptLook, type PageLayout } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import { openStore } from './open-store.js';
import { TestFolder } from '../../test/test-project.js';
import { KnownShelves } from './known-shelves.js';

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const layout = (name: string, more: Partial<PageLayout> = {}): PageLayout => ({
  name,
  paper: 'A3',
  isWide: true,
  dpi: 200,
  format: 'pdf',
  grid: 'none',
  notes: [],
  legendColumns: 2,
  has: { legend: true, bar: true, north: false, locator: false },
  ...more,
});
const look = (name: string): KeptLook => ({ name, kind: 'line', look: plainLook('line'), label: null });

test('one a name on each shelf, in the order of names, also for whoever opens the store after', async () => {
  const shelves = new KnownShelves(store);
  await shelves.keep('layouts', layout('Wall'));
  await shelves.keep('layouts', layout('board'));
  await shelves.keep('looks', look('Wall'));
  await shelves.keep('layouts', layout('Wall', { paper: 'A0' }));
  await store.destroy();
  store = await openStore(t.at('data'));
  const again = new KnownShelves(store);
  expect((await again.all()).layouts.map((l) => [l.name, l.paper])).toEqual([
    ['board', 'A3'],
    ['Wall', 'A0'],
  ]);
  expect((await again.drop('layouts', 'Wall')).looks).toEqual([look('Wall')]);
  await expect(again.drop('layouts', 'Wall')).rejects.toThrow(/Wall/);
});

test('a shelf is full at some time; what is there can be kept anew all the same', async () => {
  const shelves = new KnownShelves(store);
  await store.query(
    `INSERT INTO "shelf" WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 500) SELECT 'looks', 'l' || i, '{}' FROM n`,
  );
  await expect(shelves.keep('looks', look('one more'))).rejects.toThrow(/^500 of them are kept/);
  await expect(shelves.keep('looks', look('l7'))).resolves.toMatchObject({ layouts: [] });
});

test('what is no layout or no look is refused, with what is wrong of it', () => {
  expect(pageLayout.validate(layout('a')).error).toBeUndefined();
  expect(keptLook.validate(look('a')).error).toBeUndefined();
  const odd: [unknown, RegExp][] = [
    [layout(''), /name/],
    [layout('a', { paper: 'B5' as 'A4' }), /paper/],
    [layout('a', { dpi: 1 as 96 }), /dpi/],
    [{ ...layout('a'), has: null }, /has/],
    [layout('a', { notes: [{ text: 'x', place: 'nowhere' as 'lower-left' }] }), /place/],
    [{ ...layout('a'), more: 1 }, /more/],
  ];
  for (const [value, what] of odd) expect([what, pageLayout.validate(value).error?.message]).toEqual([what, expect.stringMatching(what)]);
  expect(keptLook.validate({ ...look('a'), look: { kind: 'one' } }).error?.message).toMatch(/look/);
  expect(keptName.validate({ name: ' ' }).error).toBeDefined();
});
