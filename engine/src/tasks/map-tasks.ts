import type { StoredForm } from '@rootmap/core';
import type { DigitiseRequest, EditableRequest, MapDocView, RehearsalView } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { adviseCrs } from '../crs/advise-crs.js';
import { planDigitise, type DigitiseOrder } from '../digitise/plan-digitise.js';
import { readEditable } from '../digitise/read-editable.js';
import { stageDigitised } from '../digitise/stage-digitised.js';
import { advisedLayer } from '../maps/layer-data.js';
import { planMapFromTable } from '../maps/map-from-table.js';
import { planNewMap } from '../maps/plan-new-map.js';
import { planSaveMap, refuseSave, type SaveOrder } from '../maps/plan-save-map.js';
import { stylePicture } from '../maps/style-picture.js';
import { mapCrs, readMapDoc, viewMapDoc } from '../maps/view-map-doc.js';
import { viewNewLayers } from '../maps/view-new-layers.js';
import { viewOutside } from '../maps/view-outside.js';
import { findDataset } from '../project/find-dataset.js';
import { rehearse, type RehearsalOrder } from '../rehearsal/rehearse.js';
import { resolvePath, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';
import { viewRehearsal } from './view-rehearsal.js';

/** Maps: made, opened, added to, drawn on, saved, and rehearsed for a move. */
export const MAP_TASKS = {
  'map-doc': async (input: TaskBase & { path: string }): Promise<Omit<MapDocView, 'kept' | 'others'>> => {
    const scope = scopeOf(input, true);
    return viewMapDoc(scope, input.path, await readMapDoc(scope, input.path));
  },
  'new-map': (input: TaskBase & { title: string; storedForm: StoredForm | null }) =>
    planNewMap(scopeOf(input, true), input.title, input.who, [], null, { storedForm: input.storedForm }),
  'map-from-table': (input: TaskBase & { title: string; text: string }) =>
    planMapFromTable(scopeOf(input, true), input.title, input.text, input.who),
  'new-layers': (input: TaskBase & { roots: readonly string[]; path: string; ids: readonly string[] }) =>
    viewNewLayers(scopeOf(input, true), input.roots, input.path, input.ids),
  'refuse-save': (input: TaskBase & Pick<SaveOrder, 'path' | 'base' | 'as'>) => refuseSave(scopeOf(input, true), input),
  'save-map': (input: TaskBase & SaveOrder, { dataFolder, progress }: TaskContext) =>
    planSaveMap(scopeOf(input, true), input, dataFolder, input.who, (item) => progress({ done: 0, of: 0, unit: 'layers', item })),
  'map-crs': ({ code }: { code: string }) => mapCrs(code),
  'crs-advice': (input: TaskBase & { ids: readonly string[] }) => {
    const scope = scopeOf(input, true);
    return adviseCrs(input.ids.map((id) => advisedLayer(scope, id)));
  },
  'style-picture': (input: TaskBase & { path: string; layer: string; href: string }) =>
    stylePicture(scopeOf(input, true), input.path, input.layer, input.href),
  outside: (input: TaskBase & { roots: readonly string[]; path: string }) => viewOutside(scopeOf(input, true), input.roots, input.path),
  rehearse: (input: TaskBase & { map: string | null; order: RehearsalOrder }): RehearsalView => {
    const scope = scopeOf(input);
    const maps = input.map === null ? scope.maps : scope.maps.filter((m) => m === join(scope.root, input.map!));
    return viewRehearsal(rehearse({ ...scope, maps }, input.order), scope);
  },
  editable: (input: TaskBase & EditableRequest) => {
    const scope = scopeOf(input, true);
    return readEditable(scope, findDataset(scope, input.dataset), input.crs);
  },
  'plan-digitise': (input: TaskBase & { request: DigitiseRequest }) =>
    planDigitise(scopeOf(input, true), input.request, (at) => resolvePath(input.places, at, true), input.who),
  'stage-digitised': (input: TaskBase & { order: DigitiseOrder; staged: Readonly<Record<string, string>> }) =>
    stageDigitised(scopeOf(input, true), input.order, input.staged),
} satisfies TaskTable;
