import { expect, test } from '@jest/globals';
import type { QualityRow } from '@rootmap/core/contract';
import { rowsFor } from './quality-words.js';

const row = (name: string, more: Partial<QualityRow> = {}): QualityRow => ({
  id: name,
  name,
  kind: 'vector',
  state: 'none',
  problem: null,
  isReadOnly: false,
  elements: {},
  fails: 0,
  notes: 0,
  at: null,
  reviewer: null,
  ...more,
});
const rows = [
  row('b/reef.shp', { notes: 3, state: 'computed' }),
  row('a/beds.shp', { fails: 1, state: 'out-of-date' }),
  row('c/bay.tif', { state: 'reviewed' }),
];
const names = (...of: Parameters<typeof rowsFor> extends [unknown, ...infer R] ? R : never): string[] =>
  rowsFor(rows, ...of).map((r) => r.name);

test('rows by words, by what is to be done, and in an order', () => {
  expect(names('', 'all', 'name')).toEqual(['a/beds.shp', 'b/reef.shp', 'c/bay.tif']);
  expect(names('', 'all', 'worst')).toEqual(['a/beds.shp', 'b/reef.shp', 'c/bay.tif']);
  expect(names('SHP b/', 'all', 'name')).toEqual(['b/reef.shp']);
  expect(names('', 'not-reviewed', 'name')).toEqual(['a/beds.shp', 'b/reef.shp']);
  expect(names('', 'out-of-date', 'name')).toEqual(['a/beds.shp']);
  expect(names('', 'to-do', 'name')).toEqual(['a/beds.shp']);
});
