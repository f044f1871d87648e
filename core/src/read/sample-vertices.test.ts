import { expect, test } from '@jest/globals';
import { VertexSample } from './sample-vertices';

test('few vertices are all kept; of many, each has the same chance', () => {
  const all = new VertexSample(10);
  for (let i = 0; i < 5; i++) all.add(i, -i);
  expect([all.x, all.y]).toEqual([
    [0, 1, 2, 3, 4],
    [-0, -1, -2, -3, -4],
  ]);
  const some = new VertexSample(1000);
  for (let i = 0; i < 100_000; i++) some.add(i, i);
  expect(some.x).toHaveLength(1000);
  expect(some.y).toEqual(some.x);
  // A tenth of the vertices stand in each tenth of the sample, within five standard deviations (about 47 of 100).
  for (let tenth = 0; tenth < 10; tenth++) {
    const n = some.x.filter((x) => Math.floor(x / 10_000) === tenth).length;
    expect(Math.abs(n - 100)).toBeLessThan(48);
  }
});
