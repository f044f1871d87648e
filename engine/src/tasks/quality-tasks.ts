import { isBelow } from '../disk/native-path.js';
import { dataAt, findDataset } from '../project/find-dataset.js';
import { expectedCodes } from '../quality/expected-codes.js';
import { matchPoints } from '../quality/match-points.js';
import { compareDatasets } from '../quality/compare-datasets.js';
import { planChecks, planReview, type PlannedSheets } from '../quality/plan-sheets.js';
import { datasetsOf, qualityAsks, qualityRows, qualitySheet } from '../quality/quality-rows.js';
import { qualityReport } from '../quality/quality-report.js';
import type { MatchedPoints, ReportFormat, RecordComparison } from '@rootmap/core';
import type { ReviewRequest, CompareEditionsRequest, MatchPointsRequest, QualityCheckRequest, QualityView } from '@rootmap/core/contract';
import { indexOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** What is known of the quality of data: computed, reviewed, kept in sheets beside it. */
export const QUALITY_TASKS = {
  'quality-rows': async (input: TaskBase, { dataFolder }: TaskContext): Promise<QualityView> => {
    const scope = scopeOf(input, true);
    return { rows: await qualityRows(scope, await indexOf(dataFolder)), asks: qualityAsks(scope) };
  },
  'quality-sheet': ({ dataset, ...input }: TaskBase & { dataset: string }) => {
    const scope = scopeOf(input, true);
    return qualitySheet(scope, findDataset(scope, dataset));
  },
  'compare-editions': ({ dataset, against, key, ...input }: TaskBase & CompareEditionsRequest): RecordComparison => {
    const scope = scopeOf(input, true);
    return compareDatasets(findDataset(scope, against), findDataset(scope, dataset), key);
  },
  codes: ({ dataset, ...input }: TaskBase & { dataset: string }): Readonly<Record<string, readonly string[]>> => {
    const scope = scopeOf(input, true);
    return Object.fromEntries(expectedCodes(scope, findDataset(scope, dataset)));
  },
  'match-points': ({ dataset, better, key, within, ...input }: TaskBase & MatchPointsRequest): MatchedPoints => {
    const scope = scopeOf(input, true);
    return matchPoints(findDataset(scope, dataset), findDataset(scope, better), { key, within });
  },
  'quality-report': async (
    { format, dataset, ...input }: TaskBase & { format: ReportFormat; dataset: string | null },
    { dataFolder }: TaskContext,
  ) => qualityReport(scopeOf(input, true), await indexOf(dataFolder), { format, only: dataset, nowMs: Date.now() }),
  'plan-checks': async (
    { datasets, below, anew, nowMs, ...input }: TaskBase & QualityCheckRequest & { below: string | null; nowMs: number },
    { dataFolder, progress }: TaskContext,
  ): Promise<PlannedSheets> => {
    const scope = scopeOf(input, true);
    const all = datasets.length === 0 ? await datasetsOf(scope, await indexOf(dataFolder)) : datasets.map((id) => findDataset(scope, id));
    const wanted = below === null ? all : all.filter((found) => isBelow(below, dataAt(found).path));
    return planChecks(scope, wanted, { anew, keeps: true, who: input.who, nowMs, onProgress: progress });
  },
  'plan-review': ({ review, ...input }: TaskBase & { review: ReviewRequest }) => {
    const scope = scopeOf(input, true);
    return planReview(scope, findDataset(scope, review.dataset), review, input.who);
  },
} satisfies TaskTable;
