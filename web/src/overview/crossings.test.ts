import { describe, expect, test } from '@jest/globals';
import { crossingsOf, inOrderOfLines, type Line } from './crossings';

const asLines = (ends: readonly (readonly [number, number])[]): Line[] => ends.map(([fromY, toY]) => ({ fromY, toY }));
/** Each pair by itself: shares nothing with what counts. */
const byPairs = (lines: readonly Line[]): number =>
  lines.reduce((n, a, i) => n + lines.slice(i + 1).filter((b) => (a.fromY - b.fromY) * (a.toY - b.toY) < 0).length, 0);
let seed = 1;
const random = (): number => (seed = (seed * 48271) % 2147483647) / 2147483647;

describe('crossings between two columns', () => {
  test('the worked example of the method has 12', () => {
    // Barth, Jünger, Mutzel, 2002: edges in the order of their northern ends lead to 0 1 2 0 3 4 0 2 3 2 4; from memory.
    const lines = asLines([[0, 0], [1, 1], [1, 2], [2, 0], [2, 3], [2, 4], [3, 0], [3, 2], [4, 3], [5, 2], [5, 4]]); // prettier-ignore
    expect(crossingsOf(lines)).toBe(12);
    expect(byPairs(lines)).toBe(12);
  });
  test('counted as pair by pair, also where lines share an end', () => {
    for (let k = 0; k < 60; k++) {
      const lines = Array.from({ length: 40 }, () => ({ fromY: Math.floor(random() * 15), toY: Math.floor(random() * 15) }));
      expect(crossingsOf(lines)).toBe(byPairs(lines));
    }
  });
});

describe('an order that lessens crossings', () => {
  const crossingsIn = (order: readonly (readonly number[])[]): number =>
    byPairs(order.flatMap((ys, toY) => ys.map((fromY) => ({ fromY, toY }))));
  function orders<T>(items: readonly T[]): T[][] {
    return items.length < 2
      ? [[...items]]
      : items.flatMap((item, i) => orders(items.filter((_, k) => k !== i)).map((rest) => [item, ...rest]));
  }
  test('near the best of all orders, and never worse than by the mean alone or as it was', () => {
    let [ours, best] = [0, 0];
    for (let k = 0; k < 40; k++) {
      const items = Array.from({ length: 6 }, () => Array.from({ length: 1 + Math.floor(random() * 4) }, () => Math.floor(random() * 20)));
      const found = crossingsIn(inOrderOfLines(items, (ys) => ys));
      const mean = (ys: readonly number[]): number => ys.reduce((a, b) => a + b, 0) / ys.length;
      expect(found).toBeLessThanOrEqual(crossingsIn([...items].sort((a, b) => mean(a) - mean(b))));
      expect(found).toBeLessThanOrEqual(crossingsIn(items));
      ours += found;
      best += Math.min(...orders(items).map(crossingsIn));
    }
    expect(ours).toBeLessThanOrEqual(best * 1.02);
  });
  test('what is tied to nothing comes last', () => {
    expect(inOrderOfLines(['none', 'low', 'high'], (n) => ({ none: [], low: [9], high: [1] })[n]!)).toEqual(['high', 'low', 'none']);
  });
});
