import { isWithin, type Run } from './near.js';
import { readWkb } from './read-wkb.js';

/** Parts of one shape: positions, lines, and areas with all their rings. */
interface Parts {
  readonly points: readonly Run[];
  readonly lines: readonly Run[];
  readonly areas: readonly (readonly Run[])[];
}

/**
 * Whether a shape and an area have a position in common (the relation _intersects_ of OGC 06-103r4, 6.1.15.3). What only touches the edge
 * may be told either way.
 * @param wkb in the plane of the area
 * @param ring x, y, x, y … of the area, its first position again at its end
 */
export function meetsArea(wkb: Uint8Array, ring: Run): boolean {
  const parts = partsOf(wkb);
  if (!parts) return false;
  const runs = [...parts.points, ...parts.lines, ...parts.areas.flat()];
  if (!runs.some((run) => boxesMeet(run, ring))) return false;
  const isInside = (run: Run): boolean => {
    for (let i = 0; i + 1 < run.length; i += 2) if (isWithin([ring], run[i]!, run[i + 1]!)) return true;
    return false;
  };
  if (runs.some(isInside)) return true;
  if ([...parts.lines, ...parts.areas.flat()].some((run) => cross(run, ring))) return true;
  return parts.areas.some((rings) => isWithin(rings, ring[0]!, ring[1]!));
}

function partsOf(wkb: Uint8Array): Parts | null {
  const [points, lines, areas]: [number[][], number[][], number[][][]] = [[], [], []];
  let kind = 1;
  let run: number[] = [];
  const isRead = readWkb(wkb, {
    geometry: (code) => {
      kind = code;
      if (code === 3) areas.push([]);
    },
    run: () => {
      run = [];
      if (kind === 3) areas.at(-1)!.push(run);
      else (kind === 2 ? lines : points).push(run);
    },
    vertex: (x, y) => run.push(x, y),
  });
  return isRead ? { points, lines, areas } : null;
}

function boxesMeet(a: Run, b: Run): boolean {
  const [ma, mb] = [boxOf(a), boxOf(b)];
  return ma[0] <= mb[2] && ma[2] >= mb[0] && ma[1] <= mb[3] && ma[3] >= mb[1];
}

function boxOf(run: Run): [number, number, number, number] {
  let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i + 1 < run.length; i += 2) {
    const [x, y] = [run[i]!, run[i + 1]!];
    if (x < minx) minx = x;
    if (x > maxx) maxx = x;
    if (y < miny) miny = y;
    if (y > maxy) maxy = y;
  }
  return [minx, miny, maxx, maxy];
}

/** Whether a piece of one run crosses a piece of the other. */
function cross(a: Run, b: Run): boolean {
  for (let i = 0; i + 3 < a.length; i += 2)
    for (let k = 0; k + 3 < b.length; k += 2)
      if (
        side(a, i, b[k]!, b[k + 1]!) * side(a, i, b[k + 2]!, b[k + 3]!) < 0 &&
        side(b, k, a[i]!, a[i + 1]!) * side(b, k, a[i + 2]!, a[i + 3]!) < 0
      )
        return true;
  return false;
}

/** On which side of a piece a point lies. */
const side = (run: Run, i: number, x: number, y: number): number =>
  Math.sign((run[i + 2]! - run[i]!) * (y - run[i + 1]!) - (run[i + 3]! - run[i + 1]!) * (x - run[i]!));
