import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { crsOfCode, identifyCrs } from '@rootmap/core';
import { crsTable } from '../disk/crs-table.js';
import { definitionOf } from './definitions.js';
import { crsNamed } from './search-crs.js';
import { transformer } from './transformer.js';
import { doubtOf } from './doubt.js';

/** CRSs of the demo and the open data, and others of many methods and units (common practice, no source). */
const USED = ['EPSG:4326', 'EPSG:4267', 'EPSG:4269', 'EPSG:32611', 'EPSG:32624', 'EPSG:3857'];
const OTHERS = [
  'EPSG:27700',
  'EPSG:28992',
  'EPSG:31370',
  'EPSG:2154',
  'EPSG:25832',
  'EPSG:3035',
  'EPSG:3034',
  'EPSG:2263',
  'EPSG:26910',
  'EPSG:5070',
  'EPSG:3577',
  'EPSG:2193',
  'EPSG:3031',
  'EPSG:3413',
  'EPSG:31287',
  'EPSG:21781',
  'EPSG:3067',
  'EPSG:6933',
];

const projinfo = (code: string, form: string): string =>
  execFileSync('projinfo', ['-q', '-o', form, '--single-line', code], { stdio: ['ignore', 'pipe', 'ignore'] })
    .toString()
    .trim();

describe('text of PROJ (Debian: proj-bin) in either flavour, without its code, is known again', () => {
  const codes = [...USED, ...OTHERS].filter((c) => !['EPSG:3857', 'EPSG:3067'].includes(c)); // 3067 is 25835 under another name
  test.each(codes.flatMap((c) => ['WKT1_GDAL', 'WKT2:2019', 'WKT2:2015'].map((f) => [c, f] as const)))('%s %s', (code, form) => {
    const text = projinfo(code, form).replaceAll(/,(AUTHORITY|ID)\["EPSG",[^\]]*\]/g, '');
    expect(text).not.toContain('EPSG');
    const found = identifyCrs(text, crsTable)!;
    // Where two codes have one definition, none is claimed; never another one.
    if (found.code !== null) expect(found.code).toBe(code);
    else expect(AMBIGUOUS).toContain(code);
  });
  /** Registered more than once with the same numbers, or by a method that is written in several ways. */
  const AMBIGUOUS = ['EPSG:3031', 'EPSG:3413', 'EPSG:6933', 'EPSG:21781', 'EPSG:2193', 'EPSG:3034', 'EPSG:3035', 'EPSG:25832', 'EPSG:3067'];
});

describe('coordinates on a grid over the area of use, against cs2cs', () => {
  const grid = (code: string): [number, number][] => {
    const [west, south, east, north] = crsNamed(code)!.bounds;
    const at = (from: number, to: number, i: number): number => from + ((to - from) * (i + 0.5)) / 5;
    return Array.from({ length: 25 }, (_, i) => [at(west, east, i % 5), at(south, north, Math.floor(i / 5))]);
  };
  test.each([...USED, ...OTHERS].filter((c) => c !== 'EPSG:4326'))('%s from WGS 84: within what is told of its datum', (code) => {
    const points = grid(code);
    const to = transformer('EPSG:4326', code)!;
    const input = points.map(([lon, lat]) => `${lat} ${lon}`).join('\n');
    const lines = execFileSync('cs2cs', ['-f', '%.8f', 'EPSG:4326', code], { input }).toString().trim().split('\n');
    const isNorthFirst = /AXIS\["[^"]*",north,\s*ORDER\[1\]/i.test(projinfo(code, 'WKT2:2019')) || crsNamed(code)!.unit === 'degree';
    const doubt = doubtOf('EPSG:4326', code);
    const factor = crsNamed(code)!.unit === 'degree' ? 111_320 : /foot/.test(crsNamed(code)!.unit) ? 0.3048 : 1;
    const most = Math.max(0.01, doubt.metres ?? Infinity);
    points.forEach(([lon, lat], i) => {
      const [a, b] = lines[i]!.trim().split(/\s+/).map(Number) as [number, number];
      if (!Number.isFinite(a) || !Number.isFinite(b)) return; // PROJ has no such point
      const [x, y] = isNorthFirst ? [b, a] : [a, b];
      const mine = to(lon, lat)!;
      expect([code, Math.hypot(mine[0] - x, mine[1] - y) * factor <= most]).toEqual([code, true]);
    });
  });
  test('every one of them can be written', () => {
    for (const code of [...USED, ...OTHERS]) expect(definitionOf(code)).not.toBeNull();
  });
});

test('what is told of a change of datum', () => {
  expect(doubtOf('EPSG:32624', 'EPSG:4326')).toEqual({ metres: 0, why: null });
  expect(doubtOf('EPSG:28992', 'EPSG:4326').metres).toBeGreaterThan(0);
  expect(doubtOf('EPSG:28992', 'EPSG:4326').why).toContain('m');
  expect(doubtOf('EPSG:4267', 'EPSG:4326').metres).toBeGreaterThan(3);
});

// Outside reference: projinfo's texts of compound CRSs and of geographic ones of three axes. Positions in them are those of the flat one.
test.each([
  ['EPSG:7405', 'EPSG:27700', 'OSGB36 / British National Grid + ODN height'],
  ['EPSG:5555', 'EPSG:25832', 'ETRS89 / UTM zone 32N + DHHN92 height'],
  ['EPSG:9518', 'EPSG:4326', null],
  ['EPSG:4979', 'EPSG:4326', null],
  ['EPSG:4937', 'EPSG:4258', null],
] as const)('%s has heights: positions are in %s', (code, flat, name) => {
  const text = projinfo(code, 'WKT2:2019');
  for (const wkt of [text, ...(name === null ? [] : [projinfo(code, 'WKT1_GDAL')])])
    expect(identifyCrs(wkt, crsTable)).toMatchObject({
      code: flat,
      name: crsTable.nameOf(flat),
      ...(name === null ? {} : { otherName: name }),
    });
  expect(crsOfCode(code, crsTable)).toMatchObject({ code: flat });
});
