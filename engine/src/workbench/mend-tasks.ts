import type {
  DroppedMapRequest,
  LookReplacementRequest,
  MendReach,
  MendRequest,
  PointedView,
  RejectRequest,
  ReplacementView,
  ReplaceRequest,
} from '@rootmap/core/contract';
import { must, parseMapFile, type MendDecisions } from '@rootmap/core';
import type { PlannedChange } from '../changes/change.js';
import { knownFingerprint } from '../project/known-fingerprint.js';
import { reachDatasets, type ReadWhole } from '../mend/gather.js';
import { findLostCompanions } from '../mend/lost-companions.js';
import { findPacked } from '../mend/packed.js';
import { acceptedMoves, explainBroken, pathIn, planMend, type ExplainOptions } from '../mend/plan-mend.js';
import { lookAtReplacement, planReplace } from '../mend/replace-data.js';
import { findMap } from '../mend/stray-maps.js';
import { openPlace } from '../places/places.js';
import { findAnyDataset } from '../project/find-dataset.js';
import { decisionsOf, type KeptDecisions } from './mend-decision-repository.js';
import { asJson, indexOf, scopeOf, type Implemented, type Progress, type TaskBase } from './task-base.js';
import { aboutMap, viewStrayMaps, type StrayMaps } from './view-lone-maps.js';
import { choose, chooseStyles, pointOut, rejectionOf, viewMend } from './view-mend.js';
import { viewReplacement } from './view-replacement.js';

/** Folders to look in too, and what people decided before. */
type MendBase = TaskBase & { readonly search: readonly string[]; readonly reach: MendReach; readonly decisions: KeptDecisions };

/** What mending does in a worker. */
export interface MendTasks {
  /** A `MendProjectView` as JSON. */
  mend: { in: MendBase; out: Uint8Array };
  reject: { in: MendBase & RejectRequest; out: string };
  'plan-mend': {
    in: MendBase & { choices: MendRequest['choices']; styles: readonly string[] };
    out: { change: PlannedChange | null; applied: number; accepted: MendDecisions['accepted'] };
  };
  point: { in: MendBase & { key: string; path: string }; out: PointedView };
  'data-below': { in: TaskBase & { folder: string }; out: readonly string[] };
  'read-ahead': { in: TaskBase & { id: string }; out: void };
  'about-map': { in: TaskBase; out: { title: string; layers: number } };
  'stray-maps': { in: Pick<TaskBase, 'places'>; out: StrayMaps };
  /** Throws where the text is no map. */
  'check-map': { in: DroppedMapRequest; out: null };
  'find-map': { in: Pick<TaskBase, 'places'> & DroppedMapRequest; out: readonly string[] };
  replacement: { in: TaskBase & Pick<LookReplacementRequest, 'key' | 'table'> & { path: string | null }; out: ReplacementView };
  'plan-replace': { in: TaskBase & Omit<ReplaceRequest, 'target'> & { path: string | null }; out: PlannedChange };
}

/** What earlier reads of unchanged files gave. */
const readKnown =
  (dataFolder: string): ReadWhole =>
  (found) =>
    knownFingerprint(found, dataFolder);

/** What people decided, and what is known of the data. */
const mendOptions = ({ decisions, reach }: MendBase, dataFolder: string, progress: Progress): ExplainOptions => ({
  decisions: decisionsOf(decisions),
  reach,
  onItem: (path) => progress(path, 0),
  read: readKnown(dataFolder),
});

export const MEND_TASKS: Implemented<MendTasks> = {
  mend: async (input, dataFolder, progress) => {
    const work = explainBroken(scopeOf(input), input.search, mendOptions(input, dataFolder, progress));
    return asJson(viewMend(work, { packed: await findPacked(work), tables: findLostCompanions(work) }, await indexOf(dataFolder)));
  },
  reject: (input, dataFolder, progress) =>
    rejectionOf(explainBroken(scopeOf(input), input.search, mendOptions(input, dataFolder, progress)), input),
  'plan-mend': (input, dataFolder, progress) => {
    const work = explainBroken(scopeOf(input), input.search, mendOptions(input, dataFolder, progress));
    const choices = choose(work, input.choices);
    return {
      change: planMend(work, choices, input.who, chooseStyles(work, input.styles)),
      applied: choices.length + input.styles.length,
      accepted: acceptedMoves(work, choices),
    };
  },
  point: (input, dataFolder, progress) =>
    pointOut(scopeOf(input), input.key, input.path, input.search, mendOptions(input, dataFolder, progress)),
  'data-below': (input) => {
    const scope = scopeOf(input, true);
    return reachDatasets([input.folder], scope).flatMap((r) => (r.target.damaged ? [] : [pathIn(r.target, scope)]));
  },
  'read-ahead': (input, dataFolder) => void knownFingerprint(findAnyDataset(scopeOf(input, true), input.id), dataFolder),
  'about-map': (input) => aboutMap(scopeOf(input)),
  'stray-maps': ({ places }, _dataFolder, progress) => viewStrayMaps(places.map(openPlace), (path) => progress(path, 0)),
  'check-map': ({ name, text }) => {
    must(parseMapFile(name, text));
    return null;
  },
  'find-map': ({ places, name, text }, _dataFolder, progress) => findMap(places.map(openPlace), name, text, (path) => progress(path, 0)),
  replacement: (input, dataFolder) => viewReplacement(lookAtReplacement(scopeOf(input), input.key, input, readKnown(dataFolder))),
  'plan-replace': (input, dataFolder) => {
    const order = { layers: input.layers, to: input, fields: new Map(Object.entries(input.fields)) };
    return planReplace(scopeOf(input), order, input.who, readKnown(dataFolder));
  },
};
