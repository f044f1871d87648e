import type {
  AdoptView,
  ClassesRequest,
  ClassesView,
  CrsAdvice,
  CrsCandidate,
  DigitiseRequest,
  DuplicatesView,
  EditableRequest,
  EditableView,
  EditRequest,
  ExportDone,
  ExportFormat,
  GeodatabaseFinding,
  GeodatabasesView,
  ImportItem,
  ImportPlanItem,
  ImportReceipt,
  HousekeepingView,
  IntakeView,
  LayerPictureRequest,
  LayerPictureView,
  LinkAdvice,
  MapCrsView,
  MapDocView,
  NewLayerView,
  OutsideView,
  PackPreview,
  PreviewView,
  ProjectView,
  RehearsalView,
  RowsPage,
  RowsRequest,
  StatisticsView,
  ThumbnailView,
  TamperedView,
} from '@rootmap/core/contract';
import { DEFAULT_NAMING, placeNamed, ProblemError, type Origin, type PlanFolder, type StoredForm } from '@rootmap/core';
import { dirname, join } from 'node:path';
import { carriersFor } from '../bundle/carriers.js';
import { planPack, suggestedBundle, type PackPlan } from '../bundle/pack.js';
import { lookAtArrival, type Arrived } from '../bundle/receive.js';
import type { PlannedChange } from '../changes/change.js';
import { candidatesFor } from '../project/crs-candidates.js';
import { planCopies, type CopiesPlan } from '../copies/plan-copies.js';
import { writeCopy } from '../copies/write-copy.js';
import type { Written } from '../geopackage-write/write-features.js';
import { planDigitise, type DigitiseOrder, type DigitisePlan } from '../digitise/plan-digitise.js';
import { readEditable } from '../digitise/read-editable.js';
import { stageDigitised } from '../digitise/stage-digitised.js';
import { planEdit, type EditPlan } from '../edit/plan-edit.js';
import { proposeAdoption } from '../edit/propose-adoption.js';
import { planExport, type ExportPlan } from '../export/plan-export.js';
import { writeExport } from '../export/write-export.js';
import { findDuplicates } from '../folders/duplicates.js';
import { housekeep } from '../folders/housekeeping.js';
import { checkOriginals, type OriginalsCheck, type OriginalsOptions } from '../folders/originals.js';
import { emptyTrash } from '../folders/trash.js';
import { keeperOf, planOrigins } from '../folders/origins.js';
import { adviseCrs } from '../crs/advise-crs.js';
import { classValues } from '../maps/class-values.js';
import { advisedLayer } from '../maps/layer-data.js';
import { planMapFromTable, type TableMapPlan } from '../maps/map-from-table.js';
import { planNewMap } from '../maps/plan-new-map.js';
import { viewNewLayers } from '../maps/view-new-layers.js';
import { planSaveMap, type SaveOrder, type SavePlan } from '../maps/plan-save-map.js';
import { stylePicture } from '../maps/style-picture.js';
import { mapCrs, readMapDoc, viewMapDoc } from '../maps/view-map-doc.js';
import { checkGeodatabase } from '../geodatabase/check-geodatabase.js';
import { planImport, type ImportPlan } from '../geodatabase/plan-import.js';
import { viewGeodatabases } from '../geodatabase/view-geodatabases.js';
import { stageContainer, type StagedContainer } from '../geodatabase/tables/stage-tables.js';
import { withImportHelper } from '../geodatabase/import-helper.js';
import { writeImport } from '../geodatabase/write-import.js';
import { viewFolders } from '../folders/view-folders.js';
import { viewSources } from '../folders/view-sources.js';
import { findCompanions } from '../intake/find-companions.js';
import { lookInside, type Inside } from '../intake/look-inside.js';
import { planIntake, type IntakeOrder, type IntakePlan } from '../intake/plan-intake.js';
import { adviseLink } from '../links/advise-link.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { nameOfData } from '../mend/replace-data.js';
import { confine } from '../places/confine.js';
import { openPlace, type PlaceSetting } from '../places/places.js';
import { findVanished } from '../project/find-vanished.js';
import { rehearse, type RehearsalOrder } from '../rehearsal/rehearse.js';
import { readRows } from '../rows/read-rows.js';
import { viewRehearsal } from './view-rehearsal.js';
import { viewOutside } from '../maps/view-outside.js';
import { readMaps } from '../project/read-maps.js';
import { planRemember } from '../project/remember.js';
import { locationOf, type Scope } from '../project/scope.js';
import { planPaths, type PathsPlan } from '../project/store-paths.js';
import { fieldStatistics } from '../preview/field-statistics.js';
import type { Previews } from '../preview/preview.js';
import { findAnyDataset, findDataset } from '../project/find-dataset.js';
import { MEND_TASKS, type MendTasks } from './mend-tasks.js';
import { helperFor } from '../survey/survey-helper.js';
import { workerScript } from './worker-script.js';
import { asJson, indexOf, scopeOf, type Implemented, type Progress, type TaskBase } from './task-base.js';
import { viewProject } from './view-project.js';
import { shownPath } from '../project/shown-path.js';

/**
 * A project's view as JSON, UTF-8, and what the server itself needs of it. With ten thousand datasets, making objects of it
 * and JSON again would hold the event loop up for longer than anybody may.
 */
export interface ProjectText extends Pick<ProjectView, 'id' | 'title' | 'totals' | 'bytes'> {
  readonly json: Uint8Array;
  readonly datasets: number;
  readonly maps: number;
  /** Real paths of the linked folders that are there. */
  readonly linked: readonly string[];
}

export interface Tasks extends MendTasks {
  view: { in: TaskBase & { seen: Readonly<Record<string, number>> }; out: ProjectText };
  paths: { in: TaskBase & { store: StoredForm; map: string | null }; out: PathsPlan };
  remember: { in: TaskBase; out: { change: PlannedChange | null; layers: number } };
  'plan-pack': { in: TaskBase & { out: string | null }; out: { plan: PackPlan; preview: PackPreview } };
  arrival: { in: TaskBase; out: Arrived };
  left: { in: TaskBase; out: number };
  folders: { in: TaskBase & { roots: readonly string[]; tampered: readonly TamperedView[] }; out: Uint8Array };
  edit: {
    in: TaskBase & { roots: readonly string[]; request: EditRequest; isQuick: boolean; missed: readonly MovedPairs[] };
    out: EditPlan;
  };
  adopt: { in: TaskBase & { folders: readonly PlanFolder[] }; out: AdoptView };
  housekeep: { in: TaskBase; out: HousekeepingView };
  duplicates: { in: TaskBase; out: DuplicatesView };
  originals: { in: TaskBase & OriginalsOptions & { known: string | null }; out: OriginalsCheck };
  'empty-trash': { in: TaskBase; out: number };
  inside: { in: TaskBase & { file: string }; out: Inside };
  companions: { in: TaskBase & { file: string; groups: Inside['groups'] }; out: IntakeView['elsewhere'] };
  'plan-intake': { in: TaskBase & { roots: readonly string[]; order: Omit<IntakeOrder, 'naming'>; safeNames: boolean }; out: IntakePlan };
  geodatabases: { in: TaskBase & { roots: readonly string[] }; out: GeodatabasesView };
  'plan-import': {
    in: TaskBase & { roots: readonly string[]; path: string; items: readonly ImportItem[]; crs: string | null };
    out: ImportPlan;
  };
  'write-import': {
    in: TaskBase & { items: readonly ImportPlanItem[]; from: string; staged: string; makesValid: boolean };
    out: ImportReceipt[];
  };
  'stage-container': { in: TaskBase & { order: StagedContainer; staged: string }; out: readonly string[] };
  'check-geodatabase': { in: TaskBase & { path: string }; out: readonly GeodatabaseFinding[] };
  'plan-copies': { in: TaskBase & { ids: readonly string[]; crs: string; into: string }; out: CopiesPlan };
  'write-copy': { in: TaskBase & { id: string; crs: string; path: string; table: string }; out: Written };
  sources: { in: TaskBase & { roots: readonly string[] }; out: Uint8Array };
  'plan-origin': {
    in: TaskBase & { ids: readonly string[]; origin: Origin };
    out: { change: PlannedChange | null; damaged: readonly string[] };
  };
  preview: { in: TaskBase & { id: string; crs: string | null }; out: PreviewView };
  tile: { in: { version: string; z: number; x: number; y: number; drawing: string | null }; out: Uint8Array };
  'map-doc': { in: TaskBase & { path: string }; out: Omit<MapDocView, 'kept' | 'others'> };
  rehearse: { in: TaskBase & { map: string | null; order: RehearsalOrder }; out: RehearsalView };
  outside: { in: TaskBase & { roots: readonly string[]; path: string }; out: OutsideView };
  editable: { in: TaskBase & EditableRequest; out: EditableView };
  'plan-digitise': { in: TaskBase & { request: DigitiseRequest }; out: DigitisePlan };
  'stage-digitised': { in: TaskBase & { order: DigitiseOrder; staged: Readonly<Record<string, string>> }; out: number };
  'map-crs': { in: { code: string }; out: MapCrsView | null };
  'style-picture': { in: TaskBase & { path: string; layer: string; href: string }; out: { type: string; bytes: Uint8Array } };
  'new-layers': { in: TaskBase & { roots: readonly string[]; path: string; ids: readonly string[] }; out: readonly NewLayerView[] };
  'save-map': { in: TaskBase & SaveOrder; out: SavePlan };
  'layer-picture': { in: TaskBase & LayerPictureRequest; out: LayerPictureView };
  classes: { in: TaskBase & ClassesRequest; out: ClassesView };
  'crs-advice': { in: TaskBase & { ids: readonly string[] }; out: CrsAdvice };
  'new-map': { in: TaskBase & { title: string; storedForm: StoredForm | null }; out: { change: PlannedChange; map: string } };
  'map-from-table': { in: TaskBase & { title: string; text: string }; out: TableMapPlan };
  'warm-up': { in: { what: 'pictures' | 'maps' }; out: void };
  thumbnails: { in: TaskBase & { ids: readonly string[] }; out: readonly (ThumbnailView | null)[] };
  statistics: { in: TaskBase & { id: string }; out: StatisticsView };
  'plan-export': { in: TaskBase & { id: string; format: ExportFormat; crs: string | null; path: string }; out: ExportPlan };
  'write-export': {
    in: TaskBase & { id: string; format: ExportFormat; crs: string | null; staged: Readonly<Record<string, string>> };
    out: Omit<ExportDone, 'path'>;
  };
  rows: { in: TaskBase & { request: RowsRequest }; out: RowsPage };
  'rank-crs': { in: TaskBase & { id: string }; out: readonly CrsCandidate[] };
  'advise-link': { in: TaskBase & { folder: string }; out: LinkAdvice };
  'find-vanished': { in: TaskBase & { id: string; limit: string }; out: readonly string[] };
}
export type TaskName = keyof Tasks;
/** What draws is loaded by the worker that draws, and by no other. */
let previews: Promise<Previews> | null = null;
const previewsOf = (dataFolder: string): Promise<Previews> =>
  (previews ??= import('../preview/preview.js').then((m) => new m.Previews(dataFolder)));

/** Runs in a worker thread: everything here may read the disk synchronously. `progress` reports what it is on. */
export async function runTask<N extends TaskName>(
  name: N,
  input: Tasks[N]['in'],
  dataFolder: string,
  progress: Progress,
): Promise<Tasks[N]['out']> {
  const run = TASKS[name] as (input: Tasks[N]['in'], dataFolder: string, progress: Progress) => Promise<Tasks[N]['out']> | Tasks[N]['out'];
  return run(input, dataFolder, progress);
}

const TASKS: Implemented<Tasks> = {
  ...MEND_TASKS,
  view: async (input, dataFolder, progress) => {
    const helper = helperFor(input.root, workerScript());
    const index = await indexOf(dataFolder);
    const later = (save: () => void): void => void setImmediate(save);
    const view = await viewProject(scopeOf(input, true), index, { onFolder: progress, seen: input.seen, helper, later });
    const sound = view.maps.flatMap((m) => m.layers.flatMap((l) => (l.state === 'sound' && l.resolved !== null ? [nameOfData(l.resolved, l.table)] : []))); // prettier-ignore
    later(() => index.noteSeen(sound, Date.now()));
    return textOf(view);
  },
  paths: (input) => {
    const scope = scopeOf(input);
    return planPaths(input.map === null ? scope : { ...scope, maps: scope.maps.filter((m) => m === input.map) }, input.store, input.who);
  },
  remember: (input) => {
    const plan = planRemember(scopeOf(input), input.who);
    return { change: plan.change, layers: plan.layers.length };
  },
  'plan-pack': (input) => {
    const scope = scopeOf(input);
    const plan = planPack(scope, input.out ?? undefined);
    return { plan, preview: previewOf(plan, scope) };
  },
  arrival: (input) => lookAtArrival(input.root, input.places.map(openPlace)),
  left: (input) =>
    readMaps(scopeOf(input))
      .maps.flatMap((m) => m.layers)
      .filter((l) => l.judgement.state !== 'sound').length,
  folders: (input) => asJson(viewFolders(scopeOf(input), input.roots, input.tampered)),
  edit: (input) =>
    // For a map by itself, what is edited stands in folders: its own is where the change belongs.
    planEdit(scopeOf({ places: input.places, root: input.root, who: input.who }), input.request, {
      ...input,
      resolve: (at, mayBeNew) => resolvePath(input.places, at, mayBeNew),
    }),
  adopt: (input) => proposeAdoption(scopeOf(input), input.folders),
  housekeep: (input) => housekeep(scopeOf(input, true)),
  duplicates: (input, _, progress) => findDuplicates(scopeOf(input, true), (done, of, path) => progress(path, done, of)),
  originals: (input) => checkOriginals(scopeOf(input, true), input.known, input),
  'empty-trash': (input) => emptyTrash(input.root),
  inside: (input) => lookInside(input.file),
  companions: (input) => findCompanions(input.groups, [dirname(input.file)], input.places.map(openPlace)),
  'plan-intake': (input) => {
    const scope = scopeOf(input, true);
    const naming = input.safeNames ? (scope.project?.naming ?? DEFAULT_NAMING) : null;
    return planIntake({ ...input.order, naming }, scope, [input.root, ...input.roots], input.who);
  },
  geodatabases: async (input, dataFolder) => viewGeodatabases(scopeOf(input), input.roots, await indexOf(dataFolder)),
  'plan-import': (input) => {
    const scope = scopeOf(input, true);
    return planImport(scope, (id) => findDataset(scope, id), input.path, input.items, input.crs, input.who, input.roots);
  },
  'write-import': (input, _, progress) => {
    const scope = scopeOf(input, true);
    return withImportHelper(workerScript() ?? import.meta.url, (helper) =>
      writeImport((id) => findDataset(scope, id), input.items, input.from, input.staged, progress, {
        helper,
        makesValid: input.makesValid,
      }),
    );
  },
  'stage-container': (input, _, progress) => stageContainer(input.order, input.staged, progress),
  'check-geodatabase': (input) => checkGeodatabase(input.path),
  'plan-copies': (input) => planCopies(scopeOf(input, true), input.ids, input.crs, input.into, input.who),
  'write-copy': (input, _, progress) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return writeCopy(found, input.crs, input.path, input.table, (done) => progress(input.table, done, found.dataset.featureCount ?? 0));
  },
  sources: async (input, dataFolder) => asJson(await viewSources(scopeOf(input, true), input.roots, await indexOf(dataFolder))),
  'plan-origin': async (input, dataFolder) => {
    const { root, who, ids, origin } = input;
    const scope = scopeOf(input, true);
    const { sources } = await viewSources(scope, [], await indexOf(dataFolder));
    const known = new Set(sources.map((s) => s.id));
    const missing = ids.find((id) => !known.has(id));
    if (missing !== undefined) throw new ProblemError({ code: 'not-found', what: 'dataset', id: missing });
    const paths = ids.map((id) => id.replace(/#[^/]*$/, ''));
    const { writes, damaged } = planOrigins(paths, origin, keeperOf(scope));
    const title = `Write down where ${paths.length === 1 ? 'a dataset' : `${paths.length} datasets`} came from`;
    return { change: writes.length ? { title, kind: 'origin', root, who, steps: writes } : null, damaged };
  },
  preview: async (input, dataFolder, progress) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return (await previewsOf(dataFolder)).prepare(found, input.crs, (done) =>
      progress(found.dataset.group.path, done, found.dataset.featureCount ?? 0),
    );
  },
  tile: async ({ version, z, x, y, drawing }, dataFolder) => (await previewsOf(dataFolder)).tile(version, z, x, y, drawing),
  'map-doc': async (input) => {
    const scope = scopeOf(input, true);
    return viewMapDoc(scope, input.path, await readMapDoc(scope, input.path));
  },
  rehearse: (input) => {
    const scope = scopeOf(input);
    const maps = input.map === null ? scope.maps : scope.maps.filter((m) => m === join(scope.root!, input.map!));
    return viewRehearsal(rehearse({ ...scope, maps }, input.order), scope);
  },
  outside: (input) => viewOutside(scopeOf(input, true), input.roots, input.path),
  editable: (input) => {
    const scope = scopeOf(input, true);
    return readEditable(scope, findDataset(scope, input.dataset), input.crs);
  },
  'plan-digitise': (input) => planDigitise(scopeOf(input, true), input.request, (at) => resolvePath(input.places, at, true), input.who),
  'stage-digitised': (input) => stageDigitised(scopeOf(input, true), input.order, input.staged),
  'map-crs': ({ code }) => mapCrs(code),
  'style-picture': (input) => stylePicture(scopeOf(input, true), input.path, input.layer, input.href),
  'new-layers': (input) => viewNewLayers(scopeOf(input, true), input.roots, input.path, input.ids),
  'save-map': (input, dataFolder, progress) =>
    planSaveMap(scopeOf(input, true), input, dataFolder, input.who, (title) => progress(title, 0)),
  'layer-picture': async (input, dataFolder, progress) => {
    const found = findAnyDataset(scopeOf(input, true), input.dataset);
    return (await previewsOf(dataFolder)).prepareLayer(found, input.crs, input.drawing, (done) =>
      progress(found.dataset.group.path, done, found.dataset.featureCount ?? 0),
    );
  },
  classes: (input, _, progress) => {
    const found = findAnyDataset(scopeOf(input, true), input.dataset);
    return classValues(found, input, (done) => progress(found.dataset.group.path, done, found.dataset.featureCount ?? 0));
  },
  'crs-advice': (input) => {
    const scope = scopeOf(input, true);
    return adviseCrs(input.ids.map((id) => advisedLayer(scope, id)));
  },
  'new-map': (input) => planNewMap(scopeOf(input, true), input.title, input.who, [], null, { storedForm: input.storedForm }),
  'map-from-table': (input) => planMapFromTable(scopeOf(input, true), input.title, input.text, input.who),
  'warm-up': async ({ what }, dataFolder) => {
    if (what === 'pictures') await previewsOf(dataFolder);
    mapCrs('EPSG:4326');
  },
  thumbnails: async (input, dataFolder) => {
    const scope = scopeOf(input, true);
    const { keptThumbnail } = await import('../preview/kept-thumbnail.js');
    const thumbnails: (ThumbnailView | null)[] = [];
    for (const id of input.ids) thumbnails.push(await keptThumbnail(scope, id, dataFolder));
    return thumbnails;
  },
  statistics: (input, _, progress) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return fieldStatistics(found, (done) => progress(found.dataset.group.path, done, found.dataset.featureCount ?? 0));
  },
  'plan-export': (input) => {
    const scope = scopeOf(input, true);
    return planExport(scope, findDataset(scope, input.id), input, input.path, input.who);
  },
  'write-export': (input, _, progress) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return writeExport(found, input, input.staged, (done) => progress(found.dataset.group.path, done));
  },
  rows: (input, dataFolder, progress) => {
    const found = findDataset(scopeOf(input, true), input.request.dataset);
    return readRows(found, input.request, dataFolder, (done) => progress(found.dataset.group.path, done));
  },
  'rank-crs': async (input, dataFolder) => candidatesFor(scopeOf(input, true), input.id, await indexOf(dataFolder)),
  'advise-link': (input) => adviseLink(scopeOf(input, true), input.folder),
  'find-vanished': (input) => findVanished(input.root, input.id, input.limit),
};

function resolvePath(places: readonly PlaceSetting[], at: { readonly place: string; readonly path: string }, mayBeNew: boolean): string {
  const place = placeNamed(places.map(openPlace), at.place);
  if (!place) throw new ProblemError({ code: 'not-found', what: 'place', id: at.place });
  const path = confine(place, at.path, mayBeNew);
  return path;
}

function textOf(view: ProjectView): ProjectText {
  const { id, title, totals, bytes } = view;
  const linked = view.links.flatMap((l) => (l.present && l.path ? [l.path] : []));
  const json = asJson(view);
  return { json, id, title, totals, bytes, datasets: view.datasets.length, maps: view.maps.length, linked };
}

function previewOf(plan: PackPlan, scope: Scope): PackPreview {
  const suggested = locationOf(suggestedBundle(scope), scope.places);
  return {
    suggested: { place: suggested.place, path: suggested.segments.join('/') },
    files: plan.payload.length,
    bytes: plan.bytes,
    leftOut: plan.leftOut.map((l) => ({ ...l, path: l.path.startsWith('/') ? shownPath(l.path, scope) : l.path })),
    findings: plan.findings,
    layers: plan.layers.map((l) => ({ map: l.map, title: l.title, state: l.state, detail: l.detail ?? null })),
    rewritten: plan.rewritten.size,
    carriers: carriersFor(plan.bytes),
  };
}
