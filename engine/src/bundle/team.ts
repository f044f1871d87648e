import { existsSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { ProblemError } from '@rootmap/core';
import { diskSettings } from '../disk/disk-settings.js';
import { BUNDLE_WORK, type BundleWork } from './bundle-work.js';
import type { WorkOrder, WorkReply } from './bundle-worker.js';

const MOST_THREADS = 4;
const YOUNG_MB = 24;

interface Waiting {
  readonly order: WorkOrder;
  readonly onBytes: (bytes: number) => void;
  readonly resolve: (value: never) => void;
  readonly reject: (error: unknown) => void;
}

/**
 * The threads of one bundle, as many as there are cores. Work is begun in the order in which it is given. Where the script of
 * the threads does not stand beside this one, the work is done here.
 */
export class Team {
  private readonly idle: Worker[] = [];
  private readonly busy = new Map<Worker, Waiting>();
  private readonly queue: Waiting[] = [];
  private isClosed = false;
  readonly size: number;

  constructor(script = new URL('bundle-worker.js', import.meta.url)) {
    this.size = Math.min(MOST_THREADS, availableParallelism());
    if (existsSync(script)) for (let i = 0; i < this.size; i++) this.start(script);
  }

  private get isAlone(): boolean {
    return this.idle.length === 0 && this.busy.size === 0;
  }

  private start(script: URL): void {
    const worker = new Worker(script, { resourceLimits: { maxYoungGenerationSizeMb: YOUNG_MB } });
    worker.on('message', (reply: WorkReply) => this.onReply(worker, reply));
    worker.on('error', (error) => this.fail(worker, error, script));
    worker.unref();
    this.idle.push(worker);
    this.next();
  }

  run<K extends keyof BundleWork>(
    kind: K,
    input: Parameters<BundleWork[K]>[0],
    onBytes: (bytes: number) => void = () => undefined,
  ): Promise<Awaited<ReturnType<BundleWork[K]>>> {
    if (this.isAlone) return (async () => BUNDLE_WORK[kind](input as never, onBytes) as never)();
    return new Promise((resolve, reject) => {
      this.queue.push({ order: { disk: diskSettings(), kind, input }, onBytes, resolve, reject });
      this.next();
    });
  }

  private next(): void {
    while (this.idle.length > 0 && this.queue.length > 0) {
      const worker = this.idle.pop()!;
      const waiting = this.queue.shift()!;
      this.busy.set(worker, waiting);
      worker.ref();
      worker.postMessage(waiting.order);
    }
  }

  private onReply(worker: Worker, reply: WorkReply): void {
    const waiting = this.busy.get(worker);
    if (!waiting) return;
    if ('bytes' in reply) {
      waiting.onBytes(reply.bytes);
      return;
    }
    this.busy.delete(worker);
    worker.unref();
    this.idle.push(worker);
    if ('value' in reply) waiting.resolve(reply.value as never);
    else waiting.reject('problem' in reply ? new ProblemError(reply.problem) : new Error(reply.failed));
    this.next();
  }

  /** What it was at fails; another takes its place, since what still waits would wait for ever. */
  private fail(worker: Worker, error: unknown, script: URL): void {
    const waiting = this.busy.get(worker);
    if (!waiting) return void this.idle.splice(this.idle.indexOf(worker), 1); // it cannot even begin
    waiting.reject(error);
    this.busy.delete(worker);
    if (!this.isClosed) this.start(script);
  }

  /** Ends the threads, whatever they are at; what still waits fails as cancelled. */
  async close(): Promise<void> {
    if (this.isClosed) return;
    this.isClosed = true;
    const ended = new ProblemError({ code: 'cancelled', what: 'The bundle' });
    for (const { reject } of [...this.busy.values(), ...this.queue.splice(0)]) reject(ended);
    await Promise.all([...this.idle, ...this.busy.keys()].map((w) => w.terminate()));
  }
}

/** Runs work over a list in order, some ahead of what is taken, and gives what comes of each in that order. */
export async function* ahead<T, R>(items: Iterable<T>, most: number, work: (item: T) => Promise<R>): AsyncGenerator<readonly [T, R]> {
  const running: (readonly [T, Promise<R>])[] = [];
  const take = async (): Promise<readonly [T, R]> => {
    const [item, result] = running.shift()!;
    return [item, await result];
  };
  for (const item of items) {
    const result = work(item);
    result.catch(() => undefined); // it is thrown where it is taken
    running.push([item, result]);
    if (running.length >= most) yield await take();
  }
  while (running.length > 0) yield await take();
}
