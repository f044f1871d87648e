import type { ExportFormat } from '@rootmap/core/contract';
import { planExport } from '../export/plan-export.js';
import { writeRasterExport, type RasterChoice } from '../export/raster-export.js';
import { writeExport } from '../export/write-export.js';
import { findDataset } from '../project/find-dataset.js';
import { recordsOf, scopeOf, type TaskBase, type TaskContext, type TaskTable } from './task-base.js';

export interface WantedExport extends RasterChoice {
  readonly id: string;
  readonly format: ExportFormat;
  readonly crs: string | null;
}

/** Datasets in the formats of other programs. */
export const EXPORT_TASKS = {
  'plan-export': (input: TaskBase & WantedExport & { path: string }) => {
    const scope = scopeOf(input, true);
    return planExport(scope, findDataset(scope, input.id), input, input.path, input.who);
  },
  'write-export': (input: TaskBase & WantedExport & { staged: Readonly<Record<string, string>> }, { progress }: TaskContext) => {
    const found = findDataset(scopeOf(input, true), input.id);
    const { format, crs } = input;
    return format === 'geotiff'
      ? writeRasterExport(found, input, input.staged['tif']!, progress)
      : writeExport(found, { format, crs }, input.staged, recordsOf(found, progress));
  },
} satisfies TaskTable;
