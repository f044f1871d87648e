import { existsSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { ProblemError } from '@rootmap/core';
import { diskSettings } from '../disk/disk-settings.js';
import type { HalfWorkerData, WorkerOrder, WorkerReply } from './half-worker.js';
import type { HalfCheck, HalfOrder, HalfWritten, HalfHelper } from './half-writer.js';

/**
 * A second thread for the time that many records are written.
 * @param beside where its script stands; nothing there: the work is done by one thread
 * @param isJudging whether shapes will be looked at
 */
export async function withHalfHelper<T>(
  beside: string | URL,
  isJudging: boolean,
  work: (helper: HalfHelper | undefined) => Promise<T>,
): Promise<T> {
  const script = new URL('half-worker.js', beside);
  if (!existsSync(script)) return work(undefined);
  let worker: Worker | null = null;
  const threadOf = (): Worker =>
    (worker ??= new Worker(script, { workerData: { isJudging } satisfies HalfWorkerData }).on('error', () => undefined)); // told by what waits for it: 'exit' follows
  const ask = <A>(order: WorkerOrder): Promise<A> =>
    new Promise((resolve, reject) => {
      const thread = threadOf();
      const end = (act: () => void): void => {
        thread.off('message', onMessage).off('error', onError).off('exit', onExit);
        act();
      };
      const failed = (why: string): ProblemError => new ProblemError({ code: 'failed', what: 'Writing half of the records', why });
      const onMessage = (reply: WorkerReply): void =>
        end(() => ('value' in reply ? resolve(reply.value as A) : reject(failed(reply.failed))));
      const onError = (error: Error): void => end(() => reject(failed(error.message)));
      const onExit = (): void => end(() => reject(failed('its thread ended')));
      thread.on('message', onMessage).on('error', onError).on('exit', onExit);
      if (thread.threadId < 0) onExit(); // it ended before anybody waited
      thread.postMessage(order);
    });
  try {
    return await work({
      start: () => void threadOf(),
      write: (order: HalfOrder) => ask<HalfWritten>({ disk: diskSettings(), write: order }),
      index: (rows) => ask<string>({ index: rows }),
      check: (order: HalfCheck) => ask<boolean>({ check: order }),
    });
  } finally {
    (worker as Worker | null)?.postMessage({ close: true } satisfies WorkerOrder);
  }
}
