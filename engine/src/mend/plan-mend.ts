import {
  isBelow,
  EXPLAINED,
  groupBy,
  judgeLayer,
  NO_DECISIONS,
  matchLayers,
  parseMapFile,
  patchText,
  printAddress,
  address,
  placeNamed,
  toFileUri,
  type BrokenLayer,
  type Candidate,
  type Choice,
  type LayerState,
  type MendDecisions,
  type SeenMove,
  type Proposal,
  type Shift,
  type Target,
  type Trail,
  type Verdict,
  joined,
  addressOn,
  flavourOf,
  isInOrder,
} from '@rootmap/core';
import { below } from '../disk/native-path.js';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { layerKey } from '../project/layer-row.js';
import { readMaps, type LayerSeen, type MapSeen, type MapsSeen } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { withStyleNeeds } from '../project/style-needs.js';
import { linkLocations, locationOf, type Scope } from '../project/scope.js';
import { adriftStyles, mendStyles, patchStyles, type AdriftStyle, type MendedStyle } from './adrift-styles.js';
import { brokenLayers, reachDatasets, withFullFingerprints, type Reached, type ReachOptions, type ReadWhole } from './gather.js';
import { hrefFor, patchesFor } from './patch-layer.js';
import { dataOf } from './replace-data.js';
import { redirectOf, type Redirect } from './redirect.js';
import { outermost, searchSteps } from './search.js';
import type { SoughtLayer } from './seen-moves.js';
import { surroundingsOf } from './surroundings.js';

export interface MendedLayer {
  readonly key: string;
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly before: { readonly href: string | null; readonly state: LayerState; readonly reason?: string };
  readonly after: { readonly href: string; readonly state: LayerState } | null;
  readonly verdict: Verdict;
  readonly shift: number | null;
  /** Equal content stands in several places: how many they are, and what speaks for the first. */
  readonly choice: Choice | null;
  readonly candidates: readonly {
    readonly href: string;
    readonly path: string;
    readonly score: number;
    readonly evidence: readonly string[];
    /** The layer had its data in the project, or behind one of its links, and would have it outside. */
    readonly leavesProject: boolean;
  }[];
}

export interface MendShift {
  readonly kind: Shift['kind'];
  readonly from: string;
  readonly to: string;
  readonly layers: readonly { readonly map: string; readonly layer: string }[];
  readonly evidence: readonly string[];
  readonly verdict: Verdict;
  /** What could be said once instead of rewriting the maps. */
  readonly redirect: Redirect | null;
}

interface MendView {
  readonly shifts: readonly MendShift[];
  readonly layers: readonly MendedLayer[];
  readonly styles: readonly MendedStyle[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  /** `isStopped`: the known places hold more than is looked at unasked. `isWider`: something is not explained, and they were not looked at. */
  readonly searched: {
    readonly folders: readonly string[];
    readonly datasets: number;
    readonly isStopped: boolean;
    readonly isWider: boolean;
    /** Projects below folders that were added: they were not looked into. */
    readonly projects: readonly string[];
  };
}

/** Everything a mend is made of, so that parts of it can be chosen and applied. */
export interface MendWork {
  readonly scope: Scope;
  readonly seen: MapsSeen;
  readonly broken: readonly { readonly broken: BrokenLayer; readonly map: MapSeen; readonly seen: LayerSeen }[];
  readonly styles: readonly AdriftStyle[];
  readonly reached: readonly Reached[];
  readonly view: MendView;
  readonly proposals: readonly Proposal[];
  readonly shifts: readonly Shift[];
}

/** Files that are looked at in known places before a search that nobody asked for stops by itself. */
const MOST_FILES_IN_PLACES = 200_000;

export interface ExplainOptions {
  /** What people decided before. */
  readonly decisions?: MendDecisions;
  /** How far is looked: what is near, or the known places too while something is not explained. */
  readonly reach?: 'near' | 'places';
  /** Called with the path of each folder looked into and each dataset read; throwing from it ends the work. */
  readonly onItem?: (path: string) => void;
  /** Left out, every dataset that needs it is read anew. */
  readonly read?: ReadWhole | undefined;
  /** Moves of the layers' data that were seen, among what was reached; left out: none is known. */
  readonly movesSeen?: (sought: readonly SoughtLayer[], reached: readonly Reached[], scope: Scope) => readonly SeenMove[];
}

/**
 * Finds what explains the layers that are not sound. Reads; writes nothing. The search widens by itself while something is
 * not explained.
 */
export function explainBroken(
  scope: Scope,
  added: readonly string[] = [],
  { decisions = NO_DECISIONS, reach = 'places', onItem = () => undefined, read, movesSeen = () => [] }: ExplainOptions = {},
): MendWork {
  const seen = readMaps(scope);
  const broken = brokenLayers(seen, scope);
  const styles = adriftStyles(seen, scope);
  const layers = broken.map((b) => b.broken);
  const sought = broken.map((b): SoughtLayer => ({ broken: b.broken, data: dataOf(b.seen) }));
  const folders: string[] = [];
  let reached: Reached[] = [];
  let proposals: readonly Proposal[] = [];
  let shifts: readonly Shift[] = [];
  const projects = new Set<string>();
  const isAdded = (path: string): boolean => added.some((folder) => below(folder, path) !== null);
  const onProject = (path: string): void => void (isAdded(path) && path !== scope.root && projects.add(path));
  let isStopped = false;
  let isWider = false;
  for (const step of broken.length || styles.length ? searchSteps(scope, seen, added) : []) {
    isWider = step.what === 'places' && reach === 'near';
    if (isWider) break;
    const next = step.folders.filter((f) => !folders.includes(f));
    if (broken.length > 0) {
      // A map that is in no project has no project that its data would be kept apart from.
      const options = { onFolder: onItem, onProject, without: folders, entersProjects: scope.root === null && step.what === 'places' };
      const found = step.what === 'near' ? reachDatasets(next, scope, options) : reachWithin(next, scope, options);
      if (found === null) {
        isStopped = true;
        break;
      }
      reached = withFullFingerprints([...reached, ...found], layers, read, onItem);
    }
    folders.push(...next);
    const plan = matchLayers(
      layers.filter((_, i) => !isSpelled(broken[i]!.seen)),
      reached.map((r) => r.target),
      decisions,
      surroundingsOf(scope, movesSeen(sought, reached, scope)),
    );
    const matched = new Map(plan.proposals.map((p) => [p.layer, p]));
    proposals = broken.map((b) => matched.get(b.broken.key) ?? asSpelled(b.broken.key, b.seen.judgement));
    shifts = plan.shifts;
    if (proposals.every((p) => EXPLAINED.includes(p.verdict))) break;
  }
  const work = { scope, seen, broken, styles, reached, proposals, shifts };
  return { ...work, view: toView(work, outermost(folders), { isStopped, isWider, projects: [...projects] }) };
}

/** Null: there is more in these folders than a search that nobody asked for looks at. */
function reachWithin(folders: readonly string[], scope: Scope, options: ReachOptions): Reached[] | null {
  const enough = new Error('enough');
  try {
    // Each folder and each project inside is listed by itself, and counts from nothing.
    let before = 0;
    let last = 0;
    const onFolder = (path: string, files: number): void => {
      options.onFolder?.(path, files);
      if (files < last) before += last;
      last = files;
      if (before + files > MOST_FILES_IN_PLACES) throw enough;
    };
    return reachDatasets(folders, scope, { ...options, onFolder });
  } catch (error) {
    if (error === enough) return null;
    throw error;
  }
}

const isSpelled = ({ judgement: j }: LayerSeen): boolean => j.reason === 'spelling';

/** A layer that is only spelled otherwise has its dataset already: that one, and nothing else, is proposed. */
function asSpelled(layer: string, j: LayerSeen['judgement']): Proposal {
  const location = { place: j.location!.place, segments: j.spelled! };
  const target: Target = { location, table: j.table, fingerprint: j.found!, damaged: false };
  const evidence = ['The same path, spelled as it is on disk.'];
  const candidate: Candidate = { target, score: 100, fit: 100, standing: null, kinds: new Set(['spelling']), evidence };
  return { layer, verdict: 'certain', candidates: [candidate], shift: null, choice: null };
}

function toView(
  work: Omit<MendWork, 'view'>,
  folders: readonly string[],
  ended: Pick<MendView['searched'], 'isStopped' | 'isWider' | 'projects'>,
): MendView {
  const { scope, broken, proposals, shifts } = work;
  const states = statesAfter(work);
  const inside = isInProject(scope);
  const mendable = broken.map(({ map, seen }, i): MendedLayer => {
    const p = proposals[i]!;
    const best = p.candidates[0];
    const { judgement: j, layer } = seen;
    const candidates = p.candidates.map((c) => {
      const path = pathIn(c.target, scope);
      const leavesProject = j.reach !== 'outside' && !inside(path.replace(/#.*$/s, ''));
      return {
        href: hrefFor(map, c.target, scope),
        path,
        score: c.score,
        evidence: leavesProject ? [...c.evidence, 'It stands outside the project: sent on, it does not travel along.'] : c.evidence,
        leavesProject,
      };
    });
    return {
      key: layerKey(map, seen),
      map: map.path,
      layer: layer.id,
      title: layer.title,
      before: { href: layer.reference?.href ?? null, state: j.state, ...(j.reason ? { reason: j.reason } : {}) },
      after: best && p.verdict !== 'none' ? { href: candidates[0]!.href, state: states.get(layerKey(map, seen))! } : null,
      verdict: p.verdict,
      shift: p.shift,
      choice: p.choice,
      candidates,
    };
  });
  const named = new Map(mendable.map((l) => [l.key, l]));
  return {
    layers: inOrder(work.seen, named),
    shifts: shifts.map((s): MendShift => {
      const members = s.layers.map((key) => named.get(key)!);
      return {
        kind: s.kind,
        from: printTrail(s.from, scope),
        to: printTrail(s.to, scope),
        layers: members.map((l) => ({ map: l.map, layer: l.layer })),
        evidence: [...s.evidence, ...sharedEvidence(members)],
        verdict: weakest(members.map((l) => l.verdict)),
        redirect: redirectOf(s, scope),
      };
    }),
    styles: mendStyles(work.styles, shifts, folders, scope),
    damaged: work.seen.damaged,
    searched: { folders, datasets: work.reached.length, ...ended },
  };
}

/** Tells of a real path whether it is below the root, or below a folder that the project links; all are, of a map by itself. */
function isInProject(scope: Scope): (path: string) => boolean {
  if (!scope.root) return () => true;
  const folders = [locationOf(scope.root, scope.places), ...linkLocations(scope).map((l) => l.location)];
  return (path) => {
    const at = locationOf(path, scope.places);
    return folders.some((folder) => isBelow(folder, at, scope.places));
  };
}

/** Every layer that is not in order, in map and file order; those that no rewrite can help have no proposal. */
function inOrder(seen: MapsSeen, named: ReadonlyMap<string, MendedLayer>): MendedLayer[] {
  return seen.maps.flatMap((map) =>
    map.layers.flatMap((layer) => {
      const key = layerKey(map, layer);
      const { state, reason } = layer.judgement;
      const known = named.get(key);
      if (known || isInOrder(state)) return known ? [known] : [];
      const before = { href: layer.layer.reference?.href ?? null, state, ...(reason ? { reason } : {}) };
      return [
        {
          key,
          map: map.path,
          layer: layer.layer.id,
          title: layer.layer.title,
          before,
          after: null,
          verdict: 'none',
          shift: null,
          choice: null,
          candidates: [],
        },
      ];
    }),
  );
}

/** Evidence that holds for every layer of a shift, said once. */
function sharedEvidence(members: readonly MendedLayer[]): string[] {
  const [first, ...rest] = members.map((l) => l.candidates[0]?.evidence ?? []);
  return (first ?? []).filter((e) => rest.every((other) => other.includes(e)));
}

const ORDER: readonly Verdict[] = ['none', 'possible', 'likely', 'certain'];
const weakest = (verdicts: readonly Verdict[]): Verdict => ORDER[Math.min(...verdicts.map((v) => ORDER.indexOf(v)), 3)]!;

/** A trail as people and programs read it: a real path in a place, else a `file:` URI of the other machine. */
function printTrail(trail: Trail, scope: Scope): string {
  const place = placeNamed(scope.places, trail.space);
  if (place) return printAddress(addressOn(place, trail.segments));
  if (trail.space === 'above') return joined(trail.segments);
  return toFileUri(address(flavourOf(trail.space), trail.space, trail.segments));
}

export const pathIn = (target: Target, scope: Scope): string =>
  printTrail({ space: target.location.place, segments: target.location.segments }, scope) +
  (target.table === null ? '' : `#${target.table}`);

/**
 * The states that layers would have with their best candidates: judged from the text that would be written. Each map is
 * patched and parsed once for all of its layers.
 */
function statesAfter({ broken, proposals, scope, seen }: Omit<MendWork, 'view'>): Map<string, LayerState> {
  const states = new Map<string, LayerState>();
  const entries = broken.flatMap((b, i) => {
    const p = proposals[i]!;
    return p.candidates[0] && p.verdict !== 'none' ? [{ ...b, target: p.candidates[0].target }] : [];
  });
  for (const [map, own] of groupBy(entries, (e) => e.map)) {
    const patches = own.flatMap((e) => patchesFor(map, e.seen, e.target, scope));
    const parsed = parseMapFile(map.path, patchText(map.file.text, patches));
    for (const { seen: before } of own) {
      const layer = parsed.ok ? parsed.value.layers[before.layer.index] : undefined;
      const now = layer && judgeLayer(map.location, withStyleNeeds(layer, map.location, scope.places), seen.surroundings);
      states.set(layerKey(map, before), now?.state ?? 'unreadable');
    }
  }
  return states;
}

/** Which layer gets which dataset. */
export interface ChosenData {
  readonly key: string;
  readonly target: Target;
}

/**
 * Plans the rewriting of the chosen layers and styles: one change, each map patched at its tokens.
 * @param styles what is written for each style, by its key
 */
export function planMend(
  work: MendWork,
  choices: readonly ChosenData[],
  who: string,
  styles: ReadonlyMap<string, string> = new Map(),
): PlannedChange | null {
  const steps: PlannedWrite[] = [];
  const mended = new Map(choices.map((c) => [c.key, c.target]));
  let count = 0;
  for (const map of work.seen.maps) {
    const patches = work.broken
      .filter((b) => b.map === map && mended.has(b.broken.key))
      .flatMap((b) => {
        count++;
        return patchesFor(map, b.seen, mended.get(b.broken.key)!, work.scope);
      });
    patches.push(...patchStyles(map, work.styles, styles));
    if (patches.length) steps.push(writeOf(map, patchText(map.file.text, patches)));
  }
  if (steps.length === 0) return null;
  const parts = [...(count || !styles.size ? [numbered(count, 'layer')] : []), ...(styles.size ? [numbered(styles.size, 'style')] : [])];
  return {
    title: `Mend ${parts.join(' and ')} in ${numbered(steps.length, 'map')}`,
    kind: 'mend',
    root: work.scope.root ?? work.scope.named,
    who,
    steps,
  };
}

const numbered = (n: number, thing: string): string => `${n} ${thing}${n === 1 ? '' : 's'}`;
