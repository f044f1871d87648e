import { quantileOf } from './robust.js';

/** How the numbers of a field or band are spread: `counts` of as many steps between `from` and `to`. */
export interface Histogram {
  readonly from: number;
  readonly to: number;
  readonly counts: readonly number[];
  /** Of every which number it is made. */
  readonly stride: number;
}

/** What stands in one field of a table, or one band of a raster. */
export interface FieldProfile {
  readonly name: string;
  readonly type: string;
  /** Records, or pixels, that have a value, of how many. */
  readonly filled: number;
  readonly of: number;
  /** Null: it has no numbers. */
  readonly histogram: Histogram | null;
}

const MOST_STEPS = 40;

/**
 * Steps of equal width, as many as Freedman and Diaconis advise (1981: a width of 2 IQR / n^(1/3); from memory), at least 5 and at most 40.
 * Null: there are no numbers.
 * @param sorted numbers, the smallest first
 */
export function histogramOf(sorted: Float64Array, stride = 1): Histogram | null {
  const n = sorted.length;
  if (n === 0) return null;
  const [from, to] = [sorted[0] ?? 0, sorted[n - 1] ?? 0];
  if (from === to) return { from, to, counts: [n], stride };
  const width = (2 * (quantileOf(sorted, 0.75) - quantileOf(sorted, 0.25))) / Math.cbrt(n);
  const steps = width > 0 ? Math.min(MOST_STEPS, Math.max(5, Math.ceil((to - from) / width))) : MOST_STEPS;
  const counts = new Array<number>(steps).fill(0);
  for (const v of sorted) counts[Math.min(steps - 1, Math.floor(((v - from) / (to - from)) * steps))]!++;
  return { from, to, counts, stride };
}
