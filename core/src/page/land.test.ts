import { expect, test } from '@jest/globals';
import { landMark, landOf, landOfRegion, landRings } from './land.js';

const square = (x: number, y: number, side: number): [number, number][] => [
  [x, y],
  [x + side, y],
  [x + side, y + side],
  [x, y + side],
  [x, y],
];
/** Degrees as they are. */
const plane = { toPlane: (p: readonly [number, number]) => p };
const areaOf = (ring: readonly (readonly [number, number])[]): number =>
  Math.abs(ring.reduce((sum, [ax, ay], i) => sum + ax * ring[(i + 1) % ring.length]![1] - ring[(i + 1) % ring.length]![0] * ay, 0)) / 2;

test('areas of GeoJSON are land, with their holes; lines and points are not', () => {
  const hole = square(2, 2, 1);
  const land = landOf([
    { type: 'Polygon', coordinates: [square(0, 0, 10), hole] },
    { type: 'MultiPolygon', coordinates: [[square(20, 0, 1)], [square(30, 0, 1)]] },
    { type: 'LineString', coordinates: [[0, 0], [1, 1]] }, // prettier-ignore
    { type: 'GeometryCollection' },
  ]);
  expect(land.map((area) => area.length)).toEqual([2, 1, 1]);
  expect(land[0]![1]).toBe(hole);
});

test('what lies in a region is cut at its edge; what lies elsewhere is not there', () => {
  const land = [[square(0, 0, 10)], [square(50, 50, 5)]];
  const [ring, ...others] = landOfRegion(land)([5, -5, 20, 4]);
  expect(others).toEqual([]);
  expect(areaOf(ring!)).toBeCloseTo(5 * 4, 9);
  expect(ring!.every(([x, y]) => x >= 5 && x <= 20 && y >= -5 && y <= 4)).toBe(true);
});

test('long edges have corners of their own, no longer than two degrees; the shape stays', () => {
  const [ring] = landRings([[square(0, 0, 10)]], plane, [0, 0, 10, 10]);
  const longest = Math.max(
    ...ring!.map(([x, y], i) => Math.hypot(ring![(i + 1) % ring!.length]![0] - x, ring![(i + 1) % ring!.length]![1] - y)),
  );
  expect(longest).toBeLessThanOrEqual(2);
  expect(areaOf(ring!)).toBeCloseTo(100, 9);
});

test('fifteen degrees beyond the area of use it ends; across the antimeridian the whole circle counts; a ring that has no place is left out', () => {
  const far = [[square(60, 0, 5)]];
  expect(landRings(far, plane, [0, 0, 40, 10])).toEqual([]);
  expect(landRings(far, plane, [0, 0, 46, 10])).toHaveLength(1);
  expect(landRings(far, plane, [170, 0, -170, 10])).toHaveLength(1);
  expect(landRings(far, { toPlane: ([x, y]) => (x > 60.5 ? null : [x, y]) }, [0, 0, 46, 10])).toEqual([]);
});

test('as a mark it lies on the page in millimetres, cut at the frame', () => {
  const paper = { frame: { x: 10, y: 20, w: 200, h: 100 }, center: [0, 0], unitsOfMm: 0.1 } as const;
  const mark = landMark([square(0, 0, 1)], paper);
  expect(mark).toMatchObject({ kind: 'shapes', isArea: true, clip: paper.frame });
  expect(mark.runs).toEqual([[110, 70, 120, 70, 120, 60, 110, 60, 110, 70]]);
});
