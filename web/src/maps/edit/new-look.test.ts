import { describe, expect, test } from '@jest/globals';
import { plainSymbol } from '@rootmap/core';
import { byClassLook, byValueLook, toned } from './new-look';
import { coloursOf, colourAt, RAMPS } from './ramps';

/** WCAG 2.2, relative luminance. */
function luminance(hex: string): number {
  const [r, g, b] = [1, 3, 5]
    .map((i) => parseInt(hex.slice(i, i + 2), 16) / 255)
    .map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r! + 0.7152 * g! + 0.0722 * b!;
}

describe('ramps', () => {
  test('begin and end with their stops', () => {
    for (const { stops } of RAMPS) expect([colourAt(stops, 0), colourAt(stops, 1)]).toEqual([stops[0], stops.at(-1)]);
  });
  test('of one tone get darker from class to class, so that their order is seen', () => {
    for (const { name, stops } of RAMPS.slice(0, 4)) {
      const light = coloursOf(stops, 7).map(luminance);
      expect([name, light]).toEqual([name, [...light].sort((a, b) => b - a)]);
      expect(new Set(light).size).toBe(7);
    }
  });
});

describe('a new look', () => {
  const base = plainSymbol('area');
  const values = [
    { value: 'sand', count: 5 },
    { value: null, count: 2 },
  ];
  const view = { breaks: [], values, isCut: false, counted: 7 };
  test('by value: each has its tone, what is not told is drawn only where there is more', () => {
    const look = byValueLook('kind', view, base, 'area', false);
    if (look.kind !== 'by-value') throw new Error(look.kind);
    expect(look.entries.map((e) => e.title)).toEqual(['sand', 'no value']);
    expect(new Set(look.entries.map((e) => e.symbol.fill)).size).toBe(2);
    expect(look.other).toBeNull();
    expect(byValueLook('kind', view, base, 'area', true)).toMatchObject({ other: { fill: '#8b948f' } });
  });
  test('by class: one entry between two breaks; one break makes no class', () => {
    const look = byClassLook('depth', 'natural', [0, 2.5, 10.123456789], base, 'area', RAMPS[0].stops);
    expect(look).toMatchObject({ kind: 'by-class', entries: [{ title: '0 to 2.5' }, { title: '2.5 to 10.1235' }] });
    expect(byClassLook('depth', 'equal', [3], base, 'area', RAMPS[0].stops)).toBeNull();
  });
  test('the tone goes to the stroke of lines and to the fill of all else', () => {
    expect(toned(plainSymbol('line'), '#123456', 'line').stroke).toBe('#123456');
    expect(toned(plainSymbol('point'), '#123456', 'point').fill).toBe('#123456');
  });
});
