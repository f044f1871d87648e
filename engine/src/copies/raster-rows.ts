import { existsSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { ProblemError } from '@rootmap/core';
import { diskSettings } from '../disk/disk-settings.js';
import { numbersFor, type Numbers } from '../export/geotiff-levels.js';
import { isFoundIn, type StripsOfTiff } from '../geodatabase/second-eyes.js';
import { NodataIsTaken } from './raster-samples.js';
import { rowsAtOnce, Warper, type WarpedRows, type WarpOrder } from './raster-warp.js';
import type { RasterAsk, RasterReply } from './raster-worker.js';

/** Fewer pixels are computed in less time than a thread takes to start. */
const WORTH_A_THREAD = 1_000_000;
/** Every so many parts this thread computes one, too: packing and writing alone would leave it waiting. */
const OWN_SHARE = 4;
const SCRIPT = new URL('raster-worker.js', import.meta.url);

/**
 * All rows of a raster in another CRS, one part after the other: computed by a second thread, one part ahead, where its script stands beside
 * this one. What a part has is good until the next one is asked for. Throws `NodataIsTaken`.
 */
export async function* warpedRows(order: WarpOrder): AsyncGenerator<WarpedRows> {
  const { width, height } = order.grid;
  const isWorth = width * height >= WORTH_A_THREAD && existsSync(SCRIPT);
  yield* isWorth ? byThread(order, SCRIPT) : byItself(order);
}

async function* byItself(order: WarpOrder): AsyncGenerator<WarpedRows> {
  const warper = await Warper.open(order);
  try {
    for (let row = 0; row < order.grid.height; row += rowsAtOnce(order)) yield await warper.rows(row);
  } finally {
    warper.close();
  }
}

async function* byThread(order: WarpOrder, script: URL): AsyncGenerator<WarpedRows> {
  const thread = new RasterThread(script, order.found.dataset.group.path);
  const { samples, grid } = order;
  const atOnce = rowsAtOnce(order);
  const rowsFrom = async (row: number, room: readonly Numbers[]): Promise<WarpedRows> => {
    const reply = await thread.ask({ row, room }, room);
    if (!('rows' in reply)) throw new Error('the thread answered something else');
    return reply.rows;
  };
  const own = await Warper.open(order);
  const isOwn = (row: number): boolean => (row / atOnce) % OWN_SHARE === OWN_SHARE - 1;
  const starts = Array.from({ length: Math.ceil(grid.height / atOnce) }, (_, k) => k * atOnce);
  const asked = starts.filter((row) => !isOwn(row));
  try {
    thread.tell({ disk: diskSettings(), open: order });
    let waiting = rowsFrom(0, []);
    let room: Numbers[] = [];
    let ownRoom: Numbers[] = [];
    for (const row of starts) {
      if (isOwn(row)) {
        const part = await own.rows(row, ownRoom);
        yield part;
        ownRoom = wholeOf(part.planes, samples.type);
        continue;
      }
      const part = await waiting;
      const next = asked[asked.indexOf(row) + 1];
      if (next !== undefined) {
        waiting = rowsFrom(next, room);
        waiting.catch(() => undefined); // thrown when its turn comes
      }
      yield part;
      room = wholeOf(part.planes, samples.type);
    }
  } finally {
    own.close();
    await thread.end();
  }
}

/** Whether another reader finds in a file what was computed; two threads share the strips of a large one. */
export async function isFoundByTwo(path: string, what: StripsOfTiff): Promise<boolean> {
  if (what.width * what.height < WORTH_A_THREAD || !existsSync(SCRIPT)) return isFoundIn(path, what);
  const thread = new RasterThread(SCRIPT, path);
  try {
    const other = thread.ask({ disk: diskSettings(), check: { path, what, share: { part: 1, of: 2 } } });
    other.catch(() => undefined); // thrown below
    const own = await isFoundIn(path, what, { part: 0, of: 2 });
    const reply = await other;
    return own && 'isFound' in reply && reply.isFound;
  } finally {
    await thread.end();
  }
}

/** The second thread, which answers one thing after the other. */
class RasterThread {
  private readonly worker: Worker;

  constructor(
    script: URL,
    private readonly file: string,
  ) {
    this.worker = new Worker(script);
  }

  tell(request: RasterAsk, room: readonly Numbers[] = []): void {
    this.worker.postMessage(
      request,
      room.map((plane) => plane.buffer),
    );
  }

  /** Throws `NodataIsTaken`, and what went wrong. @param room memory that goes along, and is not here any more */
  ask(request: RasterAsk, room: readonly Numbers[] = []): Promise<RasterReply> {
    const { worker } = this;
    const failed = (why: string): ProblemError => new ProblemError({ code: 'failed', what: `Copying ${this.file}`, why });
    return new Promise((resolve, reject) => {
      const end = (act: () => void): void => {
        worker.off('message', onMessage).off('error', onError).off('exit', onExit);
        act();
      };
      const onMessage = (reply: RasterReply): void =>
        end(() => {
          if ('isTaken' in reply) reject(new NodataIsTaken());
          else if ('problem' in reply) reject(new ProblemError(reply.problem));
          else if ('failed' in reply) reject(failed(reply.failed));
          else resolve(reply);
        });
      const onError = (error: Error): void => end(() => reject(failed(error.message)));
      const onExit = (): void => end(() => reject(failed('its thread ended')));
      worker.on('message', onMessage).on('error', onError).on('exit', onExit);
      this.tell(request, room);
    });
  }

  async end(): Promise<void> {
    this.tell({ close: true });
    await this.worker.terminate();
  }
}

/** All of the memory of which planes are the beginning. */
function wholeOf(planes: readonly Numbers[], type: WarpOrder['samples']['type']): Numbers[] {
  const kind = numbersFor(type, 0).constructor as new (buffer: ArrayBuffer) => Numbers;
  return planes.map((plane) => new kind(plane.buffer));
}
