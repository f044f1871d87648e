import { randomUUID } from 'node:crypto';
import { explain, ProblemError, type OnProgress } from '@rootmap/core';
import type { JobKind, JobResults, JobState, JobView } from '@rootmap/core/contract';

interface Job {
  view: JobView;
  readonly abort: AbortController;
}
export interface JobHandle {
  readonly signal: AbortSignal;
  readonly progress: OnProgress;
}

const KEPT = 50;
const REPORT_MS = 100;

/** Long work: started, watched, cancelled. Lives as long as the server, so that a page reload loses nothing. */
export class Jobs {
  private readonly jobs = new Map<string, Job>();
  /** @param onBug told of errors that are nobody's but the program's own */
  constructor(
    private readonly publish: (job: JobView) => void,
    private readonly onBug: (error: unknown) => void,
    /** How a sentence is shown to people. */
    private readonly told: (sentence: string) => string = (sentence) => sentence,
  ) {}

  start<K extends JobKind>(
    kind: K,
    title: string,
    project: string | null,
    work: (handle: JobHandle) => Promise<JobResults[K]>,
  ): JobView<K> {
    const abort = new AbortController();
    const view = {
      id: randomUUID(),
      kind,
      title,
      project,
      state: 'running',
      done: 0,
      of: 0,
      unit: 'bytes',
      item: '',
      startedMs: Date.now(),
      message: null,
      result: null,
    } as JobView<K>;
    const job: Job = { view: view as JobView, abort };
    this.jobs.set(view.id, job);
    this.forgetOld();
    let last = 0;
    const progress: OnProgress = (now) => {
      job.view = { ...job.view, ...now };
      if (Date.now() - last < REPORT_MS) return;
      last = Date.now();
      this.publish(job.view);
    };
    const end = (state: JobState<K>, done = job.view.done): void => {
      job.view = { ...job.view, done, ...state } as JobView;
      this.publish(job.view);
    };
    this.publish(job.view);
    work({ signal: abort.signal, progress }).then(
      (result) => end({ state: 'done', message: null, result }, job.view.of),
      (error: unknown) => {
        const isOurs = !(error instanceof ProblemError);
        if (isOurs && !abort.signal.aborted) this.onBug(error);
        end({
          state: abort.signal.aborted ? 'cancelled' : 'failed',
          message: isOurs ? 'An error of the program itself. It has been written to the log.' : this.told(explain(error.problem)),
          result: null,
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
