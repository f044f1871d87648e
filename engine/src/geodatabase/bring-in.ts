import type { PlannedChange } from '../changes/change.js';
import type { RunOptions } from '../changes/run-change.js';
import { ProblemError } from '@rootmap/core';
import type { ImportItem, ImportPlanItem, ImportReceipt } from '@rootmap/core/contract';
import type { ImportPlan } from './plan-import.js';

/** What was written of each source, or the sources that could not be read to their ends, in which case nothing of this counts. */
export interface ImportTry {
  readonly receipts: readonly ImportReceipt[];
  readonly failed: readonly FailedSource[];
}
export interface FailedSource {
  readonly dataset: string;
  readonly part: ImportItem['part'];
  readonly why: string;
}
export interface BroughtIn extends ImportTry {
  /** Of what was brought in, or could not be from the start. */
  readonly plan: ImportPlan;
}

export interface BringInPorts {
  readonly plan: (items: readonly ImportItem[]) => ImportPlan | Promise<ImportPlan>;
  readonly write: (items: readonly ImportPlanItem[], staged: string) => Promise<ImportTry>;
  readonly apply: (change: PlannedChange, count: number, stage: NonNullable<RunOptions['stage']>) => Promise<void>;
}

/**
 * Brings sources into a geodatabase as one change. One that turns out to be unreadable while it is written is left out and told: what
 * was begun is taken back, and done again for the others. Throws the problem of a source where none is left.
 */
export async function bringIn(items: readonly ImportItem[], { plan: planFor, write, apply }: BringInPorts): Promise<BroughtIn> {
  const failed: FailedSource[] = [];
  for (;;) {
    const left = items.filter((i) => !failed.some((f) => f.dataset === i.dataset && f.part === i.part));
    const plan = await planFor(left);
    if (!plan.change) {
      if (failed.length > 0 && plan.items.length === 0)
        throw new ProblemError({ code: 'failed', what: `Bringing ${failed[0]!.dataset} in`, why: failed[0]!.why });
      return { plan, receipts: [], failed };
    }
    const wanted = plan.items.filter((i) => i.why === null);
    let tried: ImportTry | null = null;
    const stage: NonNullable<RunOptions['stage']> = async (staged) => {
      tried = await write(wanted, staged);
      const [first] = tried.failed;
      if (first) throw new ProblemError({ code: 'failed', what: `Bringing ${first.dataset} in`, why: first.why });
    };
    try {
      await apply(plan.change, wanted.length, stage);
      return { plan, receipts: (tried as ImportTry | null)?.receipts ?? [], failed };
    } catch (error) {
      const now = (tried as ImportTry | null)?.failed ?? [];
      if (now.length === 0) throw error;
      failed.push(...now);
    }
  }
}
