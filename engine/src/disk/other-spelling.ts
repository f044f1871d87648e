import { foldName, ProblemError } from '@rootmap/core';
import { basename, dirname } from './native-path.js';
import { readdirSync } from './files.js';

/**
 * Throws `bad-name` where something of this name is there in other letters: on Windows and macOS the two would be one.
 * @param path where nothing stands yet
 */
export function refuseOtherSpelling(path: string): void {
  let names: readonly string[];
  try {
    names = readdirSync(dirname(path));
  } catch {
    return; // the folder is not there yet, or is told of by whoever writes into it
  }
  const name = basename(path);
  const other = names.find((n) => n !== name && foldName(n) === foldName(name));
  if (other !== undefined)
    throw new ProblemError({ code: 'bad-name', name, why: `${other} is there, and on Windows and macOS the two would be one` });
}
