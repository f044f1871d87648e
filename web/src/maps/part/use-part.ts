import { useMutation, useQuery } from '@tanstack/react-query';
import { splitName } from '@rootmap/core';
import type { ExportFormat, ExportRequest, ImportRequest, JobView, ProjectView, Selection } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';
import { inRoot } from '../../folders/moves.js';
import { useSettled } from '../../folders/use-edit.js';
import { useStartedJob } from '../../parts/job-actions.js';

/** Where a part goes: a table of a geodatabase, or a file. */
export type Goal =
  | { readonly kind: 'table'; readonly geodatabase: string; readonly table: string }
  | { readonly kind: 'file'; readonly format: ExportFormat; readonly path: string };

/** What would be written. */
export interface PartPlan {
  readonly records: number;
  readonly why: string | null;
  readonly notes: readonly string[];
}

/** A part of a dataset as it is planned, started, and how it ended. */
export function usePart(project: ProjectView, dataset: string, selection: Selection, goal: Goal) {
  const asked = useSettled(JSON.stringify({ dataset, selection, goal }));
  const isSettled = asked === JSON.stringify({ dataset, selection, goal });
  const isWhole = goal.kind === 'file' ? goal.path.trim() !== '' : goal.table.trim() !== '';
  const plan = useQuery({
    queryKey: keys.of(project.key, 'export', 'part', asked),
    queryFn: (): Promise<PartPlan> =>
      goal.kind === 'file' ? planFile(project, dataset, selection, goal) : planTable(project, dataset, selection, goal),
    enabled: isSettled && isWhole,
    retry: false,
    gcTime: 0,
  });
  const start = useMutation({
    mutationFn: (): Promise<JobView<'export' | 'import'>> =>
      goal.kind === 'file'
        ? api.startExport(project.key, exportOf(project, dataset, selection, goal))
        : api.startImport(project.key, importOf(project, dataset, selection, goal)),
  });
  const { job, isRunning, isDone } = useStartedJob<'export' | 'import'>(start.data);
  return {
    plan,
    start,
    job,
    isRunning,
    isDone,
    made: madeBy(job),
    canStart: isSettled && plan.data?.why === null && !isRunning && !start.isPending,
  };
}

const exportOf = (
  project: ProjectView,
  dataset: string,
  selection: Selection,
  { format, path }: Goal & { kind: 'file' },
): ExportRequest => ({
  dataset,
  format,
  at: inRoot(project, path.trim()),
  crs: null,
  bands: [],
  composite: null,
  selection,
});
const importOf = (
  project: ProjectView,
  dataset: string,
  selection: Selection,
  { geodatabase, table }: Goal & { kind: 'table' },
): ImportRequest => ({
  into: inRoot(project, geodatabase),
  items: [{ dataset, part: null, table: table.trim(), selection }],
  crs: null,
  makesValid: false,
});

async function planFile(project: ProjectView, dataset: string, selection: Selection, goal: Goal & { kind: 'file' }): Promise<PartPlan> {
  const { records, why, losses } = await api.planExport(project.key, exportOf(project, dataset, selection, goal));
  return { records, why, notes: losses.map((l) => (l.field === undefined ? l.what : `${l.field}: ${l.what}`)) };
}

async function planTable(project: ProjectView, dataset: string, selection: Selection, goal: Goal & { kind: 'table' }): Promise<PartPlan> {
  const { items } = await api.planImport(project.key, importOf(project, dataset, selection, goal));
  const [item] = items;
  return { records: item?.records ?? 0, why: item ? item.why : 'nothing is chosen', notes: item?.notes ?? [] };
}

/** Id of the dataset that was made, and what became of its records; null: it is not there yet. */
function madeBy(job: JobView<'export' | 'import'> | null) {
  if (job?.state !== 'done') return null;
  if (job.kind === 'export') {
    const { path, read, written, skipped } = job.result;
    const { stem, ending } = splitName(path.slice(path.lastIndexOf('/') + 1));
    return { id: ending.toLowerCase() === '.gpkg' ? `${path}#${stem}` : path, read, written, skipped };
  }
  const { geodatabase, receipts } = job.result;
  const [receipt] = receipts;
  return receipt ? { id: `${geodatabase}#${receipt.table}`, read: receipt.read, written: receipt.written, skipped: receipt.skipped } : null;
}
