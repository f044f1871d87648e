import { findDataset } from '../project/find-dataset.js';
import { planChecks, planReview, type PlannedSheets } from '../quality/plan-sheets.js';
import { datasetsOf, idOf, qualityRows, qualitySheet, qualityReport } from '../quality/quality-rows.js';
import type { ReportFormat } from '@rootmap/core';
import type { ReviewRequest } from '@rootmap/core/contract';
import { scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

/** What is known of the quality of data: computed, reviewed, kept in sheets beside it. */
export const QUALITY_TASKS = {
  'quality-rows': (input: TaskBase) => qualityRows(scopeOf(input, true)),
  'quality-sheet': ({ dataset, ...input }: TaskBase & { dataset: string }) => {
    const scope = scopeOf(input, true);
    return qualitySheet(scope, findDataset(scope, dataset));
  },
  'quality-report': ({ format, dataset, ...input }: TaskBase & { format: ReportFormat; dataset: string | null }) =>
    qualityReport(scopeOf(input, true), format, dataset),
  'plan-checks': (
    { datasets, anew, nowMs, ...input }: TaskBase & { datasets: readonly string[]; anew: boolean; nowMs: number },
    { progress }: TaskContext,
  ): Promise<PlannedSheets> => {
    const scope = scopeOf(input, true);
    const all = datasetsOf(scope);
    const wanted = datasets.length === 0 ? all : all.filter((d) => datasets.includes(idOf(d)));
    return planChecks(scope, wanted, { anew, keeps: true, who: input.who, nowMs, onProgress: progress });
  },
  'plan-review': ({ review, ...input }: TaskBase & { review: ReviewRequest }) => {
    const scope = scopeOf(input, true);
    return planReview(scope, findDataset(scope, review.dataset), review, input.who);
  },
} satisfies TaskTable;
