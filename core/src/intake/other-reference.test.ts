import { expect, test } from '@jest/globals';
import { otherReferences } from './other-reference.js';

const own = { crs: 'EPSG:32624', datum: 'World Geodetic System 1984', unit: 'metre' };

test('what arrives in another CRS is told by CRS, with datum and unit where they are other', () => {
  const arrived = [
    { path: 'a.shp', crs: 'EPSG:4326', datum: 'World Geodetic System 1984', unit: 'degree' },
    { path: 'b.shp', ...own },
    { path: 'c.tif', crs: 'EPSG:23029', datum: 'European Datum 1950', unit: 'metre' },
    { path: 'd.shp', crs: 'EPSG:4326', datum: 'World Geodetic System 1984', unit: 'degree' },
    { path: 'e.csv', crs: null, datum: null, unit: null },
    { path: 'f.gml', crs: 'Local grid', datum: null, unit: null },
  ];
  expect(otherReferences(arrived, own)).toEqual([
    { crs: 'EPSG:4326', paths: ['a.shp', 'd.shp'], differs: ['another unit, degree instead of metre'] },
    { crs: 'EPSG:23029', paths: ['c.tif'], differs: ['another datum, European Datum 1950 instead of World Geodetic System 1984'] },
    { crs: 'Local grid', paths: ['f.gml'], differs: [] },
  ]);
});
