/** A line from a height on the left to one on the right. */
export interface Line {
  readonly fromY: number;
  readonly toY: number;
}

/**
 * Pairs of lines that cross between two columns: inversions of the right ends when lines stand in the order of their left ones, counted with
 * a tree of sums (Barth, Jünger, Mutzel: Simple and efficient bilayer cross counting, 2002). Lines that share an end do not cross.
 */
export function crossingsOf(lines: readonly Line[]): number {
  const sorted = [...lines].sort((a, b) => a.fromY - b.fromY || a.toY - b.toY);
  const places = [...new Set(lines.map((l) => l.toY))].sort((a, b) => a - b);
  const placeOf = new Map(places.map((y, i) => [y, i + 1]));
  const tree = new Array<number>(places.length + 1).fill(0);
  let crossings = 0;
  sorted.forEach(({ toY }, n) => {
    const place = placeOf.get(toY)!;
    let upTo = 0;
    for (let i = place; i > 0; i -= i & -i) upTo += tree[i]!;
    crossings += n - upTo;
    for (let i = place; i <= places.length; i += i & -i) tree[i]!++;
  });
  return crossings;
}

/** Crossings of lines of two neighbours when the first stands above the second. Heights are sorted. */
function crossingsBetween(above: readonly number[], below: readonly number[]): number {
  let crossings = 0;
  let k = 0;
  for (const y of above) {
    while (k < below.length && below[k]! < y) k++;
    crossings += k;
  }
  return crossings;
}

const mean = (values: readonly number[]): number =>
  values.length ? values.reduce((a, b) => a + b, 0) / values.length : Number.MAX_SAFE_INTEGER;

/**
 * Things of one column in an order that lessens crossings with a column that stays: by the mean height of what they are tied to
 * (barycentre; Sugiyama, Tagawa, Toda, 1981), then neighbours change places for as long as that takes crossings away (Gansner and others,
 * A technique for drawing directed graphs, 1993, "transpose").
 * @param ysOf heights on the other side; what has none comes last
 */
export function inOrderOfLines<T>(items: readonly T[], ysOf: (item: T) => readonly number[]): T[] {
  const order = items.map((item) => ({ item, ys: [...ysOf(item)].sort((a, b) => a - b) })).sort((a, b) => mean(a.ys) - mean(b.ys));
  for (let isBetter = true; isBetter;) {
    isBetter = false;
    for (let i = 1; i < order.length; i++) {
      const [a, b] = [order[i - 1]!, order[i]!];
      if (crossingsBetween(b.ys, a.ys) >= crossingsBetween(a.ys, b.ys)) continue;
      [order[i - 1], order[i]] = [b, a];
      isBetter = true;
    }
  }
  return order.map(({ item }) => item);
}
