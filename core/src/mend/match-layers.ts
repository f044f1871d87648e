import { byCodePoint } from '../code-point-order.js';
import { scoreCandidate } from './score.js';
import { findShifts } from './shifts.js';
import { TargetIndex } from './target-index.js';
import type { BrokenLayer, Candidate, EvidenceKind, Proposal, Shift, Target, Verdict } from './types.js';

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

/** Explains broken layers by datasets in reach. Pure; the same input gives the same plan. */
export function matchLayers(layers: readonly BrokenLayer[], targets: readonly Target[]): MendPlan {
  const index = new TargetIndex(targets);
  const candidates = new Map<string, Candidate[]>();
  for (const layer of layers) candidates.set(layer.key, rank(layer, index.possible(layer)));
  const { shifts, chosen } = findShifts(layers, candidates, index);
  const agreeing = shifts.map((s) => agrees(s, layers, candidates, chosen));
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

const candidateKey = (c: Candidate): string => `${c.target.location.place}/${c.target.location.segments.join('/')}#${c.target.table ?? ''}`;

function rank(layer: BrokenLayer, targets: readonly Target[]): Candidate[] {
  return targets
    .map((t) => scoreCandidate(layer, t))
    .filter((c) => c !== null)
    .sort((a, b) => b.score - a.score || byCodePoint(candidateKey(a), candidateKey(b)))
    .slice(0, MOST_CANDIDATES);
}

function putFirst(list: readonly Candidate[], target: Target, layer: BrokenLayer): Candidate[] {
  const own = list.find((c) => c.target === target) ?? scoreCandidate(layer, target);
  return own ? [own, ...list.filter((c) => c.target !== target)] : [...list];
}

/** Three or more layers in one shift, and none below its `from` whose data stands elsewhere. */
function agrees(
  shift: Shift,
  layers: readonly BrokenLayer[],
  candidates: ReadonlyMap<string, readonly Candidate[]>,
  chosen: ReadonlyMap<string, { shift: number; target: Target }>,
): boolean {
  if (shift.layers.length < AGREEING_LAYERS) return false;
  const inside = new Set(shift.layers);
  const below = layers.filter(
    (l) =>
      !inside.has(l.key) && l.recorded?.space === shift.from.space && shift.from.segments.every((s, i) => s === l.recorded!.segments[i]),
  );
  return shift.kind === 'map-moved' || !below.some((l) => chosen.has(l.key) && (candidates.get(l.key)?.length ?? 0) > 0);
}

function verdictOf(layer: BrokenLayer, best: Candidate, rivals: readonly Candidate[], index: TargetIndex): Verdict {
  const hash = layer.fingerprint?.hash;
  const proof = best.kinds.has('hash') && !!hash && index.hashTwins(hash) === 1;
  if (proof) return 'certain';
  const twins = best.kinds.has('hash');
  // A rival that is known to be other data (its hash or content differs) is none.
  const near = rivals.some(
    (r) => r.score >= best.score - NEAR && !(best.kinds.has('content') && !r.kinds.has('content') && layer.fingerprint),
  );
  const edition = layer.fingerprint !== null && !best.kinds.has('content') && !best.kinds.has('hash') && contradicts(layer, best);
  const otherHash =
    !!hash &&
    best.target.fingerprint.hash !== null &&
    best.target.fingerprint.hash !== hash &&
    best.target.fingerprint.format === layer.fingerprint?.format;
  const kinds = [...best.kinds].filter((k) => k !== 'hash').length;
  if (kinds >= 2 && !near && !edition && !twins && !otherHash) return 'certain';
  if (twins || edition || otherHash) return near || twins ? 'possible' : 'likely';
  if (kinds >= 1 && !near) return 'likely';
  return 'possible';
}

/** Remembered numbers that the candidate does not have: another edition of the data, perhaps. */
function contradicts(layer: BrokenLayer, best: Candidate): boolean {
  const a = layer.fingerprint!;
  const b = best.target.fingerprint;
  const differs = (x: number | null, y: number | null): boolean => x !== null && y !== null && x !== y;
  return differs(a.count, b.count) || differs(a.vertices, b.vertices) || (a.grid !== null && b.grid !== null && a.grid !== b.grid);
}
