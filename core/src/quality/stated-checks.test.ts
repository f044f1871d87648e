import { expect, test } from '@jest/globals';
import { statedChecks, type FoundFacts } from './stated-checks';

const NOTHING = { statedCrs: '', statedUnits: '', statedScale: '', statedDate: '' };
const FOUND: FoundFacts = {
  crs: 'EPSG:26910',
  datum: 'North American Datum 1983',
  unit: 'metre',
  scale: 20_000,
  pixel: null,
  modifiedMs: Date.UTC(2024, 4, 1),
  nowMs: Date.UTC(2026, 4, 1),
};
const of = (stated: Partial<typeof NOTHING>, found: Partial<FoundFacts> = {}) => {
  const [check] = statedChecks({ ...NOTHING, ...stated }, { ...FOUND, ...found });
  return `${check?.code} ${check?.result}`;
};

test('where nothing is stated, nothing is checked', () => expect(statedChecks(NOTHING, FOUND)).toEqual([]));

test('feet against metres, another datum, a scale that it does not bear, a date after its files', () => {
  expect(of({ statedUnits: 'Units: feet' })).toBe('stated-units note');
  expect(of({ statedUnits: 'Coordinates in meters' })).toBe('stated-units pass');
  expect(of({ statedUnits: 'feet' }, { unit: 'US survey foot' })).toBe('stated-units pass');
  expect(of({ statedUnits: 'US survey feet' }, { unit: 'foot' })).toBe('stated-units note');
  expect(of({ statedUnits: 'Depths in feet' })).toBe('stated-units pass'); // of heights the CRS tells nothing
  expect(of({ statedCrs: 'NAD 27' })).toBe('stated-crs note');
  expect(of({ statedCrs: 'NAD83, UTM zone 10' })).toBe('stated-crs pass');
  expect(of({ statedCrs: 'EPSG:26910' })).toBe('stated-crs pass');
  expect(of({ statedCrs: 'EPSG:4326' })).toBe('stated-crs note');
  expect(of({ statedCrs: 'local grid' })).toBe('stated-crs pass'); // cannot be read: said, not judged
  expect(of({ statedCrs: 'EPSG:26910' }, { crs: null })).toBe('stated-crs note');
  expect(of({ statedScale: '1:5,000' })).toBe('stated-scale note');
  expect(of({ statedScale: '1:24,000' })).toBe('stated-scale pass');
  expect(of({ statedScale: '10 m resolution' }, { pixel: 10.02 })).toBe('stated-scale pass');
  expect(of({ statedScale: 'cell size: 30 metres' }, { pixel: 10 })).toBe('stated-scale note');
  expect(of({ statedScale: '1:5,000' }, { pixel: 10 })).toBe('stated-scale note');
  expect(of({ statedDate: 'published 2026' })).toBe('stated-date note');
  expect(of({ statedDate: 'edition of 2009' })).toBe('stated-date note');
  expect(of({ statedDate: 'May 2023' })).toBe('stated-date pass');
});
