import { describe, expect, test } from '@jest/globals';
import { occupiedCells } from '../mend/occupied-cells';
import { locatePasted } from './locate-pasted';
import { bytes, kindWord, many, number, shortArea } from './format';

test.each([
  [0, '0 B'],
  [1023, '1023 B'],
  [1024, '1.00 KiB'],
  [10 * 1024, '10.0 KiB'],
  [4294967295, '4.00 GiB'],
])('%i bytes are %s', (n, text) => expect(bytes(n)).toBe(text));
test('numbers are grouped, one is singular', () => {
  expect(number(1234567)).toBe('1\u202f234\u202f567');
  expect([many(1, 'layer'), many(2, 'layer')]).toEqual(['1 layer', '2 layers']);
});
test.each([
  ['PointZ', 'points'],
  ['MultiLineString', 'lines'],
  ['MultiPatch', 'areas'],
  ['raster', 'raster'],
  [null, ''],
  ['Geometry', 'mixed'],
])('%s is drawn as %s', (g, word) => expect(kindWord(g)).toBe(word));

test('cells of a grid: bit row·16 + col, the lowest bit in the last digit', () => {
  const hex = (n: bigint): string => n.toString(16).padStart(64, '0');
  expect(occupiedCells(hex(1n))).toEqual([[0, 0]]);
  expect(occupiedCells(hex(1n << 17n))).toEqual([[1, 1]]);
  expect(occupiedCells(hex(1n << 255n))).toEqual([[15, 15]]);
});

describe('a pasted path', () => {
  const place = (name: string, folder: string, driveNames: string[]) => ({
    name,
    folder,
    driveNames,
    present: true,
    readOnly: false,
    absentSince: null,
    formerly: null,
    hosts: { configured: [], own: [] },
  });
  const places = [place('desk', '/srv/gis', ['D:']), place('share', '/mnt/s', ['\\\\harbour\\gis'])];
  test.each([
    ['/srv/gis/a/b', { place: 'desk', path: 'a/b' }],
    ['d:\\a\\b\\', { place: 'desk', path: 'a/b' }],
    ['\\\\HARBOUR\\gis\\x', { place: 'share', path: 'x' }],
    ['D:', { place: 'desk', path: '' }],
    ['/srv/gisx', null],
    ['C:/x', null],
  ])('%s', (text, at) => expect(locatePasted(text, places)).toEqual(at));
});

test('the area of a CRS that lists many districts is cut short where one ends', () => {
  expect(shortArea('Greenland.')).toBe('Greenland.');
  const long = `United States, Iowa, counties of ${Array.from({ length: 60 }, (_, i) => `County ${i}`).join('; ')}.`;
  const short = shortArea(long);
  expect(short.length).toBeLessThan(160);
  expect(short).toMatch(/^United States, .*County \d+, and more$/);
});
