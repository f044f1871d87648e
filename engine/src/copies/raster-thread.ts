import { existsSync } from 'node:fs';
import { Worker } from 'node:worker_threads';
import { ProblemError } from '@rootmap/core';
import type { Numbers } from '../export/numbers.js';
import { NodataIsTaken } from './raster-samples.js';
import type { RasterAsk, RasterReply } from './raster-worker.js';

/** Fewer pixels are computed in less time than a thread takes to start. */
const WORTH_A_THREAD = 1_000_000;
const SCRIPT = new URL('raster-worker.js', import.meta.url);

/** The second thread of a raster copy, which answers one thing after the other. */
export class RasterThread {
  private readonly worker: Worker;
  private readonly waiting: { readonly resolve: (reply: RasterReply) => void; readonly reject: (error: Error) => void }[] = [];

  /** Why it answers no more. */
  private ended: string | null = null;

  private constructor(private readonly file: string) {
    this.worker = new Worker(SCRIPT)
      .on('message', (reply: RasterReply) => this.take(reply))
      .on('error', (error) => this.fail(error.message))
      .on('exit', () => this.fail('its thread ended'));
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
    if (this.ended !== null) throw this.failure(this.ended);
    const reply = await new Promise<RasterReply>((resolve, reject) => {
      this.worker.postMessage(
        request,
        room.map((plane) => plane.buffer),
      );
      this.waiting.push({ resolve, reject }); // what could not be posted throws, and is not waited for
    });
    if (reply.is === 'taken') throw new NodataIsTaken();
    if (reply.is === 'problem') throw new ProblemError(reply.problem);
    if (reply.is !== is) throw this.failure(reply.is === 'failed' ? reply.why : 'its thread answered something else');
    return reply as Extract<RasterReply, { is: K }>;
  }

  async end(): Promise<void> {
    await this.worker.terminate();
  }

  private take(reply: RasterReply): void {
    this.waiting.shift()?.resolve(reply);
  }

  private fail(why: string): void {
    this.ended ??= why;
    for (const { reject } of this.waiting.splice(0)) reject(this.failure(why));
  }

  private failure(why: string): ProblemError {
    return new ProblemError({ code: 'failed', what: `Copying ${this.file}`, why });
  }
}
