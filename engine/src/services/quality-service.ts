import { ProblemError, type MatchedPoints, type RecordComparison } from '@rootmap/core';
import type {
  AppliedView,
  JobView,
  QualityCheckRequest,
  QualityDone,
  QualitySheetView,
  QualityView,
  ReviewRequest,
  QualityReportQuery,
  CompareEditionsRequest,
  MatchPointsRequest,
} from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import type { TaskBase } from '../tasks/task-base.js';
import type { Ports } from './ports.js';

/** What is known of the quality of data: sheets are computed, reviewed and read. */
export class QualityService {
  constructor(private readonly ports: Pick<Ports, 'pool' | 'projects' | 'changes' | 'jobs'>) {}

  async view(key: string): Promise<QualityView> {
    return this.ports.pool.run('quality-rows', await this.ports.projects.base(key));
  }

  async sheet(key: string, dataset: string): Promise<QualitySheetView> {
    return this.ports.pool.run('quality-sheet', { ...(await this.ports.projects.base(key)), dataset });
  }

  /** What became of the records of one dataset in another. Throws `wrong-use` where they cannot be compared. */
  async compare(key: string, request: CompareEditionsRequest, signal: AbortSignal): Promise<RecordComparison> {
    return this.ports.pool.run('compare-editions', { ...(await this.ports.projects.base(key)), ...request }, { signal });
  }

  /** Codes that are expected in the fields of a dataset. */
  async codes(key: string, dataset: string): Promise<Readonly<Record<string, readonly string[]>>> {
    return this.ports.pool.run('codes', { ...(await this.ports.projects.base(key)), dataset });
  }

  /** Check points that are found in two datasets. */
  async matchPoints(key: string, request: MatchPointsRequest, signal: AbortSignal): Promise<MatchedPoints> {
    return this.ports.pool.run('match-points', { ...(await this.ports.projects.base(key)), ...request }, { signal });
  }

  /** Sheets as a page, a table, data, or pages of paper. */
  async report(key: string, { format, dataset }: QualityReportQuery): Promise<Uint8Array> {
    return this.ports.pool.run('quality-report', { ...(await this.ports.projects.base(key)), format, dataset: dataset ?? null });
  }

  /** Computes what is not known, and writes the sheets as one change. */
  async start(key: string, { datasets, anew }: QualityCheckRequest, who: string): Promise<JobView> {
    const base = await this.ports.projects.base(key, who);
    const title =
      datasets.length === 1 ? 'Check a dataset' : datasets.length === 0 ? 'Check all datasets' : `Check ${datasets.length} datasets`;
    return this.run(key, base, title, { datasets, below: null, anew });
  }

  /** The same for what stands below a folder: of what came in just now the sheets begin. */
  startBelow(key: string, base: TaskBase, folder: string): JobView {
    return this.run(key, base, `Check what came into ${basename(folder)}`, { datasets: [], below: folder, anew: false });
  }

  private run(key: string, base: TaskBase, title: string, wanted: QualityCheckRequest & { readonly below: string | null }): JobView {
    return this.ports.jobs.start('quality', title, key, async (handle): Promise<QualityDone> => {
      const plan = await this.ports.pool.run('plan-checks', { ...base, ...wanted, nowMs: Date.now() }, handle);
      if (plan.datasets.length + plan.failed.length === 0)
        throw new ProblemError({ code: 'wrong-use', message: 'There is no dataset to check.' });
      const applied = plan.change && (await this.ports.changes.apply(key, base, plan.change, plan.datasets.length));
      const known = plan.datasets.filter((d) => d.isKnown).length;
      return { checked: plan.datasets.length - known, known, failed: plan.failed, change: applied?.change ?? null };
    });
  }

  /** A reviewer's word, signed with what the data holds now. */
  async review(key: string, review: ReviewRequest, who: string): Promise<AppliedView> {
    const base = await this.ports.projects.base(key, who);
    const change = await this.ports.pool.run('plan-review', { ...base, review });
    return this.ports.changes.apply(key, base, change, 1);
  }
}
