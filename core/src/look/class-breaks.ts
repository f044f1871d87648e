import { ckmeans, quantileSorted } from 'simple-statistics';
import type { ClassMethod } from './look.js';

/** Beyond this many, natural breaks are looked for among a sample: their cost grows with the square of it. */
const MOST_FOR_NATURAL = 5000;

/**
 * Breaks of classes: the lowest value, the lower end of each further class, the highest value. Fewer classes than asked for
 * where there are not as many different values. Values in any order, finite.
 *
 * Natural breaks minimise the sum of squares within classes, as Fisher (1958) and Jenks do; computed by ckmeans (Wang and
 * Song 2011), which finds the optimum.
 */
export function classBreaks(values: Float64Array, method: Exclude<ClassMethod, 'given'>, classes: number): number[] {
  const sorted = values.slice().sort();
  const [low, high] = [sorted[0], sorted.at(-1)];
  if (low === undefined || high === undefined) return [];
  if (low === high) return [low, high];
  // Of natural classes the last may hold the highest value alone.
  const isInside = (b: number): boolean => b > low && (method === 'natural' ? b <= high : b < high);
  const inner =
    method === 'natural'
      ? natural(sorted, classes)
      : Array.from({ length: classes - 1 }, (_, i) => {
          const share = (i + 1) / classes;
          return method === 'equal' ? low + share * (high - low) : quantileSorted(sorted as unknown as number[], share);
        });
  return [low, ...new Set(inner.filter(isInside)), high];
}

function natural(sorted: Float64Array, classes: number): number[] {
  const sample =
    sorted.length <= MOST_FOR_NATURAL
      ? Array.from(sorted)
      : Array.from({ length: MOST_FOR_NATURAL }, (_, i) => sorted[Math.round((i * (sorted.length - 1)) / (MOST_FOR_NATURAL - 1))]!);
  const different = new Set(sample).size;
  return ckmeans(sample, Math.min(classes, different))
    .slice(1)
    .map((cluster) => cluster[0]!);
}
