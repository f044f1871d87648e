import { readdirSync, renameSync, statSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { ProblemError } from '@rootmap/core';
import { programsHolding } from './held-by.js';
import { FLAVOUR, join } from './native-path.js';

/** On Windows a file that another program has open cannot be renamed, replaced or removed; most let go of it in a moment. */
const IS_HELD = new Set(['EBUSY', 'EPERM', 'EACCES']);
const FIRST_PAUSE_MS = 10;
const LONGEST_PAUSE_MS = 250;
const PATIENCE_MS = 2000;
/** Files of a folder that are asked whether it is they that are held. */
const MOST_ASKED = 2000;

const codeOf = (error: unknown): string => (error as { code?: string } | null)?.code ?? '';

/** What failed since another program has the file open. */
export const isHeldByOther = (error: unknown): boolean => IS_HELD.has(codeOf(error));

/**
 * Does something to entries of a disk, again and again for two seconds where another program is in the way. Throws `busy` with
 * the file that is held, where one is found, and the programs that hold it, where the system tells; else as the system does.
 *
 * @param paths what is renamed, replaced or removed
 * @param isPatient whether this system has such locks; a test says so on one that has none
 */
export async function patiently<T>(
  paths: readonly string[],
  act: () => Promise<T>,
  isPatient = FLAVOUR === 'win32',
  askWho = programsHolding,
): Promise<T> {
  const startedMs = performance.now();
  for (let pauseMs = FIRST_PAUSE_MS; ; pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS)) {
    try {
      return await act();
    } catch (error) {
      if (!isPatient || !isHeldByOther(error)) throw error;
      if (performance.now() - startedMs + pauseMs > PATIENCE_MS) {
        const held = paths.map((path) => heldIn(path)).find((path) => path !== null);
        throw held ? new ProblemError({ code: 'busy', path: held, by: await askWho(held) }) : error;
      }
      await wait(pauseMs);
    }
  }
}

/** The file that another program has open, at a path or below it. Null: none that shows. */
function heldIn(path: string): string | null {
  const queue = [path];
  for (let asked = 0; queue.length > 0 && asked < MOST_ASKED; asked++) {
    const at = queue.shift()!;
    try {
      if (statSync(at).isDirectory()) queue.push(...readdirSync(at).map((name) => join(at, name)));
      else renameSync(at, at); // asks for the right to rename, and changes nothing
    } catch (error) {
      if (codeOf(error) === 'EBUSY') return at; // a sharing violation, as libuv names it; what may not be looked at is not said to be held
    }
  }
  return null;
}
