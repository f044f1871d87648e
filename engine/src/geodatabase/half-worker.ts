import { parentPort, workerData } from 'node:worker_threads';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import type { RowBoxes } from '../geopackage-write/packed-rtree.js';
import { HalfWriter, judgeFor, type HalfCheck, type HalfOrder } from './half-writer.js';

/** `isJudging`: shapes will be looked at. */
export interface HalfWorkerData {
  readonly isJudging: boolean;
}
export type WorkerOrder =
  | { readonly disk: DiskSettings; readonly write: HalfOrder }
  | { readonly index: RowBoxes }
  | { readonly check: HalfCheck }
  | { readonly close: true };
export type WorkerReply = { readonly value: unknown } | { readonly failed: string };

// The second thread where many records are written. It needs neither the database of the server nor the use cases, so that it starts in a moment.
const port = parentPort;
if (!port) throw new Error('half-worker.js runs in a worker thread only');
const writer = new HalfWriter();
if ((workerData as HalfWorkerData).isJudging) void judgeFor(false); // what judges shapes is loaded while nothing is asked yet
port.on('message', (order: WorkerOrder) => {
  if ('close' in order) {
    writer.close();
    port.close();
    return;
  }
  if ('disk' in order) useDiskSettings(order.disk);
  const work = async (): Promise<unknown> => {
    if ('write' in order) return writer.write(order.write);
    return 'index' in order ? writer.index(order.index) : writer.check(order.check);
  };
  work().then(
    (value) => port.postMessage({ value } satisfies WorkerReply),
    (error: unknown) => port.postMessage({ failed: String((error as Error).message) } satisfies WorkerReply),
  );
});
