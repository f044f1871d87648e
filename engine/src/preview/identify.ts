import { awayFrom, isWithin } from '@rootmap/core';
import type { DrawnShape, IdentifiedShape } from '@rootmap/core/contract';
import { HIDDEN, type ShapeClasses } from './shape-classes.js';
import { AREA, POINT, type Drawn, type ShapeStore, type StoredShape } from './shape-store.js';

/** As many are listed of one layer. */
const MOST_LISTED = 50;
/** As many are looked at corner by corner; of more, those whose boxes are nearest. */
const MOST_READ = 2000;
/** Positions that are handed over to be shown. */
const MOST_POSITIONS = 20_000;

export const KINDS: Readonly<Record<Drawn, IdentifiedShape['kind']>> = { 1: 'point', 2: 'line', 3: 'area' };

interface Candidate {
  readonly n: number;
  /** From the point to its box, and how large that is. */
  readonly away: number;
  readonly size: number;
}

/**
 * Shapes that stand at a point: areas around it, lines and points within reach, and edges of areas too. What is not drawn is not there.
 * @returns the nearest first, the smallest of those that are equally near; `more`: how many are not listed
 */
export function shapesAt(
  store: ShapeStore,
  classes: ShapeClasses | null,
  [x, y]: readonly [number, number],
  reach: number,
): { shapes: IdentifiedShape[]; more: number } {
  const near: Candidate[] = [];
  for (const n of store.near([x - reach, y - reach, x + reach, y + reach])) {
    if (classes && classes.of[n] === HIDDEN) continue;
    const candidate = candidateOf(store.boxes, n, x, y);
    if (candidate.away <= reach) near.push(candidate);
  }
  near.sort((a, b) => a.away - b.away || a.size - b.size || a.n - b.n);
  const found: (IdentifiedShape & { readonly size: number })[] = [];
  for (const { n, away: toBox, size } of near.slice(0, MOST_READ)) {
    const { id, kind, away }: Exact = size === 0 ? { id: store.ids[n]!, kind: POINT, away: toBox } : exactly(store.shape(n), x, y);
    if (away <= reach) found.push({ record: id, kind: KINDS[kind], away, size });
  }
  found.sort((a, b) => a.away - b.away || a.size - b.size);
  return {
    shapes: found.slice(0, MOST_LISTED).map(({ record, kind, away }) => ({ record, kind, away })),
    more: Math.max(0, found.length - MOST_LISTED) + Math.max(0, near.length - MOST_READ),
  };
}

function candidateOf(boxes: Float64Array, n: number, x: number, y: number): Candidate {
  const [minx, miny, maxx, maxy] = [boxes[n * 4]!, boxes[n * 4 + 1]!, boxes[n * 4 + 2]!, boxes[n * 4 + 3]!];
  const away = Math.hypot(Math.max(minx - x, 0, x - maxx), Math.max(miny - y, 0, y - maxy));
  return { n, away, size: maxx - minx + maxy - miny };
}

interface Exact {
  readonly id: number;
  readonly kind: Drawn;
  readonly away: number;
}

function exactly(shape: StoredShape, x: number, y: number): Exact {
  const { id, kind, runs } = shape;
  if (kind === AREA && isWithin(runs, x, y)) return { id, kind, away: 0 };
  // The positions of points are apart from one another: what lies between them is nothing.
  const parts = kind === POINT ? runs.flatMap(positionsOf) : runs;
  return { id, kind, away: parts.reduce((least, run) => Math.min(least, awayFrom(run, x, y)), Infinity) };
}

const positionsOf = (run: Float64Array): Float64Array[] => Array.from({ length: run.length / 2 }, (_, i) => run.subarray(i * 2, i * 2 + 2));

/** Shapes of records, to be shown above the map; those that have none here are left out. */
export function drawnShapes(store: ShapeStore, records: readonly number[]): DrawnShape[] {
  const wanted = new Set(records);
  const places = new Map<number, number>();
  for (let n = 0; n < store.ids.length && places.size < wanted.size; n++) if (wanted.has(store.ids[n]!)) places.set(store.ids[n]!, n);
  let left = MOST_POSITIONS;
  return records.flatMap((record) => {
    const n = places.get(record);
    if (n === undefined) return [];
    const { kind, runs } = store.shape(n);
    const [minx, miny, maxx, maxy] = store.boxes.subarray(n * 4, n * 4 + 4);
    left -= runs.reduce((sum, run) => sum + run.length / 2, 0);
    return [{ record, kind: KINDS[kind], box: [minx!, miny!, maxx!, maxy!] as const, runs: left < 0 ? null : runs.map((r) => [...r]) }];
  });
}
