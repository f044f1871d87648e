import { expect, test } from '@jest/globals';
import { createRequire } from 'node:module';
import { crsAt, searchCrs } from './search-crs.js';

test('by code, by name, by area', () => {
  expect(searchCrs('32624')[0]).toMatchObject({ code: 'EPSG:32624', name: 'WGS 84 / UTM zone 24N', unit: 'metre' });
  expect(searchCrs('EPSG:4326')[0]).toMatchObject({ code: 'EPSG:4326', unit: 'degree' });
  expect(searchCrs('utm zone 24n wgs 84')[0]).toMatchObject({ code: 'EPSG:32624' });
  expect(searchCrs('greenland utm').length).toBeGreaterThan(3);
  expect(searchCrs('  ')).toEqual([]);
  expect(searchCrs('no such thing at all')).toEqual([]);
});

// Source: the EPSG registry by the npm package epsg-index, whose bbox is north, west, south, east.
test('a spot offers exactly projected CRSs whose area of use holds it, the smallest first', () => {
  const all = createRequire(import.meta.url)('epsg-index/all.json') as Record<
    string,
    { kind: string; bbox: [number, number, number, number] }
  >;
  const size = (code: string): number => {
    const [north, west, south, east] = all[code.slice(5)]!.bbox;
    return (north - south) * (east >= west ? east - west : 360 - west + east);
  };
  const found = crsAt(-39, 44);
  expect(found.map((c) => c.code)).toContain('EPSG:32624');
  for (const c of found) {
    const { kind, bbox } = all[c.code.slice(5)]!;
    expect(kind).toBe('CRS-PROJCRS');
    expect(c.bounds).toEqual([bbox[1], bbox[2], bbox[3], bbox[0]]);
    expect([bbox[0] >= 44, bbox[2] <= 44]).toEqual([true, true]);
  }
  const sizes = found.map((c) => size(c.code));
  expect(sizes).toEqual([...sizes].sort((a, b) => a - b));
});

test('an area that crosses the date line holds spots on both its sides', () => {
  for (const longitude of [179.9, -179.9]) expect(crsAt(longitude, -17).some((c) => /Fiji/.test(c.name))).toBe(true);
});
