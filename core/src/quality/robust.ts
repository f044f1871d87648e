import { medianAbsoluteDeviation, medianSorted, quantileSorted } from 'simple-statistics';

/** Beyond this a value is far from all others (Iglewicz and Hoaglin 1993; NIST/SEMATECH e-Handbook, 1.3.5.17; from memory). */
const FAR = 3.5;
/** MAD of a normal distribution, in its standard deviations (the same place). */
const NORMAL = 0.6745;

interface FarBounds {
  readonly low: number;
  readonly high: number;
  readonly median: number;
}

/**
 * Between which values lies all that is not far from the others; null: more than half are the same, and nothing can be said.
 * @param sorted numbers, the smallest first
 */
export function farBounds(sorted: Float64Array): FarBounds | null {
  if (sorted.length === 0) return null;
  const list = sorted as unknown as number[]; // it only counts and copies
  const [median, mad] = [medianSorted(list), medianAbsoluteDeviation(list)];
  if (!(mad > 0)) return null;
  const reach = (FAR * mad) / NORMAL;
  return { low: median - reach, high: median + reach, median };
}

/** NaN: there is none. @param sorted numbers, the smallest first */
export const medianOf = (sorted: Float64Array): number => (sorted.length === 0 ? NaN : medianSorted(sorted as unknown as number[]));

/** The averaged inverse of the distribution (Hyndman and Fan 1996, definition 2). @param sorted at least one number, the smallest first */
export const quantileOf = (sorted: Float64Array, p: number): number => quantileSorted(sorted as unknown as number[], p);
