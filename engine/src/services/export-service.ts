import { ProblemError, splitName } from '@rootmap/core';
import type { ExportDone, ExportPreview, ExportRequest, JobView } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import type { RunOptions } from '../changes/run-change.js';
import type { ExportPlan } from '../export/plan-export.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Ports } from './ports.js';

/** Datasets written in the formats that other programs take. */
export class ExportService {
  constructor(private readonly ports: Pick<Ports, 'pool' | 'projects' | 'places' | 'changes' | 'jobs'>) {}

  private plan(base: TaskBase, { dataset, at, ...wanted }: ExportRequest): Promise<ExportPlan> {
    return this.ports.pool.run('plan-export', {
      ...base,
      ...wanted,
      id: dataset,
      path: this.ports.places.path(at, true),
    });
  }

  async preview(key: string, request: ExportRequest): Promise<ExportPreview> {
    const { files, records, of, unit, bands, crs, losses, why } = await this.plan(await this.ports.projects.base(key), request);
    return { files, records, of, unit, bands, crs, losses, why };
  }

  /** All files of it appear together, or none. */
  async start(key: string, request: ExportRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const { change, targets, files, records, unit, why, facts } = await this.plan(base, request);
    if (!change) throw new ProblemError({ code: 'wrong-use', message: `It cannot be exported so: ${why}.` });
    return this.ports.jobs.start('export', change.title, key, async ({ signal, progress }): Promise<ExportDone> => {
      let done: Omit<ExportDone, 'path'> | null = null;
      const stageAll: RunOptions['stageAll'] = async (installs) => {
        const staged = Object.fromEntries(
          Object.entries(targets).map(([ending, target]) => [ending, installs.find((i) => i.target === target)!.staged]),
        );
        const { dataset: id, at: _, ...wanted } = request;
        const input = { ...base, ...wanted, facts, id, name: splitName(basename(files[0]!.path)).stem, staged };
        done = await this.ports.pool.run('write-export', input, {
          signal,
          progress: (now) => progress(unit === 'records' ? { ...now, of: records } : now),
        });
      };
      await this.ports.changes.apply(key, base, change, files.length, { ...this.ports.changes.run, signal, stageAll });
      return { path: files[0]!.path, ...done! };
    });
  }
}
