import { expect, test } from '@jest/globals';
import { roundScale, scaleShowing } from './fit-scale.js';

/** A plane in metres that is true everywhere: a pixel of 0.28 mm (OGC 05-078r4, 11.2) is 0.28 m at 1:1000. */
const plane = { resolution: (scale: number) => scale * 0.00028 };
const frame = { w: 200, h: 100 };

test('a box about the middle: the tighter side counts, with a margin of 5 %', () => {
  // 2 km on 0.2 m is 1:10,000; 1 km on 0.1 m as well.
  expect(scaleShowing([0, 0, 2000, 1000], frame, plane, [1000, 500])).toBeCloseTo(10_500, 6);
  expect(scaleShowing([0, 0, 2000, 2000], frame, plane, [1000, 1000])).toBeCloseTo(21_000, 6);
  expect(scaleShowing([0, 0, 2000, 2000], { w: 200, h: Infinity }, plane, [1000, 1000])).toBeCloseTo(10_500, 6);
});

test('a middle that is not that of the box: all of it is in sight all the same', () => {
  const center = [500, 500] as const;
  const n = scaleShowing([0, 0, 2000, 1000], frame, plane, center);
  const half = ((frame.w / 2) * n) / 1000;
  expect(center[0] + half).toBeGreaterThan(2000);
  expect(n).toBeCloseTo(15_750, 6);
});

test('a box without size has a scale, and one that people use', () => {
  expect(scaleShowing([5, 5, 5, 5], frame, plane, [5, 5])).toBeGreaterThan(0);
  expect([1, 1.1, 21_000, 74_000, 75_001, 1_000_000].map(roundScale)).toEqual([1, 1.5, 25_000, 75_000, 100_000, 1_000_000]);
});
