import { describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import proj4 from 'proj4';
import { definitionOf, toDegrees } from './definitions.js';
import { rankCrs } from './rank-crs.js';

interface Row {
  readonly id: string;
  readonly proj: string;
  readonly lat: number;
  readonly lon: number;
  readonly expected: readonly [number, number];
  readonly printed_precision?: number;
}
const read = (name: string) => JSON.parse(readFileSync(`testdata/checks/${name}.json`, 'utf8')) as Record<string, Row[]>;
/** Two projections give no number without an origin, which is zero unless it is said. */
const whole = (proj: string): string => proj + (/\+x_0=/.test(proj) ? '' : ' +x_0=0') + (/\+y_0=/.test(proj) ? '' : ' +y_0=0');
/** Degrees on the same ellipsoid: these are projections alone, without a change of datum. */
const degrees = (proj: string): string =>
  `+proj=longlat ${/\+(ellps|a|R|datum)=\S+/.exec(proj)![0]} ${(proj.match(/\+(b|rf|pm)=\S+/g) ?? []).join(' ')} +no_defs`;

describe('the projections that coordinates are tried in', () => {
  // Source: IOGP Publication 373-7-2, EPSG Guidance Note 7 part 2, worked examples; printed to 0.01 of their unit.
  // The hyperbolic Cassini, south-oriented axes and the transverse Mercator of a sphere are not offered: proj4 does not have them.
  const KNOWN = /\+proj=(lcc|tmerc|utm|merc|laea|stere|aea|cass|omerc)\b/;
  test.each(read('epsg-gn7-2')['projections']!.filter((r) => KNOWN.test(r.proj) && !/axis=|hyperbolic/.test(r.proj)))('$id', (row) => {
    const [x, y] = proj4<[number, number]>(degrees(row.proj), whole(row.proj), [row.lon, row.lat]);
    expect(Math.hypot(x - row.expected[0], y - row.expected[1])).toBeLessThan(0.05);
  });
  // Source: J. P. Snyder, Map Projections: A Working Manual, USGS Professional Paper 1395 (1987), Appendix A.
  test.each(read('snyder-pp1395')['examples']!.filter((r) => KNOWN.test(r.proj) && !/axis=|tmerc \+R=/.test(r.proj)))('$id', (row) => {
    const [x, y] = proj4<[number, number]>(degrees(row.proj), whole(row.proj), [row.lon, row.lat]);
    const most = Math.max(0.15, (row.printed_precision ?? 0.1) * 2);
    expect(Math.hypot(x - row.expected[0], y - row.expected[1])).toBeLessThan(Math.max(...row.expected.map(Math.abs)) > 100 ? most : 1e-6);
  });
});

test('a registered CRS has a definition to compute by and one to write', () => {
  expect(definitionOf('EPSG:32624')).toEqual({
    proj4: expect.stringContaining('+proj=utm +zone=24'),
    wkt: expect.stringMatching(/^PROJCS\["WGS 84 \/ UTM zone 24N"/),
  });
  expect(definitionOf('EPSG:99999')).toBeNull();
  const [longitude, latitude] = toDegrees('EPSG:32624', [500_000, 4_870_000])!;
  expect(longitude).toBeCloseTo(-39, 9);
  expect(latitude).toBeCloseTo(43.985, 2);
});

describe('which CRS could it be?', () => {
  const bay = [478_000, 4_868_000, 487_000, 4_874_000] as const;
  const neighbours = [{ code: 'EPSG:32624', bbox: bay }];
  test('metres near the data around them: the project’s own first', () => {
    const [first] = rankCrs(bay, { project: 'EPSG:32624', used: new Map([['EPSG:4326', 3]]), neighbours });
    expect(first).toMatchObject({ crs: { code: 'EPSG:32624' }, fits: true, why: 'the project has it' });
  });
  test('degrees near them: not the project’s metres', () => {
    // Common practice, no source: degrees in the United States are on NAD27 or NAD83 as often as on WGS 84.
    const american = rankCrs([-99, 38, -98, 39], { project: null, used: new Map(), neighbours: [] });
    expect(american.filter((c) => c.fits).map((c) => c.crs.code)).toEqual(expect.arrayContaining(['EPSG:4326', 'EPSG:4267', 'EPSG:4269']));
    const found = rankCrs([-39.2, 43.9, -39.1, 44], { project: 'EPSG:32624', used: new Map(), neighbours });
    expect(found[0]).toMatchObject({ crs: { code: 'EPSG:4326' }, fits: true });
  });
  test('nothing to go by: nothing is claimed to fit', () => {
    expect(rankCrs([5e8, 5e8, 6e8, 6e8], { project: 'EPSG:32624', used: new Map(), neighbours: [] }).every((c) => !c.fits)).toBe(true);
  });
});
