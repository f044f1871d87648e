import proj4 from 'proj4';
import { definitionOf } from './definitions.js';
import { gridsFor } from './grids.js';
import { degreesOn, onEllipsoid, withoutShift } from './without-shift.js';

/** x and y of a point in another CRS; null: it has none there. x is east or longitude. */
export type Transformer = (x: number, y: number) => readonly [number, number] | null;

const same: Transformer = (x, y) => [x, y];

/**
 * From one CRS to another, each as from `crsKey`; null: one of them is not known here, or not computed rightly. Grids of the person
 * are used where they reach; elsewhere the shift is the registered one.
 */
export function transformer(from: string, to: string): Transformer | null {
  if (from === to) return same;
  const [a, b] = [definitionOf(from)?.proj4, definitionOf(to)?.proj4];
  if (!a || !b) return null;
  const [p, q] = withoutShift(a, b);
  if (p !== a || a === b) return between(p, q);
  const [out, into] = [toWgs84(from, a), fromWgs84(to, b)];
  if (!out && !into) return between(a, b);
  const [first, second] = [out ?? between(a, WGS84), into ?? between(WGS84, b)];
  return (x, y) => {
    const spot = first(x, y);
    return spot && second(spot[0], spot[1]);
  };
}

const WGS84 = '+proj=longlat +datum=WGS84 +no_defs';

function between(from: string, to: string): Transformer {
  const converter = proj4(from, to);
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

/** By the person's grids; null: there is none for it. */
function toWgs84(key: string, proj: string): Transformer | null {
  const { there } = gridsFor(key);
  if (there.length === 0) return null;
  const unshifted = between(onEllipsoid(proj), degreesOn(proj));
  const registered = between(proj, WGS84);
  return (x, y) => {
    const spot = unshifted(x, y);
    for (const { grid } of spot ? there : []) {
      const shifted = grid.shift(spot!);
      if (shifted) return shifted;
    }
    return registered(x, y);
  };
}

function fromWgs84(key: string, proj: string): Transformer | null {
  const { there } = gridsFor(key);
  if (there.length === 0) return null;
  const unshifted = between(degreesOn(proj), onEllipsoid(proj));
  const registered = between(WGS84, proj);
  return (x, y) => {
    for (const { grid } of there) {
      const spot = grid.inverse([x, y]);
      if (spot) return unshifted(spot[0], spot[1]);
    }
    return registered(x, y);
  };
}
