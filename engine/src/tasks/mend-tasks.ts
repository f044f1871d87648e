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
import { must, parseMapFile, type MendDecisions, type OnProgress } from '@rootmap/core';
import type { JournalMove, PlannedChange } from '../changes/change.js';
import { knownFingerprint } from '../project/known-fingerprint.js';
import { reachDatasets, type ReadWhole } from '../mend/gather.js';
import { findLostCompanions } from '../mend/lost-companions.js';
import { findPacked } from '../mend/packed.js';
import { acceptedMoves, choose } from '../mend/choose.js';
import { explainBroken, pathIn, planMend, type ExplainOptions, type MendWork } from '../mend/plan-mend.js';
import { lookAtReplacement, planReplace } from '../mend/replace-data.js';
import { movesInJournal, movesOnDisk } from '../mend/seen-moves.js';
import { findMap } from '../mend/stray-maps.js';
import { openPlace } from '../places/places.js';
import { findAnyDataset } from '../project/find-dataset.js';
import { decisionsOf, type KeptDecisions } from '../repositories/mend-decision-repository.js';
import { pagesOf, type PagedAnswer } from './answer-pages.js';
import { anyScopeOf, indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';
import { aboutMap, viewStrayMaps, type StrayMaps } from './view-lone-maps.js';
import { chooseStyles, pointOut, rejectionOf, viewMend } from './view-mend.js';
import { viewReplacement } from './view-replacement.js';

/** Folders to look in too, what people decided before, and what the app moved. */
export type MendBase = TaskBase & {
  readonly search: readonly string[];
  readonly reach: MendReach;
  readonly decisions: KeptDecisions;
  readonly moved: readonly JournalMove[];
};

/** What earlier reads of unchanged files gave. */
const readKnown =
  (dataFolder: string): ReadWhole =>
  (found) =>
    knownFingerprint(found, dataFolder);

/** What is looked at; how much there is nobody knows before. */
const lookingAt =
  (progress: OnProgress) =>
  (item: string): void =>
    progress({ done: 0, of: 0, unit: 'files', item });

/** What explains the broken layers, with all that people decided and that is known of the data. */
const explain = async (input: MendBase, context: TaskContext): Promise<MendWork> =>
  explainBroken(anyScopeOf(input), input.search, await mendOptions(input, context));

async function mendOptions({ decisions, reach, moved }: MendBase, { dataFolder, progress }: TaskContext): Promise<ExplainOptions> {
  const index = await indexOf(dataFolder);
  return {
    decisions: decisionsOf(decisions),
    reach,
    onItem: lookingAt(progress),
    read: readKnown(dataFolder),
    movesSeen: (sought, reached, scope) => [
      ...movesOnDisk(sought, reached, index),
      ...movesInJournal(
        moved,
        sought.map((s) => s.data),
        scope,
      ),
    ],
  };
}

/** Broken layers: what explains them, and every change that mends. */
export const MEND_TASKS = {
  mend: async (input: MendBase, context: TaskContext): Promise<PagedAnswer> => {
    const work = await explain(input, context);
    return pagesOf(viewMend(work, { packed: await findPacked(work), tables: findLostCompanions(work) }, await indexOf(context.dataFolder)));
  },
  reject: async (input: MendBase & RejectRequest, context: TaskContext): Promise<string> =>
    rejectionOf(await explain(input, context), input),
  'plan-mend': async (
    input: MendBase & { choices: MendRequest['choices']; styles: readonly string[] },
    context: TaskContext,
  ): Promise<{ change: PlannedChange | null; applied: number; accepted: MendDecisions['accepted'] }> => {
    const work = await explain(input, context);
    const choices = choose(work, input.choices);
    return {
      change: planMend(work, choices, input.who, chooseStyles(work, input.styles)),
      applied: choices.length + input.styles.length,
      accepted: acceptedMoves(work, choices),
    };
  },
  point: async (input: MendBase & { key: string; path: string }, context: TaskContext): Promise<PointedView> =>
    pointOut(anyScopeOf(input), input.key, input.path, input.search, await mendOptions(input, context)),
  'data-below': (input: TaskBase & { folder: string }): readonly string[] => {
    const scope = anyScopeOf(input, true);
    return reachDatasets([input.folder], scope).flatMap((r) => (r.target.damaged ? [] : [pathIn(r.target, scope)]));
  },
  'read-ahead': (input: TaskBase & { id: string }, { dataFolder }: TaskContext): void =>
    void knownFingerprint(findAnyDataset(scopeOf(input, true), input.id), dataFolder),
  'about-map': (input: TaskBase): { title: string; layers: number } => aboutMap(anyScopeOf(input)),
  'stray-maps': ({ places }: Pick<TaskBase, 'places'>, { progress }: TaskContext): StrayMaps =>
    viewStrayMaps(places.map(openPlace), lookingAt(progress)),
  /** Throws where the text is no map. */
  'check-map': ({ name, text }: DroppedMapRequest): null => {
    must(parseMapFile(name, text));
    return null;
  },
  'find-map': ({ places, name, text }: Pick<TaskBase, 'places'> & DroppedMapRequest, { progress }: TaskContext): readonly string[] =>
    findMap(places.map(openPlace), name, text, lookingAt(progress)),
  replacement: (
    input: TaskBase & Pick<LookReplacementRequest, 'key' | 'table'> & { path: string | null },
    { dataFolder }: TaskContext,
  ): ReplacementView => viewReplacement(lookAtReplacement(anyScopeOf(input), input.key, input, readKnown(dataFolder))),
  'plan-replace': (
    input: TaskBase & Omit<ReplaceRequest, 'target'> & { path: string | null },
    { dataFolder }: TaskContext,
  ): PlannedChange => {
    const order = { layers: input.layers, to: input, fields: new Map(Object.entries(input.fields)) };
    return planReplace(anyScopeOf(input), order, input.who, readKnown(dataFolder));
  },
} satisfies TaskTable;
