import { describe, expect, test } from '@jest/globals';
import { accuracyWords, positionalAccuracy, readCheckPoints, type CheckPoint } from './positional-accuracy.js';

const moved = (dx: number, dy: number, n = 20): CheckPoint[] =>
  Array.from({ length: n }, (_, i) => ({
    x: i * 10 + (i % 2 ? dx : -dx),
    y: i * 7 + (i % 2 ? dy : -dy),
    referenceX: i * 10,
    referenceY: i * 7,
  }));

describe('horizontal accuracy of check points (FGDC-STD-007.3-1998)', () => {
  test('where x and y agree the radius is 1.7308 × RMSE_r', () => {
    const found = positionalAccuracy(moved(2, 2));
    expect([found.rmseX, found.rmseY, found.rmseR]).toEqual([2, 2, Math.hypot(2, 2)]);
    expect(found.within95! / found.rmseR).toBeCloseTo(1.7308, 4);
  });
  test('else 2.4477 × half of their sum, down to a ratio of 0.6', () => {
    expect(positionalAccuracy(moved(3, 2)).within95).toBeCloseTo(2.4477 * 2.5, 10);
    expect(positionalAccuracy(moved(3, 1.7)).within95).toBeNull();
    expect(positionalAccuracy(moved(0, 0)).within95).toBe(0);
  });
  test('its constant is the 95 % of a circular normal distribution', () => {
    // Rayleigh: 1 − exp(−r² / 2) = 0.95.
    expect(Math.sqrt(-2 * Math.log(0.05))).toBeCloseTo(2.4477, 4);
    expect(2.4477 / Math.SQRT2).toBeCloseTo(1.7308, 4);
  });
  test('normal errors with a fixed seed: 95 % of them lie within the radius', () => {
    let seed = 7;
    const next = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32 + 2 ** -33;
    const points = Array.from({ length: 20_000 }, () => {
      const [r, angle] = [4 * Math.sqrt(-2 * Math.log(next())), 2 * Math.PI * next()];
      return { x: r * Math.cos(angle), y: r * Math.sin(angle), referenceX: 0, referenceY: 0 };
    });
    const { within95 } = positionalAccuracy(points);
    const inside = points.filter((p) => Math.hypot(p.x, p.y) <= within95!).length / points.length;
    expect(inside).toBeGreaterThan(0.945);
    expect(inside).toBeLessThan(0.955);
  });
  test('a shift that all have is told', () => {
    const points = moved(1, 1).map((p) => ({ ...p, x: p.x + 5 }));
    expect(positionalAccuracy(points)).toMatchObject({ biasX: 5, biasY: 0 });
  });
});

test('points are read from what people paste; lines that are none are named', () => {
  const { points, odd } = readCheckPoints('x y rx ry\n1 2 3 4\n\n5,6,7,8\n9;10;11;12\r\n13\t14\t15\t16\n1 2 3\na b c d\n');
  expect(points.map((p) => Object.values(p))).toEqual([
    [1, 2, 3, 4],
    [5, 6, 7, 8],
    [9, 10, 11, 12],
    [13, 14, 15, 16],
  ]);
  expect(odd).toEqual([7, 8]);
  expect(readCheckPoints('1 2 3').odd).toEqual([1]);
});

test('in words', () => {
  expect(accuracyWords(positionalAccuracy(moved(2, 2, 4)), 'm')).toBe(
    '4.9 m at 95 % (NSSDA), RMSE 2.83 m; x 2 m, y 2 m; mean shift 0 m, 0 m; 4 check points, fewer than the 20 that the standard asks for',
  );
});
