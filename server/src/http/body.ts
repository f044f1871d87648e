import { existsSync } from 'node:fs';
import { setImmediate as aTurn } from 'node:timers/promises';
import { MessageChannel, receiveMessageOnPort, Worker, type MessagePort } from 'node:worker_threads';
import { PayloadTooLargeException } from '@nestjs/common';
import { json, text, type NextFunction, type Request, type Response } from 'express';
import type Joi from 'joi';
import { ProblemError } from '@rootmap/core';
import { LARGE_REQUESTS } from '@rootmap/core/contract';
import { Joined } from '@rootmap/engine/pieces';
import type { Told } from './check-body.js';

const ORDINARY_BYTES = 256 << 10;
const LARGEST_BYTES = 8 << 20;
const LARGEST_MEMORY_MB = 512;

/** A body that is too large to be read at once without holding everyone up: `JoiPipe` has it read and checked in a thread. */
export class LargeBody {
  constructor(readonly text: string) {}
}

/** JSON bodies: what is ordinary at once, what is larger as text. */
export function readBody() {
  const ordinary = json({ limit: ORDINARY_BYTES, strict: true });
  const large = text({ type: 'application/json', limit: LARGEST_BYTES });
  return (request: Request, response: Response, next: NextFunction): void => {
    const length = Number(request.headers['content-length'] ?? (request.headers['transfer-encoding'] ? Infinity : 0));
    if (length <= ORDINARY_BYTES && !request.headers['content-encoding']) return ordinary(request, response, next);
    large(request, response, (error?: unknown) => {
      if (typeof request.body === 'string') request.body = new LargeBody(request.body);
      next(error);
    });
  };
}

const script = (): URL => {
  const bundled = new URL('./check-body.js', import.meta.url);
  return existsSync(bundled) ? bundled : new URL('./http/check-body.js', import.meta.url);
};

/** The value of a large body, checked against a schema of `LARGE_REQUESTS`. Throws a `ProblemError`. */
export async function checkLarge<T>(schema: Joi.ObjectSchema<T>, { text }: LargeBody): Promise<T> {
  const name = Object.keys(LARGE_REQUESTS).find((n) => LARGE_REQUESTS[n] === schema);
  if (name === undefined) throw new PayloadTooLargeException(`requests of this kind have at most ${ORDINARY_BYTES >> 10} kB`);
  const { port1: told, port2: port } = new MessageChannel();
  const worker = new Worker(script(), {
    workerData: { name, text, port },
    transferList: [port],
    resourceLimits: { maxOldGenerationSizeMb: LARGEST_MEMORY_MB },
  });
  await new Promise((resolve, reject) => {
    worker.once('error', reject);
    worker.once('exit', resolve);
  });
  let joined: Joined | null = null;
  // One after the other, each in a turn of its own: a port would tell them all in one.
  for (let part = next(told); part; part = next(told)) {
    if ('problem' in part) throw new ProblemError(part.problem);
    if ('outline' in part) joined = new Joined(part);
    else joined!.add(part);
    await aTurn();
  }
  return joined!.value as T;
}

const next = (port: MessagePort): Told | undefined => receiveMessageOnPort(port)?.message as Told | undefined;
