import { readScale, scaleText } from '@rootmap/core';
import { expect, test } from '@jest/globals';
import { degreesText, positionText, readPosition } from './position-text.js';

test.each([
  ['482310.4 4871027.9', 'plane', 482310.4, 4871027.9],
  ['E 482310 N 4871027', 'plane', 482310, 4871027],
  ['-39.17; 43.98', 'plane', -39.17, 43.98],
  ['43.98N 39.17W', 'degrees', -39.17, 43.98],
  ['39.17 W, 43.98 N', 'degrees', -39.17, 43.98],
  [`43°59'12"N 39°10'30.5"W`, 'degrees', -(39 + 10 / 60 + 30.5 / 3600), 43 + 59 / 60 + 12 / 3600],
  ['12° 30′ S 45° E', 'degrees', 45, -12.5],
])('%s', (text, kind, x, y) => {
  const read = readPosition(text)!;
  expect(read.kind).toBe(kind);
  expect(read.at[0]).toBeCloseTo(x, 9);
  expect(read.at[1]).toBeCloseTo(y, 9);
});
test.each(['', 'north', '12', '95N 10E', '43N 44N', '1 2 3'])('"%s" is no position', (text) => expect(readPosition(text)).toBeNull());

test('scales as people type them', () => {
  expect(['1:25000', '1:25,000', '1 : 25 000', '25000', "1:25'000", '1/500'].map(readScale)).toEqual([
    25000, 25000, 25000, 25000, 25000, 500,
  ]);
  expect(['', '1:', '0', 'x', '-5'].map(readScale)).toEqual([null, null, null, null, null]);
  expect(readScale(scaleText(24_999.7))).toBe(25_000);
});
test('positions as they are shown', () => {
  expect(positionText([482310.44, 4871027.9], 'metre')).toBe('E 482\u202f310.4  N 4\u202f871\u202f027.9 m');
  expect(degreesText([-39.17, 43.98])).toBe('43.98000° N  39.17000° W');
});
