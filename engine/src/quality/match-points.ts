import Flatbush from 'flatbush';
import { ProblemError, readFeatures, readWkb, type CheckPoint, type MatchedPoints } from '@rootmap/core';
import { crsKey } from '../crs/definitions.js';
import { transformer, type Transformer } from '../crs/transformer.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';

/** Pairs that are told; of more there is no need to know. */
const MOST_PAIRS = 10_000;

interface Spot {
  readonly x: number;
  readonly y: number;
  /** Value of the key; null: it has none, or nobody asked. */
  readonly key: string | null;
}

/**
 * Check points found by themselves: each point of a dataset and its like in a better source, in the dataset's CRS; by a key that both
 * have, else by what lies nearest within a distance, where neither has a second one as near. Throws `wrong-use`.
 * @param within in units of the dataset's CRS
 */
export function matchPoints(
  data: FoundDataset,
  better: FoundDataset,
  { key, within }: { readonly key: string | null; readonly within: number },
): MatchedPoints {
  const [from, to] = [crsKey(better.dataset.crs), crsKey(data.dataset.crs)];
  const shift = from === null || to === null ? null : transformer(from, to);
  if (!shift)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${from === null ? better.dataset.id : data.dataset.id} does not tell its CRS, so places cannot be held against each other. State it first.`,
    });
  const [own, others] = [spotsOf(data, key, (x, y) => [x, y]), spotsOf(better, key, shift)];
  return key === null ? byPlace(own, others, within) : byKey(own, others);
}

function spotsOf({ folder, dataset }: FoundDataset, key: string | null, shift: Transformer): Spot[] {
  if (!/Point/.test(dataset.geometryType ?? ''))
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.id} has no points. Choose points on both sides, or pick places on the maps.`,
    });
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(dataset, platform, { geometry: true, values: key !== null });
    const column = fields.findIndex((f) => f.name === key);
    if (key !== null && column < 0) throw new ProblemError({ code: 'wrong-use', message: `${dataset.id} has no field ${key}.` });
    const spots: Spot[] = [];
    for (const { geometry, values } of features) {
      const at = geometry && firstOf(geometry, shift);
      if (at) spots.push({ x: at[0], y: at[1], key: key === null || values[column] === null ? null : String(values[column]) });
    }
    return spots;
  } finally {
    platform.close();
  }
}

function firstOf(wkb: Uint8Array, shift: Transformer): readonly [number, number] | null {
  let at: readonly [number, number] | null = null;
  readWkb(wkb, { geometry: () => undefined, run: () => undefined, vertex: (x, y) => (at ??= shift(x, y)) });
  return at;
}

const pairOf = (own: Spot, other: Spot): CheckPoint => ({ x: own.x, y: own.y, referenceX: other.x, referenceY: other.y });

function byKey(own: readonly Spot[], others: readonly Spot[]): MatchedPoints {
  const byName = new Map<string, Spot | null>();
  for (const o of others) if (o.key !== null) byName.set(o.key, byName.has(o.key) ? null : o);
  const seen = new Map<string, number>();
  for (const o of own) if (o.key !== null) seen.set(o.key, (seen.get(o.key) ?? 0) + 1);
  let [unmatched, ambiguous] = [0, 0];
  const pairs: CheckPoint[] = [];
  for (const o of own) {
    const other = o.key === null ? undefined : byName.get(o.key);
    if (other === undefined) unmatched++;
    else if (other === null || seen.get(o.key!) !== 1) ambiguous++;
    else pairs.push(pairOf(o, other));
  }
  return { pairs: pairs.slice(0, MOST_PAIRS), unmatched, ambiguous, left: Math.max(0, pairs.length - MOST_PAIRS) };
}

function byPlace(own: readonly Spot[], others: readonly Spot[], within: number): MatchedPoints {
  if (own.length === 0 || others.length === 0) return { pairs: [], unmatched: own.length, ambiguous: 0, left: 0 };
  const [ownIndex, otherIndex] = [indexOf(own), indexOf(others)];
  let [unmatched, ambiguous] = [0, 0];
  const pairs: CheckPoint[] = [];
  for (const o of own) {
    const near = otherIndex.neighbors(o.x, o.y, 2, within);
    const other = others[near[0] ?? -1];
    if (!other) unmatched++;
    else if (near.length > 1 || ownIndex.neighbors(other.x, other.y, 2, within).length > 1) ambiguous++;
    else pairs.push(pairOf(o, other));
  }
  return { pairs: pairs.slice(0, MOST_PAIRS), unmatched, ambiguous, left: Math.max(0, pairs.length - MOST_PAIRS) };
}

function indexOf(spots: readonly Spot[]): Flatbush {
  const index = new Flatbush(spots.length);
  for (const { x, y } of spots) index.add(x, y, x, y);
  index.finish();
  return index;
}
