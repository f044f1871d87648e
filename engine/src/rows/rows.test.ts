import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import type { RowsRequest } from '@rootmap/core/contract';
import { findScope, rooted } from '../project/scope.js';
import { findDataset } from '../project/find-dataset.js';
import { gdal } from '../../test/geopackage-validator.js';
import { TestFolder } from '../../test/test-project.js';
import { readRows } from './read-rows.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  mkdirSync(t.at('p'));
  cpSync('testdata/open/spdata/shapes', t.at('p/shapes'), { recursive: true });
  gdal('ogr2ogr', '-f', 'GPKG', t.at('p/one.gpkg'), t.at('p/shapes/columbus.shp'));
});
afterEach(() => t.remove());

const rows = (id: string, request: Partial<RowsRequest> = {}) => {
  const scope = rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
  const whole = { dataset: id, sort: null, find: '', where: [], filter: '', seek: null, from: 0, count: 500, ...request };
  return readRows(findDataset(scope, t.at('p', id)), whole, t.at('data'));
};
/** Outside reference: the same question in SQL, answered by ogrinfo. */
const theirs = (sql: string): string[] =>
  execFileSync('ogr2ogr', ['-f', 'CSV', '/vsistdout/', t.at('p/one.gpkg'), '-sql', sql], { stdio: ['ignore', 'pipe', 'ignore'] })
    .toString()
    .trim()
    .split('\n')
    .slice(1);

describe.each(['one.gpkg#columbus', 'shapes/columbus.shp'])('rows of %s', (id) => {
  test('come whole, in the order of the file', () => {
    const page = rows(id);
    expect([page.found, page.all, page.rows.length]).toEqual([49, 49, 49]);
    const at = page.fields.findIndex((f) => f.name === 'CRIME');
    expect(page.rows.map((r) => r.values[at])).toEqual(theirs('SELECT CRIME FROM columbus ORDER BY fid').map(Number));
  });

  test('are sorted and narrowed as SQL has it, and any part of them is the part of the whole', () => {
    const where = [
      { field: 'CRIME', test: '>' as const, value: '30,5' },
      { field: 'INC', test: '≤' as const, value: '15' },
    ];
    const asked = { sort: { field: 'HOVAL', isDescending: true }, where };
    const page = rows(id, asked);
    const at = page.fields.findIndex((f) => f.name === 'HOVAL');
    const expected = theirs('SELECT HOVAL FROM columbus WHERE CRIME > 30.5 AND INC <= 15 ORDER BY HOVAL DESC').map(Number);
    expect(page.rows.map((r) => r.values[at])).toEqual(expected);
    expect([page.found, page.all]).toEqual([expected.length, 49]);
    expect(rows(id, { ...asked, from: 3, count: 4 }).rows).toEqual(page.rows.slice(3, 7));
    expect(rows(id, { ...asked, from: 1000, count: 4 }).rows).toEqual([]);
  });

  test('are found by any text in them, and a change of the file is seen', () => {
    const some = rows(id, { find: '1005' });
    expect(some.found).toBeGreaterThan(0);
    for (const r of some.rows) expect(r.values.some((v) => String(v).includes('1005'))).toBe(true);
  });

  test('what is no number for a field of numbers is told', () => {
    expect(() => rows(id, { where: [{ field: 'CRIME', test: '<', value: 'many' }] })).toThrow('CRIME holds numbers, and "many" is none');
    expect(() => rows(id, { sort: { field: 'nothing', isDescending: false } })).toThrow('nothing');
  });
});

test('empty values, text with signs of its own, and large numbers', () => {
  writeFileSync(t.at('p/t.csv'), 'a,b\n10%,1\n,\nÄ_x,9007199254740993\n100,3\n');
  const found = (request: Partial<RowsRequest>) => rows('t.csv', request).rows.map((r) => r.values);
  expect(found({ find: '%' })).toEqual([['10%', 1]]);
  expect(found({ where: [{ field: 'a', test: 'contains', value: '_' }] })).toEqual([['Ä_x', '9007199254740993']]);
  expect(found({ where: [{ field: 'b', test: 'empty', value: '' }] })).toHaveLength(1);
  expect(found({ where: [{ field: 'b', test: 'filled', value: '' }] })).toHaveLength(3);
  for (const [test, rows] of [
    ['<', 1],
    ['≤', 2],
    ['=', 1],
    ['≥', 2],
    ['>', 1],
    ['≠', 2],
  ] as const)
    expect([test, found({ where: [{ field: 'b', test, value: '3' }] }).length]).toEqual([test, rows]);
  expect(found({ sort: { field: 'b', isDescending: true } }).at(-1)).toEqual([null, null]);
  // Equal is the same to the letter and to the last digit; only searching and order take letters alike.
  for (const [field, value, rows] of [
    ['a', 'Ä_x', 1],
    ['a', 'Ä_X', 0],
    ['b', '9007199254740993', 1],
    ['b', '9007199254740992', 0],
  ] as const)
    expect([value, found({ where: [{ field, test: '=', value }] }).length]).toEqual([value, rows]);
  expect(found({ find: '_X' })).toHaveLength(1);
  writeFileSync(t.at('p/t.csv'), 'a,b\nnew,1\n');
  expect(found({})).toEqual([['new', 1]]);
  expect(readdirSync(t.at('p')).sort()).toEqual(['one.gpkg', 'shapes', 't.csv']);
});
