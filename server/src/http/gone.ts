import type { Response } from 'express';

/** Ends the work when nobody waits for its answer any more. */
export function gone(response: Response): AbortSignal {
  const controller = new AbortController();
  response.once('close', () => response.writableFinished || controller.abort());
  return controller.signal;
}
