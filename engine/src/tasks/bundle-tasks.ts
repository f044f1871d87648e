import {
  EDITION_STATES,
  folderOf,
  joined,
  type Before,
  type EditionState,
  type Manifest,
  type SendChoices,
  type TakeOverOrder,
} from '@rootmap/core';
import type { ContentView, EditionView, PackPreview } from '@rootmap/core/contract';
import { isAbsolute, pathFrom } from '../disk/native-path.js';
import type { BundleFile, Use } from '../bundle/bundle-file.js';
import { carriersFor } from '../bundle/carriers.js';
import { compareWithBundle, manifestHere, planTakeOver } from '../bundle/edition.js';
import { lookIntoBundle, type BundleLook } from '../bundle/look-into.js';
import { suggestedBundle } from '../bundle/pack.js';
import { packedBytes } from '../bundle/packed-size.js';
import type { PackPlan } from '../bundle/pack-plan.js';
import { planPack } from '../bundle/plan-pack.js';
import { lookAtArrival } from '../bundle/receive.js';
import { openPlace } from '../places/places.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { shownPath } from '../project/shown-path.js';
import { scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** More files than this are told by their folders alone. */
const MOST_FILES_SHOWN = 5000;

function previewOf(plan: PackPlan, scope: RootedScope): PackPreview {
  const suggested = locationOf(suggestedBundle(scope), scope.places);
  const shown = (path: string): string => (isAbsolute(path) ? shownPath(path, scope) : path);
  const use = ({ map, ...layer }: Use): Use => ({ map: shown(map), ...layer });
  const bytes = packedBytes(plan.payload);
  return {
    suggested: { place: suggested.place, path: joined(suggested.segments) },
    files: plan.payload.length,
    bytes: plan.bytes,
    packedBytes: bytes,
    contents: contentsOf(plan.payload, use),
    outside: plan.outside.map((o) => ({ ...o, id: o.path, shown: shown(o.path), uses: o.uses.map(use) })),
    services: plan.services.map((s) => ({ ...s, map: shown(s.map) })),
    pages: plan.pages.map(({ map, title, drawn }) => ({ map: pathFrom(scope.root, map), title, drawn })),
    toFetch: plan.toFetch.map(({ path, address }) => ({ path, address })),
    leftOut: plan.leftOut.map((l) => ({ ...l, path: shown(l.path) })),
    checks: plan.findings.map((f) => ({ ...f, path: shown(f.path) })),
    layers: plan.layers.map((l) => ({ map: shown(l.map), id: l.layer, title: l.title, state: l.state, detail: l.detail ?? null })),
    maps: plan.maps.map((m) => ({ path: pathFrom(scope.root, m.path), title: m.title })),
    rewritten: plan.rewritten,
    carriers: carriersFor(bytes),
  };
}

/** The tree of a bundle: each folder after the one it is in, with what is below it. */
function contentsOf(payload: readonly BundleFile[], use: (use: Use) => Use): ContentView[] {
  const folders = new Map<string, { files: number; bytes: number; first: BundleFile }>();
  for (const file of payload)
    for (let at = folderOf(file.to); at !== ''; at = folderOf(at)) {
      const folder = folders.get(at) ?? { files: 0, bytes: 0, first: file };
      folder.files++;
      folder.bytes += file.bytes;
      folders.set(at, folder);
    }
  const rows = [...folders].map(([path, { files, bytes, first }]): ContentView => ({
    path,
    now: '',
    files,
    isFolder: true,
    bytes,
    from: first.from,
    role: first.role,
    uses: [],
  }));
  if (payload.length <= MOST_FILES_SHOWN)
    for (const f of payload)
      rows.push({ path: f.to, now: f.asIs, files: 1, isFolder: false, bytes: f.bytes, from: f.from, role: f.role, uses: f.uses.map(use) });
  return rows;
}

export interface PackTask extends TaskBase {
  readonly choices: SendChoices;
  readonly out: string | null;
  readonly added: readonly string[];
  readonly unsaved: readonly string[];
  readonly pagesFolder: string | null;
}

/** Bundles: what would go into one, and how it stands where it arrived. */
export const BUNDLE_TASKS = {
  'plan-pack': (input: PackTask): { plan: PackPlan; preview: PackPreview } => {
    const scope = scopeOf(input);
    const plan = planPack(scope, { ...input, person: input.who });
    return { plan, preview: previewOf(plan, scope) };
  },
  'look-bundle': ({ bundle }: TaskBase & { bundle: string }): Promise<BundleLook> => lookIntoBundle(bundle),
  'manifest-here': (input: TaskBase): Promise<Manifest> => manifestHere(scopeOf(input)),
  'plan-take-over': (input: TaskBase & { bundle: string; before: Before | null; order: TakeOverOrder }, { progress }: TaskContext) =>
    planTakeOver(scopeOf(input), input.bundle, input.before, input.order, progress),
  'compare-edition': async (input: TaskBase & { bundle: string; before: Before | null }): Promise<Omit<EditionView, 'before'>> => {
    const { rows } = await compareWithBundle(scopeOf(input), input.bundle, input.before);
    const counts = Object.fromEntries(EDITION_STATES.map((s) => [s, 0])) as Record<EditionState, number>;
    for (const { state } of rows) counts[state]++;
    return { counts, rows: rows.filter((r) => r.state !== 'same').slice(0, MOST_FILES_SHOWN) };
  },
  arrival: (input: TaskBase) => lookAtArrival(input.root, input.places.map(openPlace)),
} satisfies TaskTable;
