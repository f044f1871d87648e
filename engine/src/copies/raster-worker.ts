import { parentPort } from 'node:worker_threads';
import { ProblemError, type Problem } from '@rootmap/core';
import { useDiskSettings, type DiskSettings } from '../disk/disk-settings.js';
import type { Numbers } from '../export/numbers.js';
import { isFoundIn, type ShareOfStrips, type StripsOfTiff } from '../geodatabase/second-eyes.js';
import { NodataIsTaken } from './raster-samples.js';
import { Warper, type WarpedRows, type WarpOrder } from './raster-warp.js';

export type RasterAsk =
  | { readonly disk: DiskSettings; readonly open: WarpOrder }
  | { readonly row: number; readonly room: readonly Numbers[] }
  | { readonly disk: DiskSettings; readonly check: { readonly path: string; readonly what: StripsOfTiff; readonly share: ShareOfStrips } };
export type RasterReply =
  | { readonly is: 'opened' }
  | { readonly is: 'rows'; readonly rows: WarpedRows }
  | { readonly is: 'checked'; readonly isFound: boolean }
  | { readonly is: 'taken' }
  | { readonly is: 'problem'; readonly problem: Problem }
  | { readonly is: 'failed'; readonly why: string };

// The second thread of a raster copy: it computes some of its rows, and reads half of them back.
const port = parentPort;
if (!port) throw new Error('raster-worker.js runs in a worker thread only');
let warper: Warper | null = null;
let last: Promise<unknown> = Promise.resolve();
port.on('message', (ask: RasterAsk) => {
  last = last
    .then(() => replyTo(ask))
    .catch(failureOf)
    .then((reply) => port.postMessage(reply, reply.is === 'rows' ? reply.rows.planes.map((plane) => plane.buffer) : []));
});

async function replyTo(ask: RasterAsk): Promise<RasterReply> {
  if ('disk' in ask) useDiskSettings(ask.disk);
  if ('check' in ask) {
    const { path, what, share } = ask.check;
    return { is: 'checked', isFound: await isFoundIn(path, what, share) };
  }
  if ('open' in ask) {
    warper?.close();
    warper = await Warper.open(ask.open);
    return { is: 'opened' };
  }
  return { is: 'rows', rows: await warper!.rows(ask.row, ask.room) };
}

function failureOf(error: unknown): RasterReply {
  if (error instanceof NodataIsTaken) return { is: 'taken' };
  return error instanceof ProblemError
    ? { is: 'problem', problem: error.problem }
    : { is: 'failed', why: String((error as Error).message) };
}
