import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import Polygon from 'ol/geom/Polygon.js';
import { labelAnchor } from './label-anchor.js';
import { AREA, LINE, POINT, type Drawn } from './shape-store.js';

const shape = (kind: Drawn, ...runs: number[][]) => ({ id: 1, kind, runs: runs.map((r) => Float64Array.from(r)) });

/** A ring around a middle, each corner at its own distance: never crosses itself. */
const ring = (x: number, y: number, far: readonly number[]): number[] => {
  const corners = far.map((r, i) => [x + r * Math.cos((2 * Math.PI * i) / far.length), y + r * Math.sin((2 * Math.PI * i) / far.length)]);
  return [...corners, corners[0]!].flat();
};
const pairs = (run: readonly number[]): [number, number][] =>
  Array.from({ length: run.length / 2 }, (_, i) => [run[2 * i]!, run[2 * i + 1]!]);

// Source: OpenLayers tells whether a place is inside an area.
test('the label of an area stands inside it, never in its hole', () => {
  const distances = fc.array(fc.double({ min: 5, max: 60, noNaN: true }), { minLength: 3, maxLength: 24 });
  fc.assert(
    fc.property(distances, fc.double({ min: -1e6, max: 1e6, noNaN: true }), (far, x) => {
      const outer = ring(x, 100, far);
      const hole = ring(x, 100, [1.5, 2, 1, 1.7]);
      const at = labelAnchor(shape(AREA, outer, hole))!;
      return new Polygon([pairs(outer), pairs(hole)]).intersectsCoordinate([...at]);
    }),
  );
});
test('the label of a line stands at half of its length, of several lines on the longest', () => {
  expect(labelAnchor(shape(LINE, [0, 0, 10, 0, 10, 30]))).toEqual([10, 10]);
  expect(labelAnchor(shape(LINE, [0, 0, 1, 0], [0, 5, 4, 5, 8, 5]))).toEqual([4, 5]);
  expect(labelAnchor(shape(LINE, [3, 3, 3, 3]))).toEqual([3, 3]);
});
test('a point is its own place; what has no place has no label', () => {
  expect(labelAnchor(shape(POINT, [7, 8]))).toEqual([7, 8]);
  expect(labelAnchor(shape(AREA))).toBeNull();
});
