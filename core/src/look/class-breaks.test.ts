import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { equal, jenks, quantile } from 'statsbreaks';
import { classBreaks } from './class-breaks.js';

/** Sum of squares around the means of the classes that breaks make. */
function spread(values: readonly number[], breaks: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  let sum = 0;
  for (let i = 0; i + 1 < breaks.length; i++) {
    const last = i === breaks.length - 2;
    const own = sorted.filter((v) => v >= breaks[i]! && (last ? v <= breaks[i + 1]! : v < breaks[i + 1]!));
    const mean = own.reduce((a, b) => a + b, 0) / Math.max(1, own.length);
    sum += own.reduce((a, b) => a + (b - mean) ** 2, 0);
  }
  return sum;
}

/** The best there is, by trying every way to cut. */
function best(values: readonly number[], classes: number): number {
  const distinct = [...new Set(values)].sort((a, b) => a - b);
  const cuts = (from: number, left: number): number[][] =>
    left === 0 ? [[]] : distinct.slice(from).flatMap((v, i) => cuts(from + i + 1, left - 1).map((rest) => [v, ...rest]));
  return Math.min(
    ...cuts(1, Math.min(classes, distinct.length) - 1).map((inner) => spread(values, [distinct[0]!, ...inner, distinct.at(-1)!])),
  );
}

const numbers = fc.array(fc.integer({ min: 0, max: 60 }), { minLength: 4, maxLength: 11 });

describe('natural breaks', () => {
  // Source: Wang and Song (2011), Ckmeans.1d.dp, the worked example of its documentation: three groups around -1, 2 and 5.
  test('a published example', () => {
    expect(classBreaks(Float64Array.of(-1, 2, -1, 2, 4, 5, 6, -1, 2, -1), 'natural', 3)).toEqual([-1, 2, 4, 6]);
  });
  test('no other cut is better', () => {
    fc.assert(
      fc.property(numbers, fc.integer({ min: 2, max: 4 }), (values, classes) => {
        expect(spread(values, classBreaks(Float64Array.from(values), 'natural', classes))).toBeCloseTo(best(values, classes), 6);
      }),
      { seed: 63, numRuns: 150 },
    );
  });
});

// Source: the npm package statsbreaks, another implementation of the three methods.
test('the same classes as a reference library', () => {
  const values = Array.from({ length: 200 }, (_, i) => Math.round(((i * 7919) % 1009) ** 1.4) / 10);
  const close = (a: readonly number[], b: readonly number[]): void => {
    expect(a).toHaveLength(b.length);
    a.forEach((v, i) => expect(Math.abs(v - b[i]!)).toBeLessThan(1e-6 * Math.max(1, Math.abs(b[i]!))));
  };
  close(classBreaks(Float64Array.from(values), 'equal', 5), equal(values, { nb: 5 }));
  expect(spread(values, classBreaks(Float64Array.from(values), 'natural', 5))).toBeLessThanOrEqual(
    spread(values, jenks(values, { nb: 5 })) * 1.0001,
  );
  const theirs = quantile(values, { nb: 5 });
  classBreaks(Float64Array.from(values), 'quantile', 5).forEach((v, i) =>
    expect(Math.abs(rank(values, v) - rank(values, theirs[i]!))).toBeLessThanOrEqual(1),
  );
});
const rank = (values: readonly number[], v: number): number => values.filter((x) => x < v).length;

test('few values make few classes', () => {
  expect(classBreaks(Float64Array.of(), 'equal', 5)).toEqual([]);
  expect(classBreaks(Float64Array.of(3, 3), 'natural', 5)).toEqual([3, 3]);
  expect(classBreaks(Float64Array.of(1, 1, 1, 1, 9), 'quantile', 4)).toEqual([1, 9]);
});
