import { prefixesOf, shiftTrail } from './shifts.js';
import { scoreCandidate } from './score.js';
import { trailKey } from './trail.js';
import { TargetIndex } from './target-index.js';
import type { BrokenLayer, Target, Trail } from './types.js';

/** What a person's pointing explains: the shift, and each layer that it mends with its dataset. */
export interface PointedShift {
  readonly from: Trail;
  readonly to: Trail;
  readonly mends: readonly { readonly layer: string; readonly target: Target }[];
}

/**
 * A person has shown where one layer's data is. The same shift is tried on every other layer; only those whose data is
 * really there, and is not ruled out, are offered. The layer that was pointed for is always among them.
 */
export function explainPointing(
  pointedFor: BrokenLayer,
  target: Target,
  layers: readonly BrokenLayer[],
  targets: readonly Target[],
): PointedShift {
  const found: Trail = { space: target.location.place, segments: target.location.segments };
  const { from, to } = pointedFor.recorded ? prefixesOf(pointedFor.recorded, found) : { from: found, to: found };
  const index = new TargetIndex(targets);
  const mends = [{ layer: pointedFor.key, target }];
  for (const layer of layers) {
    if (layer.key === pointedFor.key || !layer.recorded) continue;
    const predicted = shiftTrail(layer.recorded, from, to);
    const there = predicted && index.find(trailKey(predicted), layer.table, () => predicted.segments);
    if (there && scoreCandidate(layer, there)) mends.push({ layer: layer.key, target: there });
  }
  return { from, to, mends };
}

/** In a folder that a person points at, the dataset that fits the layer: by name, else by content. Null: none does. */
export function pickInFolder(layer: BrokenLayer, targets: readonly Target[]): Target | null {
  let best: { target: Target; score: number } | null = null;
  for (const target of targets) {
    const candidate = scoreCandidate(layer, target);
    if (candidate && (!best || candidate.score > best.score)) best = { target, score: candidate.score };
  }
  return best && best.target;
}
