import { rmSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseFilter, testRecord, type Condition, type Feature, type Field, type Operand } from '@rootmap/core';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { writeTable } from '../geopackage-write/write-features.js';
import { join } from '../disk/native-path.js';
import { conditionSql } from './condition-sql.js';
import { geopackageFeatures } from './geopackage-features.js';

const FIELDS: readonly Field[] = [
  { name: 'n', type: 'integer' },
  { name: 'big', type: 'integer64' },
  { name: 'x', type: 'real' },
  { name: 't', type: 'text' },
  { name: 'flag', type: 'boolean' },
  { name: 'bytes', type: 'binary' },
];
const VALUES: Feature['values'][] = [
  [1, 2n, 1.5, 'sand', true, new Uint8Array([1])],
  [2, 9007199254740993n, -1.5, 'Sand', false, null],
  [null, null, null, null, null, null],
  [3, 3n, 3, '', true, new Uint8Array([])],
  [-4, -5n, 1e300, '3', null, null],
  [0, 0n, 0, 'mud  ', false, null],
];
let folder = '';
let path = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-sql-'));
  path = join(folder, 'a.gpkg');
  const features = VALUES.map((values, id): Feature => ({ id, geometry: null, values }));
  newGeopackage(path, (db) => writeTable(db, { name: 't', fields: FIELDS, crs: null, geometryType: null }, features));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const read = (hint?: Condition): Feature[] => [
  ...geopackageFeatures(path, 't', FIELDS, { geometry: false, values: true, ...(hint ? { hint } : {}) }).features,
];
const chosen = (condition: Condition, from: readonly Feature[]): number[] =>
  from.filter((r) => testRecord(condition, (name) => r.values[FIELDS.findIndex((f) => f.name === name)]) === true).map((r) => r.id);

const literal = fc.oneof(
  fc.constantFrom(-5, 0, 1, 1.5, 2, 3, 9007199254740992, 1e300),
  fc.constantFrom('', 'sand', 'Sand', '3', 'mud  '),
  fc.boolean(),
);
const operand: fc.Arbitrary<Operand> = fc.oneof(
  fc.constantFrom(...FIELDS.map((f) => ({ field: f.name })), { field: 'none' }),
  literal.map((l) => ({ literal: l })),
);
const condition: fc.Arbitrary<Condition> = fc.letrec<{ c: Condition }>((tie) => ({
  c: fc.oneof(
    { depthSize: 'small' },
    fc.record({ op: fc.constantFrom('=', '<>', '<', '<=', '>', '>=') as fc.Arbitrary<'='>, left: operand, right: operand }),
    fc.record({ op: fc.constant('in' as const), value: operand, list: fc.array(operand, { maxLength: 3 }) }),
    fc.record({ op: fc.constant('between' as const), value: operand, low: operand, high: operand }),
    fc.record({ op: fc.constant('null' as const), value: operand }),
    fc.record({ op: fc.constant('not' as const), part: tie('c') }),
    fc.record({ op: fc.constantFrom('and', 'or') as fc.Arbitrary<'and'>, parts: fc.array(tie('c'), { minLength: 1, maxLength: 3 }) }),
  ),
})).c;

test('no record that meets a condition is lost by what SQLite sorts out before', () => {
  fc.assert(
    fc.property(condition, (c) => {
      expect(chosen(c, read(c))).toEqual(chosen(c, read()));
    }),
    { seed: 24, numRuns: 2000 },
  );
});

test('what SQLite tells alike is sorted out by it', () => {
  const sql = (text: string): string | null => {
    const parsed = parseFilter(text);
    return parsed.ok ? (conditionSql(parsed.condition, FIELDS)?.sql ?? null) : 'no filter';
  };
  expect(sql("x > 1 AND t = 'sand'")).toBe('("x" > ? AND "t" = ?)');
  expect(sql("n IN (1, 2) AND t LIKE 's%'")).toBe('("n" IN (?, ?))');
  expect(sql("n = 1 OR t LIKE 's%'")).toBeNull();
  expect(sql("t < 'b'")).toBeNull();
  const parsed = parseFilter('n > 1');
  expect(parsed.ok && read(parsed.condition).length).toBe(2);
});
