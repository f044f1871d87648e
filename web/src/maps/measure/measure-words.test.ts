import { expect, test } from '@jest/globals';
import { areaWords, differenceWords, lengthWords } from './measure-words.js';

test('lengths and areas are written in the unit that suits their size', () => {
  expect([0, 3.456, 9999.99, 10_000, 1_234_567.8].map(lengthWords)).toEqual([
    '0 m',
    '3.46 m',
    '9\u202f999.99 m',
    '10 km',
    '1\u202f234.568 km',
  ]);
  expect([12.34, 9999.94, 12_346, 9_999_000, 12_345_678].map(areaWords)).toEqual([
    '12.3 m²',
    '9\u202f999.9 m²',
    '1.235 ha',
    '999.9 ha',
    '12.346 km²',
  ]);
});

test('the plane against the ground is said in per cent, as finely as it is small', () => {
  expect(differenceWords(99.96, 100)).toBe('0.040 % less');
  expect(differenceWords(101.5, 100)).toBe('1.50 % more');
  expect(differenceWords(200, 100)).toBe('100 % more');
  expect(differenceWords(100.0001, 100)).toBe('the same to five digits');
  expect(differenceWords(1, 0)).toBe('');
});
