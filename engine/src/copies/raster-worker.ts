import { parentPort } from 'node:worker_threads';
import { ProblemError, type Problem } from '@rootmap/core';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import type { Numbers } from '../export/geotiff-levels.js';
import { isFoundIn, type ShareOfStrips, type StripsOfTiff } from '../geodatabase/second-eyes.js';
import { NodataIsTaken } from './raster-samples.js';
import { Warper, type WarpedRows, type WarpOrder } from './raster-warp.js';

export type RasterAsk =
  | { readonly disk: DiskSettings; readonly open: WarpOrder }
  | { readonly row: number; readonly room: readonly Numbers[] }
  | { readonly disk: DiskSettings; readonly check: { readonly path: string; readonly what: StripsOfTiff; readonly share: ShareOfStrips } }
  | { readonly close: true };
export type RasterReply =
  | { readonly rows: WarpedRows }
  | { readonly isFound: boolean }
  | { readonly isTaken: true }
  | { readonly problem: Problem }
  | { readonly failed: string };

// The second thread of a raster copy: it computes the next rows while those before are packed and written, and reads half of them back.
const port = parentPort;
if (!port) throw new Error('raster-worker.js runs in a worker thread only');
let warper: Promise<Warper> | null = null;
const fail = (error: unknown): void => port.postMessage(replyOf(error));
function replyOf(error: unknown): RasterReply {
  if (error instanceof NodataIsTaken) return { isTaken: true };
  return error instanceof ProblemError ? { problem: error.problem } : { failed: String((error as Error).message) };
}
port.on('message', (ask: RasterAsk) => {
  if ('close' in ask) {
    void warper?.then((w) => w.close()).catch(() => undefined); // why it did not open was told
    port.close();
    return;
  }
  if ('disk' in ask) useDiskSettings(ask.disk);
  if ('check' in ask) {
    const { path, what, share } = ask.check;
    isFoundIn(path, what, share).then((isFound) => port.postMessage({ isFound } satisfies RasterReply), fail);
    return;
  }
  if ('open' in ask) {
    warper = Warper.open(ask.open);
    warper.catch(() => undefined); // told to whoever asks for rows
    return;
  }
  warper!
    .then((w) => w.rows(ask.row, ask.room))
    .then((rows) => {
      const buffers = rows.planes.map((plane) => plane.buffer);
      port.postMessage({ rows } satisfies RasterReply, buffers);
    }, fail);
});
