import { Worker } from 'node:worker_threads';
import { ProblemError, type Problem } from '@rootmap/core';
import type { Progress } from './task-base.js';
import type { TaskName, Tasks } from './tasks.js';

interface Waiting {
  readonly id: number;
  readonly name: TaskName;
  readonly input: unknown;
  readonly resolve: (value: never) => void;
  readonly reject: (error: unknown) => void;
  readonly progress: Progress;
  readonly signal: AbortSignal | undefined;
}
type Reply = {
  id: number;
  progress?: { item: string; done: number; of: number };
  value?: unknown;
  problem?: Problem;
  stack?: string | null;
};

/** Worker threads for all that reads the disk at length. A cancelled task ends its worker; another takes its place. */
const YOUNG_MB = 24;

export class Pool {
  private readonly idle: Worker[] = [];
  private readonly busy = new Map<Worker, Waiting>();
  private readonly queue: Waiting[] = [];
  private nextId = 1;
  private closed = false;

  constructor(
    private readonly script: URL,
    private readonly dataFolder: string,
    private readonly size: number,
    private readonly onBug: (stack: string) => void,
    /** How far its threads step back where others want to compute: 0 not at all, 19 the most. */
    private readonly niceness = 0,
  ) {}

  run<N extends TaskName>(
    name: N,
    input: Tasks[N]['in'],
    options: { progress?: Progress; signal?: AbortSignal } = {},
  ): Promise<Tasks[N]['out']> {
    return new Promise((resolve, reject) => {
      const waiting: Waiting = {
        id: this.nextId++,
        name,
        input,
        resolve,
        reject,
        progress: options.progress ?? (() => undefined),
        signal: options.signal,
      };
      options.signal?.addEventListener('abort', () => this.cancel(waiting), { once: true });
      this.queue.push(waiting);
      this.next();
    });
  }

  private next(): void {
    while (this.queue.length && !this.closed) {
      const worker = this.idle.pop() ?? (this.busy.size < this.size ? this.spawn() : null);
      if (!worker) return;
      const task = this.queue.shift()!;
      this.busy.set(worker, task);
      worker.ref();
      worker.postMessage({ id: task.id, name: task.name, input: task.input });
    }
  }

  private spawn(): Worker {
    const worker = new Worker(this.script, {
      workerData: { dataFolder: this.dataFolder, script: this.script.href, niceness: this.niceness },
      resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB },
    });
    worker.on('message', (reply: Reply) => this.onReply(worker, reply));
    worker.on('error', (error) => this.onBug(error.stack ?? String(error)));
    worker.on('exit', () => this.onExit(worker));
    return worker;
  }

  private onReply(worker: Worker, reply: Reply): void {
    const task = this.busy.get(worker);
    if (!task || task.id !== reply.id) return;
    if (reply.progress) return task.progress(reply.progress.item, reply.progress.done, reply.progress.of);
    this.busy.delete(worker);
    worker.unref();
    this.idle.push(worker);
    if (reply.stack) this.onBug(reply.stack);
    if (reply.problem) task.reject(new ProblemError(reply.problem));
    else task.resolve(reply.value as never);
    this.next();
  }

  private onExit(worker: Worker): void {
    const task = this.busy.get(worker);
    this.busy.delete(worker);
    const at = this.idle.indexOf(worker);
    if (at >= 0) this.idle.splice(at, 1);
    task?.reject(new ProblemError({ code: 'failed', what: `The task ${task.name}`, why: 'its worker ended unexpectedly' }));
    this.next();
  }

  private cancel(task: Waiting): void {
    const at = this.queue.indexOf(task);
    if (at >= 0) this.queue.splice(at, 1);
    for (const [worker, running] of this.busy)
      if (running === task) {
        this.busy.delete(worker);
        void worker.terminate();
      }
    task.reject(new ProblemError({ code: 'cancelled', what: 'The work' }));
    this.next();
  }

  async close(): Promise<void> {
    this.closed = true;
    await Promise.all([...this.idle, ...this.busy.keys()].map((w) => w.terminate()));
  }
}
