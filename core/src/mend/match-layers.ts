import { isRejected, movesByFolder, rank, weighed } from './rank-candidates.js';
import { scoreCandidate } from './score.js';
import { findShifts, layersBelow } from './shifts.js';
import { Standings } from './standing.js';
import { trailKey } from './trail.js';
import { TargetIndex } from './target-index.js';
import { NO_DECISIONS, NO_SURROUNDINGS } from './types.js';
import type { BrokenLayer, Candidate, EvidenceKind, MendDecisions, MendSurroundings, Proposal, Shift, Target } from './types.js';
import { choiceOf, toldOf, verdictOf } from './verdict.js';

export interface MendPlan {
  /** Those that explain most layers first. */
  readonly shifts: readonly Shift[];
  /** One for each layer, in the order given. */
  readonly proposals: readonly Proposal[];
}

const AGREEING_LAYERS = 3;
/** One dataset in several maps agrees with itself only. */
const AGREEING_DATASETS = 2;

/**
 * Explains broken layers by datasets in reach, by what people decided before, and by what was seen. Pure; the same input gives
 * the same plan.
 */
export function matchLayers(
  layers: readonly BrokenLayer[],
  targets: readonly Target[],
  decisions: MendDecisions = NO_DECISIONS,
  around: MendSurroundings = NO_SURROUNDINGS,
): MendPlan {
  const index = new TargetIndex(targets);
  const moves = { accepted: movesByFolder(decisions.accepted), seen: movesByFolder(around.seen) };
  const standings = new Standings(layers, index, around);
  const candidates = new Map<string, readonly Candidate[]>();
  for (const layer of layers) candidates.set(layer.key, weighed(layer, rank(layer, index, decisions, moves), standings));
  const { shifts, chosen } = findShifts(layers, candidates, index, (layer, target) => !isRejected(layer, target, decisions));
  const byKey = new Map(layers.map((l) => [l.key, l]));
  const below = layersBelow(layers);
  const agreeing = shifts.map((s) =>
    agrees(
      s,
      s.layers.map((key) => byKey.get(key)!),
      below.get(trailKey(s.from)) ?? [],
      candidates,
      chosen,
    ),
  );
  const proposals = layers.map((layer): Proposal => {
    const choice = chosen.get(layer.key);
    const list = candidates.get(layer.key)!;
    const ordered = choice ? putFirst(list, choice.target, layer) : list;
    const [best, ...rivals] = ordered;
    if (!best) return { layer: layer.key, verdict: 'none', candidates: [], shift: null, choice: null };
    const kinds = new Set<EvidenceKind>(best.kinds);
    const evidence = [...best.evidence];
    if (choice && agreeing[choice.shift]) {
      kinds.add('agreement');
      evidence.push(`${shifts[choice.shift]!.layers.length} layers agree on where their data went.`);
    }
    const first = { ...best, kinds, evidence };
    const verdict = verdictOf(layer, first, rivals, index);
    const equal = verdict === 'certain' ? null : choiceOf(layer, first, rivals);
    if (equal) evidence.push(toldOf(equal));
    return {
      layer: layer.key,
      verdict,
      candidates: [first, ...rivals],
      shift: choice?.shift ?? null,
      choice: equal,
    };
  });
  return { shifts, proposals };
}

function putFirst(list: readonly Candidate[], target: Target, layer: BrokenLayer): Candidate[] {
  const own = list.find((c) => c.target === target) ?? scoreCandidate(layer, target);
  return own ? [own, ...list.filter((c) => c.target !== target)] : [...list];
}

/** Of the datasets recorded below a shift's beginning, so many may have no trace at all. */
const MOST_UNEXPLAINED = 1 / 3;

/** Three or more layers in one shift, of more than one dataset, and none below its beginning whose data stands elsewhere. */
function agrees(
  shift: Shift,
  explained: readonly BrokenLayer[],
  recordedBelow: readonly BrokenLayer[],
  candidates: ReadonlyMap<string, readonly Candidate[]>,
  chosen: ReadonlyMap<string, { shift: number; target: Target }>,
): boolean {
  const agreeing = distinctData(explained);
  if (shift.layers.length < AGREEING_LAYERS || agreeing < AGREEING_DATASETS) return false;
  if (shift.kind === 'map-moved') return true;
  const inside = new Set(shift.layers);
  const others = recordedBelow.filter((l) => !inside.has(l.key));
  const isElsewhere = others.some((l) => chosen.has(l.key) && (candidates.get(l.key)?.length ?? 0) > 0);
  const unexplained = distinctData(others);
  return !isElsewhere && unexplained <= MOST_UNEXPLAINED * (agreeing + unexplained);
}

const distinctData = (layers: readonly BrokenLayer[]): number =>
  new Set(layers.map((l) => `${l.recorded?.space}\n${l.recorded?.segments.join('/')}#${l.table ?? ''}`)).size;
