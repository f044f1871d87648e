import { existsSync } from 'node:fs';
import { ProblemError } from '@rootmap/core';
import type { Numbers } from '../export/numbers.js';
import { AskedThread } from '../threads/asked-thread.js';
import { NodataIsTaken } from './raster-samples.js';
import type { RasterAsk, RasterReply } from './raster-worker.js';

/** Fewer pixels are computed in less time than a thread takes to start. */
const WORTH_A_THREAD = 1_000_000;
const SCRIPT = new URL('raster-worker.js', import.meta.url);

/** The second thread of a raster copy. */
export class RasterThread {
  private readonly thread: AskedThread<RasterAsk, RasterReply>;

  private constructor(private readonly file: string) {
    this.thread = new AskedThread(SCRIPT, (why) => this.failure(why));
  }

  /** Null: it would not be worth it, or its script does not stand beside this one. @param file of which it is told where something fails */
  static for({ width, height }: { readonly width: number; readonly height: number }, file: string): RasterThread | null {
    return width * height >= WORTH_A_THREAD && existsSync(SCRIPT) ? new RasterThread(file) : null;
  }

  /** Throws `NodataIsTaken`, and what went wrong. @param room memory that goes along, and is not here any more */
  async ask<K extends RasterReply['is']>(
    is: K,
    request: RasterAsk,
    room: readonly Numbers[] = [],
  ): Promise<Extract<RasterReply, { is: K }>> {
    const reply = await this.thread.ask(
      request,
      room.map((plane) => plane.buffer),
    );
    if (reply.is === 'taken') throw new NodataIsTaken();
    if (reply.is === 'problem') throw new ProblemError(reply.problem);
    if (reply.is !== is) throw this.failure(reply.is === 'failed' ? reply.why : 'its thread answered something else');
    return reply as Extract<RasterReply, { is: K }>;
  }

  end(): Promise<void> {
    return this.thread.end();
  }

  private failure(why: string): ProblemError {
    return new ProblemError({ code: 'failed', what: `Copying ${this.file}`, why });
  }
}
