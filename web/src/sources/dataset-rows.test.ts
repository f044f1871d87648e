import { expect, test } from '@jest/globals';
import { EMPTY_ORIGIN } from '@rootmap/core';
import type { DatasetView, SourceView } from '@rootmap/core/contract';
import { findingsOf, findRows, rowsOf, sortRows } from './dataset-rows';

const dataset = (name: string, over: Partial<DatasetView> = {}): DatasetView => ({
  id: `/r/${name}`,
  name,
  folder: 'received',
  link: null,
  place: 'desk',
  format: 'shapefile',
  kind: 'vector',
  geometry: 'Point',
  count: 1,
  crs: 'EPSG:4326',
  bytes: 10,
  state: 'ok',
  findings: [],
  ...over,
});
const source = (name: string, over: Partial<SourceView> = {}): SourceView => ({
  id: `/r/${name}`,
  fields: [],
  bbox: null,
  crsName: null,
  unit: null,
  crsArea: null,
  crsFacts: null,
  crsIsOwn: false,
  crsOtherName: null,
  owner: 'this project',
  modifiedMs: 0,
  files: [],
  usedBy: 0,
  origin: null,
  findings: [],
  ...over,
});
const rows = rowsOf(
  [dataset('b10.shp', { count: 5 }), dataset('b9.shp', { count: null, link: 'library' }), dataset('a.shp', { bytes: 99 })],
  [
    source('b10.shp', { fields: [['reef_nm', 'text']], modifiedMs: 3 }),
    source('a.shp', {
      origin: { ...EMPTY_ORIGIN, publisher: 'Tide Office', notes: 'by boat' },
      usedBy: 4,
      findings: [{ code: 'no-licence', message: 'm' }],
    }),
  ],
);
const names = (found: typeof rows): string[] => found.map((r) => r.dataset.name);

test('found by every word, in names, fields, origin, links', () => {
  expect(names(findRows(rows, 'REEF'))).toEqual(['b10.shp']);
  expect(names(findRows(rows, 'boat tide'))).toEqual(['a.shp']);
  expect(names(findRows(rows, 'library'))).toEqual(['b9.shp']);
  expect(names(findRows(rows, 'tide reef'))).toEqual([]);
  expect(findRows(rows, ' ')).toHaveLength(3);
});
test('sorted by any column, numbers in names as numbers, what is not known first', () => {
  expect(names(sortRows(rows, { column: 'name', isDescending: false }))).toEqual(['a.shp', 'b9.shp', 'b10.shp']);
  expect(names(sortRows(rows, { column: 'count', isDescending: true }))).toEqual(['b10.shp', 'a.shp', 'b9.shp']);
  expect(names(sortRows(rows, { column: 'bytes', isDescending: true }))[0]).toBe('a.shp');
  expect(names(sortRows(rows, { column: 'used', isDescending: true }))[0]).toBe('a.shp');
});
test('findings of the data and of its origin stand together', () =>
  expect(findingsOf(rows[2]!)).toEqual([{ code: 'no-licence', message: 'm' }]));
