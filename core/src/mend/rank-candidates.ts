import { byCodePoint } from '../code-point-order.js';
import { groupBy } from '../group-by.js';
import { scoreAny, scoreCandidate } from './score.js';
import { shiftTrail } from './shifts.js';
import { standingPoints, type Standings } from './standing.js';
import { shiftedKey, trailKey } from './trail.js';
import type { TargetIndex } from './target-index.js';
import { targetKey } from './types.js';
import type { BrokenLayer, Candidate, EvidenceKind, MendDecisions, SeenMove, Target, Trail } from './types.js';
import { contentOf, isSame, NEAR } from './verdict.js';

const MOST_CANDIDATES = 20;

const keys = new WeakMap<Target, string>();
function keyOf(target: Target): string {
  let key = keys.get(target);
  if (key === undefined) keys.set(target, (key = targetKey(target)));
  return key;
}

export const isRejected = (layer: BrokenLayer, target: Target, { rejected }: MendDecisions): boolean =>
  rejected.size > 0 && rejected.has(`${layer.key}\n${keyOf(target)}`);

export interface Move {
  readonly from: Trail;
  readonly to: Trail;
}
/** Moves by the key of where they began, so that those that concern a path are found by the folders above it. */
export type Moves<M extends Move> = ReadonlyMap<string, readonly M[]>;
export const movesByFolder = <M extends Move>(moves: readonly M[]): Moves<M> => groupBy(moves, (m) => trailKey(m.from));

/** The best candidates of a layer, the best first; by their content and name only. */
export function rank(
  layer: BrokenLayer,
  index: TargetIndex,
  decisions: MendDecisions,
  moves: { readonly accepted: Moves<Move>; readonly seen: Moves<SeenMove> },
): Candidate[] {
  const accepted = expectedBy(layer, index, moves.accepted);
  const seen = expectedBy(layer, index, moves.seen);
  const possible = new Set([...index.possible(layer), ...accepted.keys(), ...seen.keys()]);
  return [...possible]
    .filter((t) => !isRejected(layer, t, decisions))
    .map((t) => {
      const own = seen.has(t) ? (scoreAny(layer, t)?.candidate ?? null) : scoreCandidate(layer, t);
      const known = own && accepted.has(t) ? withKind(own, 'accepted', ACCEPTED, 'It moved as you accepted for other layers before.') : own;
      return known && seen.has(t) ? withKind(known, 'seen', SEEN, seen.get(t)!.how) : known;
    })
    .filter((c) => c !== null)
    .sort(byScore)
    .slice(0, MOST_CANDIDATES);
}
const byScore = (a: Candidate, b: Candidate): number => b.score - a.score || byCodePoint(keyOf(a.target), keyOf(b.target));

/** Datasets where moves that are known would have put this layer's data, each with the move; of several that of the highest folder. */
function expectedBy<M extends Move>(layer: BrokenLayer, index: TargetIndex, moves: Moves<M>): Map<Target, M> {
  const found = new Map<Target, M>();
  const { recorded } = layer;
  if (!recorded || moves.size === 0) return found;
  for (let n = recorded.segments.length; n >= 0; n--) {
    const above = n === recorded.segments.length ? recorded : { space: recorded.space, segments: recorded.segments.slice(0, n) };
    for (const move of moves.get(trailKey(above)) ?? []) {
      const key = shiftedKey(recorded, move.from, move.to);
      const there = key === null ? null : index.find(key, layer.table, () => shiftTrail(recorded, move.from, move.to)!.segments);
      if (there) found.set(there, move);
    }
  }
  return found;
}
const ACCEPTED = 25;
/** More than all else together. */
const SEEN = 150;
const withKind = (c: Candidate, kind: EvidenceKind, points: number, sentence: string): Candidate => ({
  ...c,
  score: c.score + points,
  fit: c.fit + points,
  kinds: new Set([...c.kinds, kind]),
  evidence: [...c.evidence, sentence],
});

/** Where several come near the best, or are as good by their content, their places decide in which order they stand. */
export function weighed(layer: BrokenLayer, list: readonly Candidate[], standings: Standings): readonly Candidate[] {
  const [best] = list;
  if (!best) return list;
  const isContested = (c: Candidate): boolean => c.fit >= best.fit - NEAR || isSame(contentOf(layer, c));
  if (list.filter(isContested).length < 2) return list;
  return list
    .map((c) => {
      const standing = isContested(c) ? standings.of(layer, c.target) : null;
      return standing ? { ...c, standing, score: c.fit + standingPoints(standing) } : c;
    })
    .sort(byScore);
}
