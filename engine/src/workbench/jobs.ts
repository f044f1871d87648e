import { randomUUID } from 'node:crypto';
import { explain, ProblemError } from '@rootmap/core';
import type { JobView } from '@rootmap/core/contract';

interface Job {
  view: JobView;
  readonly abort: AbortController;
}
export interface JobHandle {
  readonly signal: AbortSignal;
  readonly progress: (done: { readonly bytes: number; readonly of: number; readonly item: string }) => void;
}

const KEPT = 50;
const REPORT_MS = 100;

/** Long work: started, watched, cancelled. Lives as long as the server, so that a page reload loses nothing. */
export class Jobs {
  private readonly jobs = new Map<string, Job>();
  constructor(private readonly publish: (job: JobView) => void) {}

  start(kind: string, title: string, project: string | null, work: (handle: JobHandle) => Promise<unknown>): JobView {
    const abort = new AbortController();
    const view: JobView = {
      id: randomUUID(),
      kind,
      title,
      project,
      state: 'running',
      doneBytes: 0,
      ofBytes: 0,
      item: '',
      startedMs: Date.now(),
      message: null,
      result: null,
    };
    const job: Job = { view, abort };
    this.jobs.set(view.id, job);
    this.forgetOld();
    let last = 0;
    const progress: JobHandle['progress'] = ({ bytes, of, item }) => {
      job.view = { ...job.view, doneBytes: bytes, ofBytes: of, item };
      if (Date.now() - last < REPORT_MS) return;
      last = Date.now();
      this.publish(job.view);
    };
    const end = (change: Partial<JobView>): void => {
      job.view = { ...job.view, ...change };
      this.publish(job.view);
    };
    this.publish(view);
    work({ signal: abort.signal, progress }).then(
      (result) => end({ state: 'done', result, doneBytes: job.view.ofBytes }),
      (error: unknown) => {
        const cancelled = abort.signal.aborted;
        end({
          state: cancelled ? 'cancelled' : 'failed',
          message: error instanceof ProblemError ? explain(error.problem) : `An error of the program itself: ${String(error)}`,
        });
      },
    );
    return view;
  }

  list(): JobView[] {
    return [...this.jobs.values()].map((j) => j.view).reverse();
  }

  cancel(id: string): void {
    const job = this.jobs.get(id);
    if (!job) throw new ProblemError({ code: 'not-found', what: 'job', id });
    job.abort.abort();
  }

  private forgetOld(): void {
    for (const [id, job] of this.jobs) {
      if (this.jobs.size <= KEPT) return;
      if (job.view.state !== 'running') this.jobs.delete(id);
    }
  }
}
