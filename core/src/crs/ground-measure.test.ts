import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { measureGround, type Spheroid } from './ground-measure.js';

type Point = readonly [number, number];
interface Areas {
  readonly id: string;
  readonly points: readonly Point[];
  readonly around: number | null;
  readonly aroundWithin: number;
  readonly area: number;
}
/** Karney's test set for geodesics; the file says where its values are from. */
const { lines, areas } = JSON.parse(readFileSync('testdata/checks/geodesics.json', 'utf8')) as {
  lines: [number, number, number, number, number][];
  areas: Areas[];
};
const WGS84: Spheroid = { a: 6_378_137, f: 1 / 298.257223563 };
/** EPSG 7004 and 7008, as PROJ writes them. */
const OTHERS: Readonly<Record<string, Spheroid>> = {
  bessel: { a: 6_377_397.155, f: 1 / 299.1528128 },
  clrk66: { a: 6_378_206.4, f: 1 - 6_356_583.8 / 6_378_206.4 },
};

/** Numbers of a linear congruential generator, so that the same shapes come every time. */
function numbers(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 1664525 + 1013904223) % 2 ** 32) / 2 ** 32;
}
const rows = (out: Buffer): number[][] =>
  out
    .toString()
    .trim()
    .split('\n')
    .map((l) => l.trim().split(/\s+/).map(Number));

describe('lengths and areas on the ellipsoid', () => {
  test.each(lines)('the published line from %d %d to %d %d is %d m', (x1, y1, x2, y2, metres) => {
    const line = measureGround([[x1, y1], [x2, y2]], WGS84, false); // prettier-ignore
    expect(Math.abs(line.length - metres)).toBeLessThan(1e-6);
    expect(line).toMatchObject({ area: 0, legs: [line.length] });
  });

  test.each(areas)('the published area $id, either way round', ({ points, around, aroundWithin, area }) => {
    for (const way of [points, points.toReversed()]) {
      const found = measureGround(way, WGS84, true);
      expect(Math.abs(found.area - area)).toBeLessThan(1);
      expect(found.legs).toHaveLength(points.length);
      if (around !== null) expect(Math.abs(found.length - around)).toBeLessThanOrEqual(aroundWithin);
    }
  });

  // Outside reference: `geod` of Debian's proj-bin, another implementation.
  test.each(Object.entries(OTHERS))('lines of two legs on %s are as long as PROJ says, to a tenth of a millimetre', (name, earth) => {
    const next = numbers(7);
    const spot = (): Point => [next() * 360 - 180, next() * 170 - 85];
    const made = Array.from({ length: 100 }, () => [spot(), spot(), spot()] as const);
    const input = made.flatMap(([a, b, c]) => [`${a[1]} ${a[0]} ${b[1]} ${b[0]}`, `${b[1]} ${b[0]} ${c[1]} ${c[0]}`]).join('\n');
    const theirs = rows(execFileSync('geod', ['-I', `+ellps=${name}`, '-f', '%.9f', '-F', '%.6f'], { input })).map((r) => r[2]!);
    for (const [i, line] of made.entries()) {
      const ours = measureGround(line, earth, false);
      expect(Math.abs(ours.legs[0]! - theirs[2 * i]!)).toBeLessThan(1e-4);
      expect(Math.abs(ours.length - theirs[2 * i]! - theirs[2 * i + 1]!)).toBeLessThan(1e-4);
    }
  });

  // Outside reference: PROJ's equal-area projection (Lambert azimuthal, at a corner), whose plane has the true areas.
  test('small areas are as large as in an equal-area plane', () => {
    const next = numbers(11);
    for (let n = 0; n < 12; n++) {
      const [x, y] = [next() * 360 - 180, next() * 160 - 80];
      const reach = 0.05 / Math.cos((y * Math.PI) / 180);
      const points: Point[] = Array.from({ length: 5 }, (_, i) => {
        const turn = (i / 5) * 2 * Math.PI;
        return [x + reach * Math.cos(turn) * (0.5 + next() / 2), y + 0.05 * Math.sin(turn) * (0.5 + next() / 2)];
      });
      const to = ['+proj=longlat', '+ellps=bessel', '+to', '+proj=laea', '+ellps=bessel', `+lon_0=${x}`, `+lat_0=${y}`];
      const plane = rows(execFileSync('cs2cs', ['-f', '%.6f', ...to], { input: points.map((p) => p.join(' ')).join('\n') }));
      const twice = plane.reduce((all, [px, py], i) => {
        const [qx, qy] = plane[(i + 1) % plane.length]!;
        return all + px! * qy! - qx! * py!;
      }, 0);
      const { area } = measureGround(points, OTHERS.bessel!, true);
      expect(area).toBeGreaterThan(1e6);
      expect(Math.abs(area / (twice / 2) - 1)).toBeLessThan(1e-6);
    }
  });

  test('nothing and one point have no length', () => {
    expect(measureGround([], WGS84, true)).toEqual({ length: 0, area: 0, legs: [] });
    expect(measureGround([[1, 2]], WGS84, false)).toEqual({ length: 0, area: 0, legs: [] });
  });
});
