import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readLayerTable, writeLayerTable } from './layer-table.js';

test('with a header in any order, from a spreadsheet or a file', () => {
  expect(readLayerTable('Path\tLayer\nD:\\gis\\a b.shp\tBeds\n\tnothing\n')).toEqual([
    { title: 'Beds', path: 'D:\\gis\\a b.shp', table: null },
  ]);
  expect(readLayerTable('\uFEFFtitle,path,table\r\n"Moorings, old",data/x.gpkg,moorings_old\r\n')).toEqual([
    { title: 'Moorings, old', path: 'data/x.gpkg', table: 'moorings_old' },
  ]);
});
test('without one: paths alone, or title, path, table', () => {
  expect(readLayerTable('data/tide_gauges.csv\ndata/coast.gpkg#land_areas')).toEqual([
    { title: 'tide gauges', path: 'data/tide_gauges.csv', table: null },
    { title: 'land areas', path: 'data/coast.gpkg', table: 'land_areas' },
  ]);
  expect(readLayerTable('A,a.shp\nB,b.gpkg,t')).toEqual([
    { title: 'A', path: 'a.shp', table: null },
    { title: 'B', path: 'b.gpkg', table: 't' },
  ]);
});
test('nothing in it', () => expect(readLayerTable('  \n')).toEqual([]));

const cell = fc
  .stringMatching(/^[a-z"',; #äß\n]{1,12}$/)
  .map((s) => s.trim())
  .filter((s) => s !== '');
test('what is written is read as the same', () => {
  const row = fc.record({ title: cell, path: cell, table: fc.option(cell) });
  fc.assert(
    fc.property(fc.array(row, { maxLength: 6 }), (rows) => expect(readLayerTable(writeLayerTable(rows))).toEqual(rows)),
    { seed: 65 },
  );
});
