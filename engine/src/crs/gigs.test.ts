import { afterAll, describe, expect, test } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { tellAgreement } from '../../../core/test/agreement.js';
import { crsNamed } from './search-crs.js';
import { transformer } from './transformer.js';

interface GigsTest {
  readonly test: string;
  readonly from: string;
  readonly to: string;
  readonly within_metres: number;
  /** x, y, and x and y expected. */
  readonly points: readonly (readonly [number, number, number, number])[];
}
const { tests } = JSON.parse(readFileSync('testdata/checks/gigs.json', 'utf8')) as { tests: readonly GigsTest[] };

/** Not computed with, rather than computed wrongly: axes that point south, grads from Paris, a code that was withdrawn. */
const REFUSED = new Set(['EPSG:2049', 'EPSG:4807', 'EPSG:2192']);

const METRES: Readonly<Record<string, number>> = { metre: 1, foot: 0.3048, 'US survey foot': 1200 / 3937 };
/** Length of the smallest step of each axis in metres. */
function metresOf(code: string): number {
  const { unit } = crsNamed(code)!;
  return unit === 'degree' ? 111_320 : (METRES[unit] ?? NaN);
}

// Source: IOGP, Geospatial Integrity of Geoscience Software, series 5100 and 5200; see testdata/checks/gigs.json.
describe('published points of GIGS', () => {
  let [agreed, refused] = [0, 0];
  const all = tests.flatMap((t) => t.points).length;
  test('are there', () => expect(all).toBe(472));
  afterAll(() => tellAgreement('Published points of GIGS, within what they are published to', agreed, refused, all));
  test.each(tests.map((t) => [`${t.test}: ${t.from} to ${t.to}`, t] as const))('%s', (_, { from, to, within_metres: most, points }) => {
    const compute = transformer(from, to);
    if (REFUSED.has(from) || REFUSED.has(to)) {
      expect(compute).toBeNull();
      refused += points.length;
      return;
    }
    const factor = metresOf(to);
    const off = points.map(([x, y, wantedX, wantedY]) => {
      const [a, b] = compute!(x, y)!;
      return Math.hypot(a - wantedX, b - wantedY) * factor;
    });
    expect(Math.max(...off)).toBeLessThanOrEqual(most);
    agreed += points.length;
  });
});
