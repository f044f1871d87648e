import { AREA, LINE, type StoredShape } from './shape-store.js';

/**
 * Where the label of a shape stands: a point itself, the middle of a line's length, and for an area a point inside it, the
 * middle of the widest stretch on a line across its middle.
 * @returns x and y in the CRS that is drawn; null: the shape has no position
 */
export function labelAnchor({ kind, runs }: StoredShape): readonly [number, number] | null {
  const longest = runs.reduce((a, b) => (b.length > a.length ? b : a), runs[0] ?? new Float64Array(0));
  if (longest.length < 2) return null;
  return kind === AREA ? insideOf(runs) : kind === LINE ? middleOf(longest) : [longest[0]!, longest[1]!];
}

function middleOf(run: Float64Array): readonly [number, number] {
  let length = 0;
  for (let i = 2; i < run.length; i += 2) length += Math.hypot(run[i]! - run[i - 2]!, run[i + 1]! - run[i - 1]!);
  let left = length / 2;
  for (let i = 2; i < run.length; i += 2) {
    const step = Math.hypot(run[i]! - run[i - 2]!, run[i + 1]! - run[i - 1]!);
    if (step >= left && step > 0) {
      const t = left / step;
      return [run[i - 2]! + t * (run[i]! - run[i - 2]!), run[i - 1]! + t * (run[i + 1]! - run[i - 1]!)];
    }
    left -= step;
  }
  return [run[0]!, run[1]!];
}

function insideOf(rings: readonly Float64Array[]): readonly [number, number] {
  let [low, high] = [Infinity, -Infinity];
  for (const ring of rings)
    for (let i = 1; i < ring.length; i += 2) {
      low = Math.min(low, ring[i]!);
      high = Math.max(high, ring[i]!);
    }
  const y = (low + high) / 2;
  const crossings: number[] = [];
  for (const ring of rings)
    for (let i = 0; i + 3 < ring.length; i += 2) {
      const [x1, y1, x2, y2] = [ring[i]!, ring[i + 1]!, ring[i + 2]!, ring[i + 3]!];
      if (y1 <= y !== y2 <= y) crossings.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
    }
  crossings.sort((a, b) => a - b);
  let best: readonly [number, number] = [rings[0]![0]!, rings[0]![1]!];
  let width = -1;
  for (let i = 0; i + 1 < crossings.length; i += 2) {
    const [from, to] = [crossings[i]!, crossings[i + 1]!];
    if (to - from <= width) continue;
    width = to - from;
    best = [(from + to) / 2, y];
  }
  return best;
}
