import type { GeodatabaseFinding, ImportItem, ImportPlanItem } from '@rootmap/core/contract';
import { checkGeodatabase } from '../geodatabase/check-geodatabase.js';
import { withHalfHelper } from '../geodatabase/half-helper.js';
import { planImport } from '../geodatabase/plan-import.js';
import { stageContainer, type StagedContainer } from '../geodatabase/tables/stage-tables.js';
import { viewGeodatabases } from '../geodatabase/view-geodatabases.js';
import { writeImport } from '../geodatabase/write-import.js';
import { datasetsOfFile, findDataset, type FoundDataset } from '../project/find-dataset.js';
import { indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';
import { workerScript } from './worker-script.js';

/** The dataset of the one file outside all places that a task may use: what was fetched a moment ago. */
const datasetAside = (aside: string | null | undefined, id: string): FoundDataset | undefined =>
  aside !== null && aside !== undefined && id === aside ? datasetsOfFile(aside)[0] : undefined;

/** Geodatabases: what they hold, what comes into them, how they are written anew. */
export const GEODATABASE_TASKS = {
  geodatabases: async (input: TaskBase & { roots: readonly string[] }, { dataFolder }: TaskContext) =>
    viewGeodatabases(scopeOf(input), input.roots, await indexOf(dataFolder)),
  'plan-import': (
    input: TaskBase & { roots: readonly string[]; path: string; items: readonly ImportItem[]; crs: string | null; aside?: string | null },
  ) => {
    const scope = scopeOf(input, true);
    return planImport(
      scope,
      (id) => datasetAside(input.aside, id) ?? findDataset(scope, id),
      input.path,
      input.items,
      input.crs,
      input.who,
      input.roots,
    );
  },
  'write-import': (
    input: TaskBase & { items: readonly ImportPlanItem[]; from: string; staged: string; makesValid: boolean; aside?: string | null },
    { progress }: TaskContext,
  ) => {
    const scope = scopeOf(input, true);
    const { items, from, staged, makesValid } = input;
    return withHalfHelper(workerScript() ?? import.meta.url, true, (helper) =>
      writeImport((id) => datasetAside(input.aside, id) ?? findDataset(scope, id), items, from, staged, progress, { helper, makesValid }),
    );
  },
  'stage-container': (input: TaskBase & { order: StagedContainer; staged: string }, { progress }: TaskContext) =>
    stageContainer(input.order, input.staged, progress),
  'check-geodatabase': (input: TaskBase & { path: string }): readonly GeodatabaseFinding[] => checkGeodatabase(input.path),
} satisfies TaskTable;
