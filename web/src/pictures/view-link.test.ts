import { expect, test } from '@jest/globals';
import View from 'ol/View.js';
import { ViewLink } from './view-link.js';

const view = (x: number, resolution: number): View => new View({ center: [x + 1000, 0], resolution });
const where = (v: View) => [v.getCenter()![0]! - 1000, v.getResolution()];

test('a view that joins shows what the others show; when one moves, the others follow, until they are taken out', () => {
  const link = new ViewLink();
  const [a, b, c] = [view(1, 10), view(5, 50), view(9, 90)];
  link.add(a);
  const out = link.add(b);
  expect(where(b)).toEqual([1, 10]);
  b.setCenter([1007, 0]);
  b.setResolution(20);
  expect(where(a)).toEqual([7, 20]);
  out();
  b.setCenter([1100, 0]);
  link.add(c);
  expect([where(a), where(c)]).toEqual([[7, 20], [7, 20]]); // prettier-ignore
  a.setCenter([1002, 0]);
  expect([where(b)[0], where(c)[0]]).toEqual([100, 2]);
});
