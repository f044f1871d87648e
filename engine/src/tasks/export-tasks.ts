import type { ExportRequest } from '@rootmap/core/contract';
import type { SelectedFacts } from '../export/export-source.js';
import { planExport } from '../export/plan-export.js';
import { writeRasterExport } from '../export/raster-export.js';
import { writeExport } from '../export/write-export.js';
import { findDataset } from '../project/find-dataset.js';
import { workerScript } from './worker-script.js';
import { withHalfHelper } from '../geodatabase/half-helper.js';
import { recordsOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

type WantedExport = Omit<ExportRequest, 'dataset' | 'at'> & { readonly id: string };

/** Datasets in the formats of other programs. */
export const EXPORT_TASKS = {
  'plan-export': (input: TaskBase & WantedExport & { path: string }) => {
    const scope = scopeOf(input, true);
    return planExport(scope, findDataset(scope, input.id), input, input.path, input.who);
  },
  'write-export': (
    input: TaskBase & WantedExport & { name: string; facts: SelectedFacts | null; staged: Readonly<Record<string, string>> },
    { progress }: TaskContext,
  ) => {
    const found = findDataset(scopeOf(input, true), input.id);
    const { format, crs, selection, name, facts } = input;
    return format === 'geotiff'
      ? writeRasterExport(found, input, input.staged['tif']!, progress)
      : withHalfHelper(workerScript() ?? import.meta.url, false, (helper) =>
          writeExport(found, { format, crs, selection, name, facts }, input.staged, recordsOf(found, progress), helper),
        );
  },
} satisfies TaskTable;
