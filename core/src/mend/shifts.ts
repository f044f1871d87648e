import { byCodePoint } from '../code-point-order.js';
import { groupBy } from '../group-by.js';
import { Heap } from './heap.js';
import { fold } from './names.js';
import { foldedOf, shiftedKey, trailKey } from './trail.js';
import type { TargetIndex } from './target-index.js';
import { scoreCandidate } from './score.js';
import type { BrokenLayer, Candidate, Shift, Target, Trail } from './types.js';

/** A candidate explanation and the layers it would mend. */
interface Idea {
  readonly kind: Shift['kind'];
  readonly from: Trail;
  readonly to: Trail;
  /** The dataset that it means for a layer; null: it says nothing of that layer. */
  find(layer: BrokenLayer, index: TargetIndex, own: readonly Candidate[]): Target | null;
  /** What it means for each layer, and how well that fits. */
  readonly claims: Map<string, { readonly target: Target; readonly score: number }>;
}

/** Anything this far below the best of its layer is no reason for an explanation. */
const NEAR = 12;
const UNKNOWN = '\0';

/** Below `from`, moved to below `to`; null when the trail is not below `from`. */
export function shiftTrail(trail: Trail, from: Trail, to: Trail): Trail | null {
  if (trail.space !== from.space || trail.segments.length < from.segments.length) return null;
  const [a, b] = [foldedOf(trail.segments), foldedOf(from.segments)];
  for (let i = 0; i < b.length; i++) if (a[i] !== b[i]) return null;
  return { space: to.space, segments: [...to.segments, ...trail.segments.slice(from.segments.length)] };
}

/** The most general prefixes that lead from one trail to the other: the longest common ending is cut off both. */
export function prefixesOf(recorded: Trail, found: Trail): { from: Trail; to: Trail } {
  let keep = 0;
  const a = recorded.segments;
  const b = found.segments;
  const [x, y] = [foldedOf(a), foldedOf(b)];
  while (keep < a.length && keep < b.length && x[a.length - 1 - keep] === y[b.length - 1 - keep]) keep++;
  return {
    from: { space: recorded.space, segments: a.slice(0, a.length - keep) },
    to: { space: found.space, segments: b.slice(0, b.length - keep) },
  };
}

const at = (trail: Trail, table: string | null, index: TargetIndex): Target | null =>
  index.find(trailKey(trail), table, () => trail.segments);

const folderIdea = (from: Trail, to: Trail): Idea => ({
  kind: 'folder',
  from,
  to,
  find: ({ recorded, table }, index) => {
    const key = recorded && shiftedKey(recorded, from, to);
    return key === null ? null : index.find(key, table, () => shiftTrail(recorded!, from, to)!.segments);
  },
  claims: new Map(),
});

/** The files of a folder are tables of one geodatabase now, or a table has another name in the same one. */
const containerIdea = (from: Trail, to: Trail): Idea => ({
  kind: 'converted',
  from,
  to,
  find: (layer, _index, own) => {
    if (!layer.recorded || !shiftTrail(layer.recorded, from, to)) return null;
    const there = own.find((c) => c.target.table !== null && trailKey(trailOf(c.target)) === trailKey(to));
    return there ? there.target : null;
  },
  claims: new Map(),
});

const trailOf = (target: Target): Trail => ({ space: target.location.place, segments: target.location.segments });

/** The folder that a map must have been in for its relative reference to reach the found dataset. */
function formerFolder(layer: BrokenLayer, found: Trail): string[] | null {
  const steps = layer.steps;
  if (!steps || found.space !== layer.map.place) return null;
  const up = steps.filter((s) => s === '..').length;
  const down = steps.slice(up);
  const at = found.segments.length - down.length;
  if (at < 0 || down.some((s, i) => fold(s) !== fold(found.segments[at + i]!))) return null;
  return [...found.segments.slice(0, at), ...Array<string>(up).fill(UNKNOWN)];
}

function mapMovedIdea(layer: BrokenLayer, former: readonly string[]): Idea {
  const mapKey = `${layer.map.place}\n${layer.map.segments.join('/')}`;
  const known = former.filter((s) => s !== UNKNOWN);
  return {
    kind: 'map-moved',
    from: { space: layer.map.place, segments: layer.map.segments.slice(0, -1) },
    to: { space: layer.map.place, segments: known },
    find: (other, index) => {
      if (!other.steps || `${other.map.place}\n${other.map.segments.join('/')}` !== mapKey) return null;
      const up = other.steps.filter((s) => s === '..').length;
      if (up > former.length) return null;
      const segments = [...former.slice(0, former.length - up), ...other.steps.slice(up)];
      return segments.includes(UNKNOWN) ? null : at({ space: layer.map.place, segments }, other.table, index);
    },
    claims: new Map(),
  };
}

const ideaKey = (i: Idea, layer: BrokenLayer): string =>
  `${i.kind === 'map-moved' ? `map ${layer.map.place}/${layer.map.segments.join('/')}` : i.kind}\n${trailKey(i.from)}\n${trailKey(i.to)}`;

/**
 * The smallest set of general explanations: the idea that explains most layers first, then the next among the rest. An
 * idea does not claim a layer whose data is known to stand elsewhere (a clearly better candidate).
 * @param isAllowed false: that dataset was turned down for the layer
 */
export function findShifts(
  layers: readonly BrokenLayer[],
  candidates: ReadonlyMap<string, readonly Candidate[]>,
  index: TargetIndex,
  isAllowed: (layer: BrokenLayer, target: Target) => boolean,
): { shifts: Shift[]; chosen: Map<string, { shift: number; target: Target }> } {
  const ideas = collectIdeas(layers, candidates);
  claimLayers(ideas, layers, candidates, index, isAllowed);
  const byKey = new Map(layers.map((l) => [l.key, l]));
  const shifts: Shift[] = [];
  const chosen = new Map<string, { shift: number; target: Target }>();
  const open = rankedIdeas(ideas, countByMap(layers));
  // What an idea explains only shrinks: the first that still explains as much as it was ranked for is the best of all.
  for (let entry = open.pop(); entry; entry = open.pop()) {
    const now = worthOf(entry.idea, chosen);
    if (now.count === 0) continue;
    if (now.count !== entry.count || now.points !== entry.points) {
      open.push({ ...entry, ...now });
      continue;
    }
    const keys = [...entry.idea.claims].filter(([key]) => !chosen.has(key));
    for (const [key, { target }] of keys) chosen.set(key, { shift: shifts.length, target });
    shifts.push(
      describe(
        entry.idea,
        keys.map(([key]) => byKey.get(key)!),
      ),
    );
  }
  return { shifts, chosen };
}

interface Ranked {
  readonly idea: Idea;
  /** Layers that nothing else explains yet, and how well their data fits. */
  readonly count: number;
  readonly points: number;
  /** Place among ideas that explain equally many equally well. */
  readonly order: number;
}

function worthOf(idea: Idea, chosen: ReadonlyMap<string, unknown>): { count: number; points: number } {
  let [count, points] = [0, 0];
  for (const [key, claim] of idea.claims)
    if (!chosen.has(key)) {
      count++;
      points += claim.score;
    }
  return { count, points };
}

function rankedIdeas(ideas: ReadonlySet<Idea>, mapLayers: ReadonlyMap<string, number>): Heap<Ranked> {
  const ranked = [...ideas].filter((i) => i.claims.size > 0).map((idea) => ({ idea, key: preference(idea, mapLayers) }));
  ranked.sort((a, b) => a.key.rank - b.key.rank || a.key.depth - b.key.depth || byCodePoint(a.key.path, b.key.path));
  const none = new Map<string, unknown>();
  const heap = new Heap<Ranked>((a, b) => a.count - b.count || a.points - b.points || b.order - a.order);
  ranked.forEach(({ idea }, order) => heap.push({ idea, ...worthOf(idea, none), order }));
  return heap;
}

function countByMap(layers: readonly BrokenLayer[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const l of layers) {
    if (!l.steps) continue;
    const key = `${l.map.place}\n${l.map.segments.slice(0, -1).join('/')}`;
    counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  return counts;
}

/**
 * Among ideas that explain equally many equally well: 'this map moved' when its data stands where it would be seen from a
 * folder further up or beside, and all that the map draws is explained so; then a folder's; then the more general prefix;
 * then by code point.
 */
function preference(i: Idea, mapLayers: ReadonlyMap<string, number>): { rank: number; depth: number; path: string } {
  const isMapMoved =
    i.kind === 'map-moved' &&
    i.claims.size > 1 &&
    (mapLayers.get(`${i.from.space}\n${i.from.segments.join('/')}`) ?? 0) === i.claims.size &&
    i.to.segments.every((s, n) => fold(s) === fold(i.from.segments[n] ?? UNKNOWN));
  return {
    rank: isMapMoved ? 0 : i.kind === 'folder' ? 1 : 2,
    depth: i.from.segments.length,
    path: `${trailKey(i.to)}\n${trailKey(i.from)}`,
  };
}

/** The list stands in order of points, in which the places of copies count too. */
function bestFit(list: readonly Candidate[]): number {
  let best = fits.get(list);
  if (best === undefined) fits.set(list, (best = list.reduce((most, c) => Math.max(most, c.fit), -Infinity)));
  return best;
}
/** Asked for once for every idea that concerns a layer. */
const fits = new WeakMap<readonly Candidate[], number>();

function collectIdeas(layers: readonly BrokenLayer[], candidates: ReadonlyMap<string, readonly Candidate[]>): Set<Idea> {
  const ideas = new Map<string, Idea>();
  const add = (idea: Idea, layer: BrokenLayer): void => {
    const key = ideaKey(idea, layer);
    if (!ideas.has(key)) ideas.set(key, idea);
  };
  for (const layer of layers) {
    const list = candidates.get(layer.key) ?? [];
    for (const c of list) {
      if (c.fit < bestFit(list) - NEAR || !layer.recorded) continue;
      const found = trailOf(c.target);
      if (c.target.table !== null && c.target.table !== layer.table) {
        const folder = { ...layer.recorded, segments: layer.recorded.segments.slice(0, layer.table === null ? -1 : undefined) };
        add(containerIdea(folder, found), layer);
        continue;
      }
      const { from, to } = prefixesOf(layer.recorded, found);
      add(folderIdea(from, to), layer);
      const former = formerFolder(layer, found);
      if (former) add(mapMovedIdea(layer, former), layer);
    }
  }
  return new Set(ideas.values());
}

function claimLayers(
  ideas: ReadonlySet<Idea>,
  layers: readonly BrokenLayer[],
  candidates: ReadonlyMap<string, readonly Candidate[]>,
  index: TargetIndex,
  isAllowed: (layer: BrokenLayer, target: Target) => boolean,
): void {
  const byFolder = layersBelow(layers);
  const byMap = groupBy(layers, (l) => `${l.map.place}\n${l.map.segments.slice(0, -1).join('/')}`);
  for (const idea of ideas) {
    const concerned =
      idea.kind === 'map-moved'
        ? (byMap.get(`${idea.from.space}\n${idea.from.segments.join('/')}`) ?? [])
        : (byFolder.get(trailKey(idea.from)) ?? []);
    for (const layer of concerned) {
      const list = candidates.get(layer.key) ?? [];
      const target = idea.find(layer, index, list);
      const own = target && (list.find((c) => c.target === target) ?? scoreCandidate(layer, target));
      if (!target || !own || !isAllowed(layer, target) || bestFit(list) - own.fit > NEAR) continue;
      idea.claims.set(layer.key, { target, score: own.score });
    }
  }
}

/** Layers by every folder above their recorded data, and by the data itself. */
export function layersBelow(layers: readonly BrokenLayer[]): Map<string, BrokenLayer[]> {
  const map = new Map<string, BrokenLayer[]>();
  for (const layer of layers) {
    if (!layer.recorded) continue;
    const segments = foldedOf(layer.recorded.segments);
    for (let n = 0; n <= segments.length; n++) {
      const key = `${layer.recorded.space}\n${segments.slice(0, n).join('/')}`;
      const list = map.get(key);
      if (list) list.push(layer);
      else map.set(key, [layer]);
    }
  }
  return map;
}

function describe(idea: Idea, titles: readonly BrokenLayer[]): Shift {
  const maps = new Set(titles.map((l) => `${l.map.place}/${l.map.segments.join('/')}`)).size;
  const many = `${titles.length} ${titles.length === 1 ? 'layer' : 'layers'} in ${maps} ${maps === 1 ? 'map' : 'maps'}`;
  const whole = titles.length === 1 && idea.kind === 'folder' && idea.from.segments.length === titles[0]!.recorded!.segments.length;
  const kind = whole || (idea.kind === 'converted' && titles.every((l) => l.table !== null)) ? 'renamed' : idea.kind;
  const sentence = {
    folder: `${many} found below the new folder, each at the same path as before.`,
    'map-moved': `The map moved, its data did not: ${many} found from its former folder.`,
    renamed: 'The data has another name now.',
    converted: `${many} put into a geodatabase.`,
  }[kind];
  const { from, to } = kind === 'folder' && idea.from.space === idea.to.space ? narrowed(idea, titles) : idea;
  return { kind, from, to, layers: titles.map((l) => l.key), evidence: [sentence] };
}

/** Only what moved: as far down as all its layers were recorded in the same folders. */
function narrowed({ from, to }: Idea, layers: readonly BrokenLayer[]): { from: Trail; to: Trail } {
  const [first, ...rest] = layers.map((l) => l.recorded!.segments);
  let n = from.segments.length;
  while (n < first!.length - 1 && rest.every((r) => n < r.length - 1 && fold(r[n]!) === fold(first![n]!))) n++;
  const more = first!.slice(from.segments.length, n);
  return { from: { ...from, segments: [...from.segments, ...more] }, to: { ...to, segments: [...to.segments, ...more] } };
}
