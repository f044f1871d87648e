import { DEFAULT_NAMING, ProblemError, type FoundCrs, type Origin } from '@rootmap/core';
import { dirname } from '../disk/native-path.js';
import type { PlannedChange } from '../changes/change.js';
import { copyInto } from '../copies/copy-into.js';
import { planCopies, type CopiesWish } from '../copies/plan-copies.js';
import type { RasterWish } from '../copies/raster-copy.js';
import { foundCrs } from '../crs/facts-of.js';
import { keeperOf, planOrigins } from '../folders/origins.js';
import { viewSources } from '../folders/view-sources.js';
import { findCompanions } from '../intake/find-companions.js';
import { lookInside, type Inside } from '../intake/look-inside.js';
import { planIntake, type IntakeOrder } from '../intake/plan-intake.js';
import { openPlace } from '../places/places.js';
import { candidatesFor } from '../project/crs-candidates.js';
import { findDataset } from '../project/find-dataset.js';
import { asJson, indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** Data that comes in: what arrived, where it came from, and copies of it in another CRS. */
export const SOURCE_TASKS = {
  /** A `SourcesView` as JSON. */
  sources: async (input: TaskBase & { roots: readonly string[] }, { dataFolder }: TaskContext) =>
    asJson(await viewSources(scopeOf(input, true), input.roots, await indexOf(dataFolder))),
  inside: (input: TaskBase & { file: string }) => lookInside(input.file),
  /** What the project's own CRS is. */
  reference: (input: TaskBase): FoundCrs | null => {
    const code = scopeOf(input, true).project?.crs ?? null;
    return code === null ? null : foundCrs({ code, name: null, wkt: null });
  },
  companions: (input: TaskBase & { file: string; groups: Inside['groups'] }) =>
    findCompanions(input.groups, [dirname(input.file)], input.places.map(openPlace)),
  'plan-intake': (input: TaskBase & { roots: readonly string[]; order: Omit<IntakeOrder, 'naming'>; safeNames: boolean }) => {
    const scope = scopeOf(input, true);
    const naming = input.safeNames ? (scope.project?.naming ?? DEFAULT_NAMING) : null;
    return planIntake({ ...input.order, naming }, scope, [input.root, ...input.roots], input.who);
  },
  'plan-origin': async (
    input: TaskBase & { ids: readonly string[]; origin: Origin },
    { dataFolder }: TaskContext,
  ): Promise<{ change: PlannedChange | null; damaged: readonly string[] }> => {
    const { root, who, ids, origin } = input;
    const scope = scopeOf(input, true);
    const { sources } = await viewSources(scope, [], await indexOf(dataFolder));
    const known = new Set(sources.map((s) => s.id));
    const missing = ids.find((id) => !known.has(id));
    if (missing !== undefined) throw new ProblemError({ code: 'not-found', what: 'dataset', id: missing });
    const data = ids.map((id) => {
      const [path, table] = id.split(/#(?=[^/]*$)/) as [string, string?];
      return { path, table: table ?? null };
    });
    const { writes, damaged } = planOrigins(data, origin, keeperOf(scope));
    const title = `Write down where ${data.length === 1 ? 'a dataset' : `${data.length} datasets`} came from`;
    return { change: writes.length ? { title, kind: 'origin', root, who, steps: writes } : null, damaged };
  },
  'rank-crs': async (input: TaskBase & { id: string }, { dataFolder }: TaskContext) =>
    candidatesFor(scopeOf(input, true), input.id, await indexOf(dataFolder)),
  'plan-copies': (input: TaskBase & { wish: CopiesWish }) => planCopies(scopeOf(input, true), input.wish, input.who),
  'write-copy': async (
    input: TaskBase & { id: string; crs: string; path: string; table: string; wish: RasterWish },
    { progress }: TaskContext,
  ) => {
    const found = findDataset(scopeOf(input, true), input.id);
    return copyInto(found, input, (done, of, unit) => progress({ done, of, unit, item: input.table }));
  },
} satisfies TaskTable;
