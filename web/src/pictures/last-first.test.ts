import { expect, test } from '@jest/globals';
import { lastFirst } from './last-first.js';

test('few at once, the last first; one that fails holds up none', async () => {
  const run = lastFirst(2);
  const begun: number[] = [];
  const ends = new Map<number, () => void>();
  const work = (n: number) => (): Promise<number> =>
    new Promise((resolve, reject) => {
      begun.push(n);
      ends.set(n, () => (n === 4 ? reject(new Error('four')) : resolve(n)));
    });
  const all = [1, 2, 3, 4].map((n) => run(work(n)).catch((e: Error) => e.message));
  await Promise.resolve();
  expect(begun).toEqual([4, 3]);
  ends.get(4)!();
  await expect(all[3]).resolves.toBe('four');
  expect(begun).toEqual([4, 3, 2]);
  ends.get(3)!();
  ends.get(2)!();
  await expect(all[1]).resolves.toBe(2);
  ends.get(1)!();
  await expect(Promise.all(all)).resolves.toEqual([1, 2, 3, 'four']);
});
