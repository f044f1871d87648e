import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { measurer } from './measure-points.js';

type Point = readonly [number, number];
const crs = (proj4: string | null, code = 'EPSG:0') => ({
  crs: { code, name: code, unit: 'metre', proj4 } as unknown as Parameters<typeof measurer>[0]['crs'],
  isDegrees: proj4?.includes('longlat') ?? false,
});
/** Metres of the legs, as PROJ has them (Debian's proj-bin): `cs2cs` to the degrees of the same datum, `geod` between them. */
function theirs(code: string, points: readonly Point[], ellps: string): number[] {
  const degrees = execFileSync('cs2cs', ['-f', '%.10f', code, ...['+to', '+proj=longlat', `+ellps=${ellps}`]], {
    input: points.map((p) => p.join(' ')).join('\n'),
    env: { ...process.env, PROJ_NETWORK: 'OFF' },
  })
    .toString()
    .trim()
    .split('\n')
    .map((l) => l.trim().split(/\s+/).map(Number));
  const input = degrees.slice(1).map((to, i) => `${degrees[i]![1]} ${degrees[i]![0]} ${to[1]} ${to[0]}`);
  return execFileSync('geod', ['-I', `+ellps=${ellps}`, '-f', '%.9f', '-F', '%.4f'], { input: input.join('\n') })
    .toString()
    .trim()
    .split('\n')
    .map((l) => Number(l.trim().split(/\s+/)[2]));
}

describe('what is measured by corners in the plane of a map', () => {
  // Metres, feet, a datum that is shifted, degrees: PROJ strings as PROJ 9.1.1 writes them for EPSG 25832, 2264, 31467 and 4267.
  test.each([
    ['+proj=utm +zone=32 +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +units=m', 'GRS80', [[500000, 5900000], [503000, 5904000], [620000, 5900500]]],
    ['+proj=lcc +lat_0=33.75 +lon_0=-79 +lat_1=36.1666666666667 +lat_2=34.3333333333333 +x_0=609601.2192024384 +y_0=0 +ellps=GRS80 +units=us-ft', 'GRS80', [[2000000, 500000], [2010000, 500000], [2010000, 700000]]],
    ['+proj=tmerc +lat_0=0 +lon_0=9 +k=1 +x_0=3500000 +y_0=0 +ellps=bessel +towgs84=598.1,73.7,418.2,0.202,0.045,-2.455,6.7 +units=m', 'bessel', [[3500000, 5900000], [3590000, 5900000]]],
    ['+proj=longlat +ellps=clrk66', 'clrk66', [[-80, 35], [-79.5, 35.2], [-79, 34]]],
  ] as const)('%s: legs are as long as PROJ says, to a millimetre', (text, ellps, points) => {
    const { ground, problem } = measurer(crs(text))(points, false);
    expect(problem).toBeNull();
    for (const [i, leg] of theirs(text.replace(/\+towgs84=\S+/, ''), points, ellps).entries())
      expect(Math.abs(ground!.legs[i]! - leg)).toBeLessThan(1e-3);
  }); // prettier-ignore

  test('Web Mercator is measured on the ellipsoid, not on its sphere', () => {
    const text = '+proj=merc +a=6378137 +b=6378137 +lat_ts=0 +lon_0=0 +x_0=0 +y_0=0 +k=1 +units=m +nadgrids=@null';
    // EPSG Guidance Note 7-2, method 1024: 24°22'54.433"N 100°20'00.000"W is E -11169055.58 N 2800000.00. The other corner is 2 km east.
    const { ground, plane } = measurer(crs(text))([[-11_169_055.58, 2_800_000], [-11_167_055.58, 2_800_000]], false); // prettier-ignore
    const [lat, lon, east] = [24 + 22 / 60 + 54.433 / 3600, -(100 + 20 / 60), 2000 / 111_319.490_793_273_57];
    const [, , metres] = execFileSync('geod', ['-I', '+ellps=WGS84', '-f', '%.9f', '-F', '%.4f'], {
      input: `${lat} ${lon} ${lat} ${lon + east}`,
    })
      .toString()
      .trim()
      .split(/\s+/)
      .map(Number);
    expect(Math.abs(ground!.length - metres!)).toBeLessThan(2e-3);
    expect(plane).toEqual({ length: 2000, area: 0 });
  });

  test('the plane has the sums of a field book, in metres whatever its unit', () => {
    const square: Point[] = [[500000, 5900000], [500100, 5900000], [500100, 5900100], [500000, 5900100]]; // prettier-ignore
    const utm = '+proj=utm +zone=32 +ellps=GRS80 +units=m';
    expect(measurer(crs(utm))(square, true).plane).toEqual({ length: 400, area: 10_000 });
    const feet = measurer(crs('+proj=utm +zone=32 +ellps=GRS80 +units=us-ft'))([[1640000, 0], [1640000 + 3937, 0]], false); // prettier-ignore
    expect(feet.plane!.length).toBeCloseTo(1200, 9);
    // At the central meridian of UTM a length in the plane is 0.9996 of the one on the ellipsoid (its definition), an area the square of it.
    const { ground, plane } = measurer(crs(utm))(square, true);
    expect(plane!.length / ground!.length).toBeCloseTo(0.9996, 8);
    expect(plane!.area / ground!.area).toBeCloseTo(0.9996 ** 2, 8);
    expect(measurer(crs('+proj=longlat +ellps=GRS80'))([[9, 50], [9.1, 50]], false).plane).toBeNull(); // prettier-ignore
  });

  test('what cannot be measured says why', () => {
    expect(measurer(crs(null))([[0, 0], [1, 1]], false)).toMatchObject({ ground: null, problem: expect.stringMatching(/no CRS/) }); // prettier-ignore
    const degrees = crs('+proj=longlat +ellps=GRS80');
    expect(measurer(degrees)([[190, 10], [190, 91]], false).problem).toMatch(/outside/); // prettier-ignore
    expect(measurer(degrees)([[190, 10], [-170, 10]], false).ground?.length).toBe(0); // prettier-ignore
    const ortho = crs('+proj=ortho +lat_0=0 +lon_0=0 +ellps=GRS80 +units=m', 'EPSG:9840');
    expect(measurer(ortho)([[0, 0], [9e6, 9e6]], false)).toMatchObject({ ground: null, problem: 'A corner lies outside of what EPSG:9840 reaches: take it back.' }); // prettier-ignore
  });
});
