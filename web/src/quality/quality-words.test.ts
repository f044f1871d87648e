import { expect, test } from '@jest/globals';
import { qualityRow } from '../../test/quality-row.js';
import { rowsFor } from './quality-words.js';

const rows = [
  qualityRow('b/reef.shp', { notes: 3, state: 'computed' }),
  qualityRow('a/beds.shp', { fails: 1, state: 'out-of-date' }),
  qualityRow('c/bay.tif', { state: 'reviewed' }),
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
  expect(names('', 'all', 'sheet')).toEqual(['a/beds.shp', 'b/reef.shp', 'c/bay.tif']);
  const faulty = qualityRow('d/last.shp', { elements: { topological: 'fail' } });
  const noted = qualityRow('e/also.shp', { elements: { topological: 'note' } });
  expect(rowsFor([...rows, noted, faulty], '', 'all', 'topological').slice(0, 2)).toEqual([faulty, noted]);
});
