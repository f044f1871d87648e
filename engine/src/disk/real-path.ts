import { realpathSync } from 'node:fs';
import { foldName } from '@rootmap/core';
import { fromNative } from './native-path.js';

/** Only the system itself knows how a disk spells names that it does not tell apart; Linux mostly tells them apart, and Node is quicker. */
const asksTheSystem = process.platform !== 'linux';

/**
 * Where a path leads in the end, links followed, as the disk spells it: also letters in their case, and the drive or share behind
 * a letter that stands for another. Throws as the system does.
 */
export const realPath = (path: string): string => (asksTheSystem ? fromNative(realpathSync.native(path)) : realpathSync(path));

/** A path that somebody named, in the letters that the disk has for it; as it was named where a link is on the way, or nothing stands there. */
export function asSpelled(path: string): string {
  if (!asksTheSystem) return path;
  try {
    const real = realPath(path);
    return foldName(real) === foldName(path) ? real : path;
  } catch {
    return path; // whoever opens it will say what is wrong
  }
}
