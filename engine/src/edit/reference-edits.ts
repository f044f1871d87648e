import {
  isBelow,
  parseReference,
  patchLink,
  patchReference,
  patchText,
  placeNamed,
  resolveIn,
  storeReference,
  type Judgement,
  type MapLayer,
  type MapReference,
  type StoredForm,
  type TextPatch,
  joined,
} from '@rootmap/core';
import type { ReferenceEdit } from '@rootmap/core/contract';
import { basename, join, pathFrom } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { confine } from '../places/confine.js';
import { pathOf } from '../places/places.js';
import { readMaps, type MapSeen } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { planBrought } from './bring-in.js';
import { referencesOf } from './edit-preview.js';
import { type EditOptions, type EditPlan, planned } from './planned.js';

interface Rewritten {
  readonly map: string;
  readonly title: string;
  readonly before: string;
  readonly after: string;
  readonly layer: string;
}

/** References of chosen layers, each as it is asked for, as one change. What cannot be done is told and stays. */
export function planReferences(scope: RootedScope, layers: readonly ReferenceEdit[], options: EditOptions): EditPlan {
  const byMap = new Map<string, Map<string, ReferenceEdit['act']>>();
  for (const l of layers) byMap.set(l.map, (byMap.get(l.map) ?? new Map<string, ReferenceEdit['act']>()).set(l.layer, l.act));
  const seen = readMaps({ ...scope, maps: [...byMap.keys()].map((m) => join(scope.root, m)) });
  const asked = seen.maps.flatMap((map) =>
    map.layers.flatMap(({ layer, judgement }) => {
      const act = byMap.get(pathFrom(scope.root, map.path))?.get(layer.id);
      return act ? [{ map, layer, judgement, act }] : [];
    }),
  );
  const outside = asked.flatMap(({ judgement, act }) => (act === 'bring-in' && canBringIn(judgement) ? [realPath(judgement, scope)] : []));
  const brought = planBrought(scope, outside);
  const kept: EditPlan['preview']['kept'][number][] = [];
  const rewritten: Rewritten[] = [];
  const patches = new Map<MapSeen, TextPatch[]>();
  for (const one of asked) {
    const result = rewrite(one, scope, brought.places);
    if ('why' in result) kept.push({ map: basename(one.map.path), title: one.layer.title, why: result.why });
    else if (result.after !== one.layer.reference!.href || result.patches.length > 0) {
      patches.set(one.map, [...(patches.get(one.map) ?? []), ...result.patches]);
      rewritten.push({
        map: one.map.path,
        layer: one.layer.id,
        title: one.layer.title,
        before: one.layer.reference!.href,
        after: result.after,
      });
    }
  }
  const steps: PlannedStep[] = [
    ...brought.steps,
    ...[...patches].flatMap(([map, list]) => (list.length > 0 ? [writeOf(map, patchText(map.file.text, list))] : [])),
  ];
  const title = titleOf(rewritten.length, brought.files.length > 0 ? brought.places.size : 0);
  const plan = planned(scope, title, brought.files.length > 0 ? 'copy' : 'paths', steps, options);
  return {
    ...plan,
    preview: {
      ...plan.preview,
      moved: brought.files.map((f) => ({ from: f.from, to: pathFrom(scope.root, f.to) })),
      files: brought.files.length,
      references: referencesOf({ references: rewritten }, scope),
      referenceCount: rewritten.length,
      maps: new Set(rewritten.map((r) => r.map)).size,
      copiedBytes: brought.files.reduce((sum, f) => sum + f.bytes, 0),
      kept,
    },
  };
}

const titleOf = (references: number, datasets: number): string =>
  datasets > 0
    ? `Bring in ${datasets} ${datasets === 1 ? 'dataset' : 'datasets'}, rewrite ${references} ${references === 1 ? 'reference' : 'references'}`
    : `Rewrite ${references} ${references === 1 ? 'reference' : 'references'}`;

const canBringIn = (j: Judgement): boolean => j.location !== null && j.found !== null && (j.reach === 'outside' || j.reach === 'linked');
const realPath = (j: Judgement, { places }: RootedScope): string =>
  join(pathOf(placeNamed(places, j.location!.place)!), ...(j.spelled ?? j.location!.segments));

interface Asked {
  readonly map: MapSeen;
  readonly layer: MapLayer;
  readonly judgement: Judgement;
  readonly act: ReferenceEdit['act'];
}

function rewrite(
  { map, layer, judgement: j, act }: Asked,
  scope: RootedScope,
  brought: ReadonlyMap<string, string>,
): { after: string; patches: TextPatch[] } | { why: string } {
  const { reference } = layer;
  if (!reference) return { why: 'the layer records no source' };
  const parsed = parseReference(reference.href);
  if (!parsed.ok) return { why: 'it is no address' };
  if (parsed.value.kind === 'service') return { why: 'it is a service: it has an address of its own' };
  const form: StoredForm = map.file.storedForm ?? scope.project?.storedForm ?? 'relative';
  if (act === 'bring-in') {
    if (j.reach === 'inside') return { why: 'it is inside already' };
    const to = canBringIn(j) ? brought.get(realPath(j, scope)) : undefined;
    if (to === undefined) return { why: 'its data is not there now' };
    const { href } = storeReference(map.location, locationOf(to, scope.places), j.table, form, scope.places);
    return { after: href, patches: [...patchReference(reference, href), ...patchLink(layer, null)] };
  }
  const target = resolveIn(map.location, parsed.value, scope.places);
  if (target === 'above-root') return { why: 'it leads above its root' };
  if ('flavour' in target) return { why: `no place is known as ${target.root}` };
  if (act === 'respell') {
    if (!j.spelled) return { why: 'it is spelled as it stands on disk' };
    const { href } = storeReference(
      map.location,
      { place: target.place, segments: j.spelled },
      parsed.value.fragment,
      parsed.value.kind,
      scope.places,
    );
    return { after: href, patches: patchReference(reference, href) };
  }
  const stored = storeReference(map.location, target, parsed.value.fragment, act, scope.places);
  if (stored.form !== act)
    return { why: `its data is on another place, ${target.place}: a relative path cannot lead there. Bring it in, or link its folder` };
  const others = layer.others.flatMap((o) => rewriteOther(o, map, act, scope));
  return { after: stored.href, patches: [...(stored.href === reference.href ? [] : patchReference(reference, stored.href)), ...others] };
}

/** Further contents and styles of the layer get the same form, where they can have it. */
function rewriteOther(reference: MapReference, map: MapSeen, form: StoredForm, scope: RootedScope): TextPatch[] {
  const parsed = parseReference(reference.href);
  if (!parsed.ok || parsed.value.kind === 'service') return [];
  const target = resolveIn(map.location, parsed.value, scope.places);
  if (target === 'above-root' || 'flavour' in target) return [];
  const stored = storeReference(map.location, target, parsed.value.fragment, form, scope.places);
  return stored.form === form && stored.href !== reference.href ? patchReference(reference, stored.href) : [];
}

/** Datasets from outside, for whoever wants them in the project: every layer of it that uses one follows. */
export function planBringIn(scope: RootedScope, datasets: readonly string[], options: EditOptions): EditPlan {
  const paths = datasets.map((id) => mainFile(id, scope));
  const wanted = paths.map((p) => locationOf(p, scope.places));
  const using = readMaps(scope).maps.flatMap((map) =>
    map.layers.flatMap(({ layer, judgement: j }): ReferenceEdit[] =>
      canBringIn(j) && wanted.some((w) => isBelow(w, j.location!, scope.places))
        ? [{ map: pathFrom(scope.root, map.path), layer: layer.id, act: 'bring-in' }]
        : [],
    ),
  );
  if (using.length > 0) {
    const covered = new Set(paths);
    const plan = planReferences(scope, using, options);
    if ([...covered].every((p) => plan.preview.moved.some((m) => m.from === p))) return plan;
  }
  const brought = planBrought(scope, paths);
  const title = paths.length === 1 ? `Bring in ${basename(paths[0]!)}` : `Bring in ${paths.length} datasets`;
  const plan = planned(scope, title, 'copy', brought.steps, options);
  return {
    ...plan,
    preview: {
      ...plan.preview,
      files: brought.files.length,
      moved: brought.files.map((f) => ({ from: f.from, to: pathFrom(scope.root, f.to) })),
      copiedBytes: brought.files.reduce((sum, f) => sum + f.bytes, 0),
    },
  };
}

/** The file of a dataset's id, in one of the places, links followed. */
function mainFile(id: string, { places }: RootedScope): string {
  const path = id.replace(/(\.(?:gpkg|gpx|kml|kmz|xlsx))#.*$/i, '$1');
  const at = locationOf(path, places);
  return confine(placeNamed(places, at.place)!, joined(at.segments));
}
