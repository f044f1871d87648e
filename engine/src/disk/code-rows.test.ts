import { expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { CodeRows } from './code-rows.js';
import { crsTable, definitionRow } from './crs-table.js';

const rowsOf = (text: string) => new CodeRows<readonly [number, string]>(Buffer.from(text));

test('every row of a table is found by its code as the whole table has it, and no other code is', () => {
  const text = readFileSync('engine/data/crs.json', 'utf8');
  const all = new Map((JSON.parse(text) as [number, string][]).map((row) => [row[0], row]));
  const rows = rowsOf(text);
  const codes = Array.from({ length: 33_000 }, (_, code) => code);
  expect(codes.flatMap((code) => rows.row(code) ?? [])).toEqual([...all.values()].flat());
});

test('the first, the last and the only row, with and without a line end', () => {
  for (const end of ['', '\n']) {
    const three = rowsOf(`[\n[4,"a"],\n[50,"b,\\n]"],\n[600,"ç"]\n]${end}`);
    expect([4, 50, 600].map((c) => three.row(c)?.[1])).toEqual(['a', 'b,\n]', 'ç']);
    expect([0, 5, 49, 599, 601].map((c) => three.row(c))).toEqual([null, null, null, null, null]);
    expect(rowsOf(`[\n[7,"x"]\n]${end}`).row(7)).toEqual([7, 'x']);
    expect(rowsOf(`[\n\n]${end}`).row(7)).toBeNull();
  }
});

test('codes of others, and what only looks like a code, have no row', () => {
  expect(crsTable.nameOf('EPSG:4326')).toBe('WGS 84');
  for (const code of ['ESRI:4326', 'IGNF:4326', 'EPSG:04326', 'EPSG:', 'OGC:CRS84', 'EPSG:4326.0'])
    expect([code, crsTable.nameOf(code), definitionRow(code)]).toEqual([code, null, null]);
});
