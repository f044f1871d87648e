import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import { diskSettings } from '../disk/disk-settings.js';
import { AskedThread } from '../threads/asked-thread.js';
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
  const failed = (why: string): ProblemError => new ProblemError({ code: 'failed', what: 'Writing half of the records', why });
  let thread: AskedThread<WorkerOrder, WorkerReply> | null = null;
  const begun = () => (thread ??= new AskedThread(script, failed, { workerData: { isJudging } satisfies HalfWorkerData }));
  const ask = async <A>(order: WorkerOrder): Promise<A> => {
    const reply = await begun().ask(order);
    if ('failed' in reply) throw failed(reply.failed);
    return reply.value as A;
  };
  try {
    return await work({
      start: () => void begun(),
      write: (order: HalfOrder) => ask<HalfWritten>({ disk: diskSettings(), write: order }),
      index: (rows) => ask<string>({ index: rows }),
      check: (order: HalfCheck) => ask<boolean>({ check: order }),
    });
  } finally {
    (thread as AskedThread<WorkerOrder, WorkerReply> | null)?.tellLast({ close: true });
  }
}
