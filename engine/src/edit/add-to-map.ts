import { randomUUID } from 'node:crypto';
import { topFirst, patchAddLayers, patchText, ProblemError, type StoredForm } from '@rootmap/core';
import { join, pathFrom } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { readMaps } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { advisedLayer } from '../maps/layer-data.js';
import { newLayer } from '../maps/new-layer.js';
import { planNewMap } from '../maps/plan-new-map.js';
import { adviseCrs } from '../crs/advise-crs.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { findDataset } from '../project/find-dataset.js';
import { newMapPath } from '../maps/new-map-path.js';

export interface AddToMap {
  /** Ids of datasets. */
  readonly datasets: readonly string[];
  /** Path of the map file from the root; null: a new one with the title. */
  readonly map: string | null;
  readonly title: string;
}
export interface AddedLayers {
  readonly title: string;
  readonly steps: readonly PlannedStep[];
  readonly layers: readonly { readonly map: string; readonly title: string; readonly href: string }[];
}

/** Layers for datasets, in a map that is there or a new one, with what is known of their data so that it can be found again. */
export function planAddToMap(scope: RootedScope, { datasets, map, title }: AddToMap, nowMs: number): AddedLayers {
  const root = scope.root;
  const path = map === null ? newMapPath(scope, title) : join(root, map);
  const seen = map === null ? null : readMaps({ ...scope, maps: [path] }).maps[0];
  if (map !== null && !seen) throw new ProblemError({ code: 'not-found', what: 'map', id: map });
  const form: StoredForm = seen?.file.storedForm ?? scope.project?.storedForm ?? 'relative';
  const at = locationOf(path, scope.places);
  const layers = datasets.map((id) => newLayer(scope, findDataset(scope, id), at, form, `urn:uuid:${randomUUID()}`));
  const updated = new Date(nowMs).toISOString().replace(/\.\d+Z$/, 'Z');
  const told = layers.map((l) => ({ map: pathFrom(root, path), title: l.title, href: l.href }));
  const things = layers.length === 1 ? layers[0]!.title : `${layers.length} datasets`;
  if (seen)
    return {
      title: `Add ${things} to ${seen.file.title}`,
      steps: [writeOf(seen, patchText(seen.file.text, patchAddLayers(seen.file, layers, updated)))],
      layers: told,
    };
  const crs = adviseCrs(datasets.map((id) => advisedLayer(scope, id))).proposed?.crs.code ?? scope.project?.crs ?? null;
  const { change } = planNewMap(scope, title, '', topFirst(layers), crs, { path });
  return { title: change.title, steps: change.steps, layers: told };
}
