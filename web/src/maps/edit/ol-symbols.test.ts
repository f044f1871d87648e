import { describe, expect, test } from '@jest/globals';
import { isInScale, type LookRule, plainSymbol } from '@rootmap/core';
import { Circle, RegularShape } from 'ol/style.js';
import { imageOf, shapeStyle, withAlpha } from './ol-symbols';

const rule = (fill: string, more: Partial<LookRule> = {}): LookRule => ({
  title: fill,
  filter: null,
  isElse: false,
  minScale: null,
  maxScale: null,
  symbol: { ...plainSymbol('area'), fill, fillOpacity: 0.5 },
  ...more,
});
const tile = (type: string, values: Readonly<Record<string, unknown>> = {}) => ({ get: (n: string) => values[n], getType: () => type });
const none = (): null => null;
const fills = (styles: readonly { getFill(): { getColor(): unknown } | null }[] | undefined) => styles?.map((s) => s.getFill()?.getColor());

describe('what is drawn of a tile', () => {
  const rules = [rule('#102030'), rule('#405060')];
  test('a class says which rules draw it, in their order', () => {
    const style = shapeStyle(rules, [[0], [1], [0, 1]], () => 1000, none);
    expect(fills(style(tile('Polygon', { c: 1 })))).toEqual(['rgba(64,80,96,0.5)']);
    expect(fills(style(tile('Polygon', { c: 2 })))).toEqual(['rgba(16,32,48,0.5)', 'rgba(64,80,96,0.5)']);
    expect(style(tile('Polygon', { c: 9 }))).toEqual([]);
  });
  test('without classes every rule draws; labels are drawn elsewhere', () => {
    const style = shapeStyle(rules, null, () => 1000, none);
    expect(style(tile('MultiPolygon'))).toHaveLength(2);
    expect(style(tile('Point', { layer: 'labels' }))).toBeUndefined();
  });
  test('a rule with limits draws between them only: from its nearest, up to but without its farthest', () => {
    let scale = 10_000;
    const style = shapeStyle([rule('#102030', { minScale: 5_000, maxScale: 20_000 })], null, () => scale, none);
    expect([4_999, 5_000, 19_999, 20_000].map((s) => ((scale = s), style(tile('Polygon'))!.length))).toEqual([0, 1, 1, 0]);
    expect(isInScale({ minScale: null, maxScale: null }, 1)).toBe(true);
  });
  test('a line has a stroke even where the symbol has a fill alone', () => {
    const [style] = shapeStyle(
      [rule('#102030', { symbol: { ...plainSymbol('line'), stroke: null, fill: '#102030' } })],
      null,
      () => 1,
      none,
    )(tile('LineString'))!;
    expect(style!.getStroke()!.getColor()).toBe('rgba(16,32,48,1)');
  });
});

test('marks have the size that they are given', () => {
  const symbol = { ...plainSymbol('point'), size: 10 };
  const circle = imageOf({ ...symbol, mark: 'circle' }, none);
  expect(circle instanceof Circle && circle.getRadius()).toBe(5);
  const square = imageOf({ ...symbol, mark: 'square' }, none);
  // The side of a square is its radius times the square root of two.
  expect(square instanceof RegularShape && square.getRadius() * Math.SQRT2).toBeCloseTo(10);
  expect(withAlpha('#0a0b0c', 0.25)).toBe('rgba(10,11,12,0.25)');
});
