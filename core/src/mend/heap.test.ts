import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Heap } from './heap.js';

test('numbers come out the greatest first, as sorting has them', () => {
  fc.assert(
    fc.property(fc.array(fc.integer()), (numbers) => {
      const heap = new Heap<number>((a, b) => a - b);
      numbers.forEach((n) => heap.push(n));
      const out: number[] = [];
      for (let n = heap.pop(); n !== undefined; n = heap.pop()) out.push(n);
      expect(out).toEqual([...numbers].sort((a, b) => b - a));
    }),
  );
});
test('what comes in between takes its turn; an empty one gives nothing', () => {
  const heap = new Heap<number>((a, b) => a - b);
  [3, 9, 5].forEach((n) => heap.push(n));
  expect(heap.pop()).toBe(9);
  heap.push(4);
  expect([heap.pop(), heap.pop(), heap.pop(), heap.pop()]).toEqual([5, 4, 3, undefined]);
});
