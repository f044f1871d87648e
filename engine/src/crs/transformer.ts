import proj4 from 'proj4';
import { definitionOf } from './definitions.js';
import { withoutShift } from './without-shift.js';

/** x and y of a point in another CRS; null: it has none there. x is east or longitude. */
export type Transformer = (x: number, y: number) => readonly [number, number] | null;

const same: Transformer = (x, y) => [x, y];

/** From one CRS to another, each as from `crsKey`; null: one of them is not known here, or not computed rightly. */
export function transformer(from: string, to: string): Transformer | null {
  if (from === to) return same;
  const [a, b] = [definitionOf(from)?.proj4, definitionOf(to)?.proj4];
  if (!a || !b) return null;
  const converter = proj4(...withoutShift(a, b));
  const point = { x: 0, y: 0 };
  return (x, y) => {
    try {
      point.x = x;
      point.y = y;
      const image = converter.forward(point);
      return Number.isFinite(image.x) && Number.isFinite(image.y) ? [image.x, image.y] : null;
    } catch {
      return null; // the projection has no such point, which is the answer
    }
  };
}
