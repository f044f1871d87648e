import { setImmediate as turn } from 'node:timers/promises';
import { diskSettings } from '../disk/disk-settings.js';
import { numbersFor, type Numbers } from '../export/numbers.js';
import { isFoundIn, type StripsOfTiff } from '../geodatabase/second-eyes.js';
import type { RasterThread } from './raster-thread.js';
import { rowsAtOnce, Warper, type WarpedRows, type WarpOrder } from './raster-warp.js';

/** Parts that the second thread is asked for at a time, so that it never waits; and parts that are computed and wait for their turn. */
const ASKED_AT_ONCE = 2;
const MOST_AHEAD = 3;

/**
 * All rows of a raster in another CRS, one part after the other. What a part has is good until the next one is asked for. Throws
 * `NodataIsTaken`.
 * @param thread computes some of them; null: this one computes all
 */
export async function* warpedRows(order: WarpOrder, thread: RasterThread | null): AsyncGenerator<WarpedRows> {
  const own = await Warper.open(order);
  try {
    if (thread) yield* byBoth(order, own, thread);
    else for (let row = 0; row < order.grid.height; row += rowsAtOnce(order)) yield await own.rows(row);
  } finally {
    own.close();
  }
}

/** Whoever is free takes the next part: this thread whenever the one whose turn it is has not come yet. */
async function* byBoth(order: WarpOrder, own: Warper, thread: RasterThread): AsyncGenerator<WarpedRows> {
  const { samples, grid } = order;
  const atOnce = rowsAtOnce(order);
  const coming = new Map<number, Promise<WarpedRows>>();
  const here = new Set<number>();
  const rooms: Numbers[][] = [];
  let asked = 0;
  let next = 0;
  const took = (): number => (next += atOnce) - atOnce;
  const ask = (): void => {
    const row = took();
    const room = rooms.pop() ?? [];
    asked++;
    const part = thread.ask('rows', { row, room }, room).then(({ rows }) => {
      asked--;
      here.add(row);
      return rows;
    });
    part.catch(() => undefined); // thrown when its turn comes
    coming.set(row, part);
  };
  const compute = async (): Promise<void> => {
    const row = took();
    const part = await own.rows(row, rooms.pop());
    coming.set(row, Promise.resolve(part));
    here.add(row);
  };
  const opened = thread.ask('opened', { disk: diskSettings(), open: order });
  opened.catch(() => undefined); // thrown below
  for (let row = 0; row < grid.height; row += atOnce) {
    while (next < grid.height) {
      if (asked < ASKED_AT_ONCE) ask();
      else if (!here.has(row) && here.size < MOST_AHEAD) await compute();
      else break;
      await turn(); // what the other thread answered comes in
    }
    if (row === 0) await opened;
    const part = await coming.get(row)!;
    coming.delete(row);
    here.delete(row);
    yield part;
    rooms.push(wholeOf(part.planes, samples.type));
  }
}

/** Whether another reader finds in a file what was computed. @param thread looks at half of its strips; null: this one looks at all */
export async function isFoundByTwo(path: string, what: StripsOfTiff, thread: RasterThread | null): Promise<boolean> {
  if (!thread) return isFoundIn(path, what);
  const other = thread.ask('checked', { disk: diskSettings(), check: { path, what, share: { part: 1, of: 2 } } });
  other.catch(() => undefined); // thrown below
  const own = await isFoundIn(path, what, { part: 0, of: 2 });
  return own && (await other).isFound;
}

/** All of the memory of which planes are the beginning. */
function wholeOf(planes: readonly Numbers[], type: WarpOrder['samples']['type']): Numbers[] {
  const kind = numbersFor(type, 0).constructor as new (buffer: ArrayBuffer) => Numbers;
  return planes.map((plane) => new kind(plane.buffer));
}
