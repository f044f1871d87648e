import { byCodePoint } from '../code-point-order.js';
import type { Fingerprint } from '../dataset/fingerprint.js';
import { scoreCandidate } from './score.js';
import { findShifts, layersBelow, shiftTrail } from './shifts.js';
import { shiftedKey, trailKey } from './trail.js';
import { TargetIndex } from './target-index.js';
import { NO_DECISIONS, targetKey } from './types.js';
import type { BrokenLayer, Candidate, EvidenceKind, MendDecisions, Proposal, Shift, Target, Trail, Verdict } from './types.js';

export interface MendPlan {
  /** Those that explain most layers first. */
  readonly shifts: readonly Shift[];
  /** One for each layer, in the order given. */
  readonly proposals: readonly Proposal[];
}

const MOST_CANDIDATES = 20;
/** A rival this close to the best makes it doubtful. */
const NEAR = 10;
const AGREEING_LAYERS = 3;
/** One dataset in several maps agrees with itself only. */
const AGREEING_DATASETS = 2;

/** Explains broken layers by datasets in reach, and by what people decided before. Pure; the same input gives the same plan. */
export function matchLayers(layers: readonly BrokenLayer[], targets: readonly Target[], decisions = NO_DECISIONS): MendPlan {
  const index = new TargetIndex(targets);
  const candidates = new Map<string, Candidate[]>();
  for (const layer of layers) candidates.set(layer.key, rank(layer, index, decisions));
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
    if (!best) return { layer: layer.key, verdict: 'none', candidates: [], shift: null };
    const kinds = new Set<EvidenceKind>(best.kinds);
    const evidence = [...best.evidence];
    if (choice && agreeing[choice.shift]) {
      kinds.add('agreement');
      evidence.push(`${shifts[choice.shift]!.layers.length} layers agree on where their data went.`);
    }
    const first = { ...best, kinds, evidence };
    return {
      layer: layer.key,
      verdict: verdictOf(layer, first, rivals, index),
      candidates: [first, ...rivals],
      shift: choice?.shift ?? null,
    };
  });
  return { shifts, proposals };
}

const keys = new WeakMap<Target, string>();
function keyOf(target: Target): string {
  let key = keys.get(target);
  if (key === undefined) keys.set(target, (key = targetKey(target)));
  return key;
}

const isRejected = (layer: BrokenLayer, target: Target, { rejected }: MendDecisions): boolean =>
  rejected.size > 0 && rejected.has(`${layer.key}\n${keyOf(target)}`);

function rank(layer: BrokenLayer, index: TargetIndex, decisions: MendDecisions): Candidate[] {
  const { accepted } = decisions;
  const expected = layer.recorded ? expectedBy(layer, layer.recorded, index, accepted) : new Set<Target>();
  const possible = new Set([...index.possible(layer), ...expected]);
  return [...possible]
    .filter((t) => !isRejected(layer, t, decisions))
    .map((t) => {
      const candidate = scoreCandidate(layer, t);
      return candidate && expected.has(t) ? asAccepted(candidate) : candidate;
    })
    .filter((c) => c !== null)
    .sort((a, b) => b.score - a.score || byCodePoint(keyOf(a.target), keyOf(b.target)))
    .slice(0, MOST_CANDIDATES);
}

/** Datasets where moves that were accepted before would have put this layer's data. */
function expectedBy(layer: BrokenLayer, recorded: Trail, index: TargetIndex, accepted: MendDecisions['accepted']): Set<Target> {
  const found = new Set<Target>();
  for (const { from, to } of accepted) {
    const key = shiftedKey(recorded, from, to);
    const there = key === null ? null : index.find(key, layer.table, () => shiftTrail(recorded, from, to)!.segments);
    if (there) found.add(there);
  }
  return found;
}
const ACCEPTED = 25;
const asAccepted = (c: Candidate): Candidate => ({
  ...c,
  score: c.score + ACCEPTED,
  kinds: new Set([...c.kinds, 'accepted']),
  evidence: [...c.evidence, 'It moved as you accepted for other layers before.'],
});

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

/** How a candidate's content stands to what the layer remembers. */
type Content = 'proved' | 'equal' | 'unknown' | 'edited' | 'other';
function contentOf(layer: BrokenLayer, c: Candidate): Content {
  const a = layer.fingerprint;
  const b = c.target.fingerprint;
  if (c.kinds.has('hash')) return 'proved';
  if (!a) return 'unknown';
  const isOther = contradicts(a, b);
  if (a.hash !== null && b.hash !== null && a.format === b.format && a.hash !== b.hash) return isOther ? 'other' : 'edited';
  if (isOther) return 'other';
  return c.kinds.has('content') ? 'equal' : 'unknown';
}

/** Remembered numbers that the candidate does not have: another edition of the data, perhaps. */
function contradicts(a: Fingerprint, b: Fingerprint): boolean {
  const differs = (x: number | null, y: number | null): boolean => x !== null && y !== null && x !== y;
  return differs(a.count, b.count) || differs(a.vertices, b.vertices) || (a.grid !== null && b.grid !== null && a.grid !== b.grid);
}

/** In another format equal shapes say nothing of the values in the table, so that all of name, content and agreement are needed. */
const kindsNeeded = (layer: BrokenLayer, { target }: Candidate): number =>
  layer.fingerprint !== null && layer.fingerprint.format !== target.fingerprint.format ? 3 : 2;

/**
 * Certain only by proof, or by two kinds of evidence, where nothing else comes near. A rival that is known to be other data
 * is none; one that may be the same data in another format is one, even against a proof.
 */
function verdictOf(layer: BrokenLayer, best: Candidate, rivals: readonly Candidate[], index: TargetIndex): Verdict {
  if (layer.isHere) return layer.isHere === 'absent' ? 'none' : contentOf(layer, best) === 'proved' ? 'likely' : 'possible';
  const content = contentOf(layer, best);
  const states = rivals.map((r) => contentOf(layer, r));
  if (content === 'proved') {
    const isOnly = index.hashTwins(layer.fingerprint!.hash!) === 1 && !states.includes('equal');
    return isOnly ? 'certain' : 'possible';
  }
  const isNear = rivals.some(
    (r, i) => r.score >= best.score - NEAR && !(content === 'equal' && states[i] !== 'equal' && states[i] !== 'unknown'),
  );
  if (content === 'other') return isNear || !best.kinds.has('agreement') ? 'possible' : 'likely';
  if (content === 'edited') return isNear ? 'possible' : 'likely';
  if (isNear || best.kinds.size === 0) return 'possible';
  return best.kinds.size >= kindsNeeded(layer, best) && !states.includes('equal') ? 'certain' : 'likely';
}
