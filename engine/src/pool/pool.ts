import { fork, type ChildProcess } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { ProblemError, type OnProgress, type Problem, type Progress } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { currentBounds, type Bounds } from '../disk/bounds.js';
import { remove } from '../disk/files.js';
import { isStagedName } from '../changes/staged-name.js';
import { stateOf } from '../geopackage/reading-watch.js';
import { cut, Joined, type Outline, type Piece } from './pieces.js';
import type { TaskName, Tasks } from '../tasks/tasks.js';

interface Waiting {
  readonly id: number;
  readonly name: TaskName;
  readonly input: unknown;
  readonly resolve: (value: never) => void;
  readonly reject: (error: unknown) => void;
  readonly progress: OnProgress;
  /** How often it was begun anew without a file that kept it busy. */
  restarts: number;
}
/** What a process is told: a task, then the pieces of its input. */
export type Order = TaskMessage | { readonly id: number; readonly piece: Piece };
export interface TaskMessage {
  readonly id: number;
  readonly name: TaskName;
  readonly input: Outline;
  readonly bounds: Bounds | null;
  readonly shunned: ReadonlyMap<string, string>;
}
export type Reply = { readonly id: number } & (
  | { readonly progress: Progress }
  /** The geodatabase that is being read, or none. */
  | { readonly reading: string | null }
  /** The value, then its pieces; then the end, with what was the matter where it failed. */
  | { readonly value: Outline }
  | { readonly piece: Piece }
  | { readonly ended: { readonly problem: Problem; readonly stack: string | null } | null; readonly rssBytes: number }
);

export interface PoolOptions {
  /** Of the processes: the built `worker.js`. */
  readonly script: URL;
  readonly dataFolder: string;
  readonly size: number;
  readonly onBug: (stack: string) => void;
  /** How far its processes step back where others want to compute: 0 not at all, 19 the most. */
  readonly niceness?: number;
  /** How long one geodatabase may be read without a word of progress. */
  readonly readLimitMs?: number;
}

/** Space for new objects: more of it spares the collector work where much is read. */
const SEMI_SPACE_MB = 8;
const READ_LIMIT_MS = 120_000;
/** What is written is joined and indexed at length without a word: it may take so much longer. */
const WRITING = 5;
const MOST_RESTARTS = 3;
/** A process that holds more when its task is done is replaced: what a collector does not give back is given back so. */
const MOST_HELD_BYTES = 320 << 20;
let started = 0;

interface Seat {
  readonly process: ChildProcess;
  readonly scratch: string;
  task: Waiting | null;
  /** What has come of the value of its task. */
  joined: Joined | null;
  reading: { readonly path: string; readonly timer: NodeJS.Timeout } | null;
}

/**
 * Processes for all that reads the disk at length: one that fails, or that a file of others keeps busy without end, is ended and
 * replaced, and takes nobody along. A cancelled task ends its process.
 */
export class Pool {
  private readonly seats = new Set<Seat>();
  private readonly queue: Waiting[] = [];
  private readonly shunned = new Map<string, string>();
  private nextId = 1;
  private closed = false;

  constructor(private readonly options: PoolOptions) {}

  run<N extends TaskName>(
    name: N,
    input: Tasks[N]['in'],
    options: { progress?: OnProgress; signal?: AbortSignal } = {},
  ): Promise<Tasks[N]['out']> {
    const { signal } = options;
    if (signal?.aborted) return Promise.reject(cancelled());
    const ended = new AbortController();
    const done = new Promise<Tasks[N]['out']>((resolve, reject) => {
      const task: Waiting = {
        id: this.nextId++,
        name,
        input,
        resolve,
        reject,
        progress: options.progress ?? (() => undefined),
        restarts: 0,
      };
      signal?.addEventListener('abort', () => this.cancel(task), { once: true, signal: ended.signal });
      this.queue.push(task);
      this.next();
    });
    return done.finally(() => ended.abort()); // one signal may stand over hundreds of tasks
  }

  private next(): void {
    while (this.queue.length && !this.closed) {
      const seat = [...this.seats].find((s) => s.task === null) ?? (this.seats.size < this.options.size ? this.seat() : null);
      if (!seat) return;
      this.give(this.queue.shift()!, seat);
    }
  }

  private give(task: Waiting, seat: Seat): void {
    const { id, name } = task;
    const [input, ...pieces] = cut(task.input);
    seat.task = task;
    keepAlive(seat.process, true);
    const tell = (order: Order): void => {
      try {
        seat.process.send(order, (error) => error && this.end(seat)); // its pipe is gone: so is it
      } catch (error) {
        this.free(seat); // an order that cannot be told to another process
        task.reject(error);
      }
    };
    tell({ id, name, input, bounds: currentBounds(), shunned: this.shunned });
    const tellPieces = (from: number): void => {
      const piece = pieces[from];
      if (!piece || seat.task !== task) return;
      tell({ id, piece });
      setImmediate(tellPieces, from + 1);
    };
    tellPieces(0);
  }

  private seat(): Seat {
    const { script, dataFolder, niceness = 0 } = this.options;
    const scratch = join(scratchFolder(dataFolder), `${process.pid}-${++started}`);
    const child = fork(fileURLToPath(script), [dataFolder, scratch, String(niceness)], {
      serialization: 'advanced',
      execArgv: [`--max-semi-space-size=${SEMI_SPACE_MB}`],
      stdio: ['ignore', 2, 2, 'ipc'],
    });
    const seat: Seat = { process: child, scratch, task: null, joined: null, reading: null };
    this.seats.add(seat);
    child.on('message', (reply: Reply) => this.onReply(seat, reply));
    child.on('error', (error) => this.options.onBug(error.stack ?? String(error)));
    child.on('exit', () => this.onExit(seat));
    return seat;
  }

  private onReply(seat: Seat, reply: Reply): void {
    const { task } = seat;
    if (!task || task.id !== reply.id) return;
    if ('reading' in reply) return this.watch(seat, reply.reading);
    if ('progress' in reply) {
      if (seat.reading) this.watch(seat, seat.reading.path);
      return task.progress(reply.progress);
    }
    if ('value' in reply) return void (seat.joined = new Joined(reply.value));
    if ('piece' in reply) return seat.joined?.add(reply.piece);
    const { ended, rssBytes } = reply;
    const value = seat.joined?.value;
    this.free(seat);
    if (rssBytes > MOST_HELD_BYTES) this.end(seat);
    if (ended?.stack) this.options.onBug(ended.stack);
    if (ended) task.reject(new ProblemError(ended.problem));
    else task.resolve(value as never);
    this.next();
  }

  private free(seat: Seat): void {
    this.watch(seat, null);
    seat.task = null;
    seat.joined = null;
    keepAlive(seat.process, false);
  }

  /** A file that is read for too long without a word is left alone from then on, and the task begins anew. */
  private watch(seat: Seat, path: string | null): void {
    if (seat.reading) clearTimeout(seat.reading.timer);
    seat.reading = null;
    if (path === null) return;
    const onLimit = (): void => {
      this.shunned.set(path, stateOf(path));
      const { task } = seat;
      seat.task = null;
      this.end(seat);
      if (!task) return;
      // What is being written cannot be begun anew over what is there; the change that it is for is taken back.
      if (!isStagedName(path) && task.restarts++ < MOST_RESTARTS) this.queue.unshift(task);
      else
        task.reject(
          new ProblemError({
            code: 'not-a-database',
            file: isStagedName(path) ? 'The geodatabase' : path,
            why: 'it keeps its reader busy without end',
          }),
        );
      this.next();
    };
    const limitMs = (this.options.readLimitMs ?? READ_LIMIT_MS) * (isStagedName(path) ? WRITING : 1);
    seat.reading = { path, timer: setTimeout(onLimit, limitMs).unref() };
  }

  private end(seat: Seat): void {
    this.watch(seat, null);
    this.seats.delete(seat);
    seat.process.kill('SIGKILL');
  }

  private onExit(seat: Seat): void {
    const { task } = seat;
    seat.task = null;
    this.watch(seat, null);
    this.seats.delete(seat);
    // What it had unpacked or copied for a moment goes with it; what cannot go now goes at the next start.
    remove(seat.scratch).catch(() => undefined);
    const why = { code: 'failed', what: `The task ${task?.name}`, why: 'its process ended unexpectedly' } as const;
    task?.reject(this.closed ? cancelled() : new ProblemError(why));
    this.next();
  }

  private cancel(task: Waiting): void {
    const at = this.queue.indexOf(task);
    if (at >= 0) this.queue.splice(at, 1);
    for (const seat of this.seats)
      if (seat.task === task) {
        seat.task = null;
        this.end(seat);
      }
    task.reject(cancelled());
    this.next();
  }

  async close(): Promise<void> {
    this.closed = true;
    const gone = [...this.seats].map(
      (seat) => new Promise((resolve) => (seat.process.exitCode === null ? seat.process.once('exit', resolve) : resolve(null))),
    );
    for (const seat of this.seats) seat.process.kill('SIGKILL');
    await Promise.all(gone);
  }
}

/** Below it, one folder for each process of a pool. */
export const scratchFolder = (dataFolder: string): string => join(dataFolder, 'scratch');

const cancelled = (): ProblemError => new ProblemError({ code: 'cancelled', what: 'The work' });

/** A process without a task keeps nobody from ending. */
function keepAlive(child: ChildProcess, isBusy: boolean): void {
  const channel = child.channel as { ref(): void; unref(): void } | null | undefined;
  if (isBusy) {
    child.ref();
    channel?.ref();
  } else {
    child.unref();
    channel?.unref();
  }
}
