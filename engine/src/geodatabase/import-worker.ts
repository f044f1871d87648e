import { parentPort } from 'node:worker_threads';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import { HalfWriter, judgeFor, type HalfCheck, type HalfOrder } from './import-half.js';

export type ImportOrder =
  { readonly disk: DiskSettings; readonly write: HalfOrder } | { readonly check: HalfCheck } | { readonly close: true };
export type ImportReply = { readonly value: unknown } | { readonly failed: string };

// The second thread of an import. It needs neither the database of the server nor the use cases, so that it starts in a moment.
const port = parentPort;
if (!port) throw new Error('import-worker.js runs in a worker thread only');
const writer = new HalfWriter();
void judgeFor(false); // what judges shapes is loaded while nothing is asked yet
port.on('message', (order: ImportOrder) => {
  if ('close' in order) {
    writer.close();
    port.close();
    return;
  }
  if ('disk' in order) useDiskSettings(order.disk);
  const work = async (): Promise<unknown> => ('write' in order ? writer.write(order.write) : writer.check(order.check));
  work().then(
    (value) => port.postMessage({ value } satisfies ImportReply),
    (error: unknown) => port.postMessage({ failed: String((error as Error).message) } satisfies ImportReply),
  );
});
