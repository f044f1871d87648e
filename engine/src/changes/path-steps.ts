import { joined } from '@rootmap/core';
import { dirname } from '../disk/native-path.js';
import { TRASH } from './staged-name.js';

/** A path and the folders that it is in, from itself up. */
export function* selfAndAbove(path: string): Generator<string> {
  for (let at = path; ; at = dirname(at)) {
    yield at;
    if (at === '.' || at === dirname(at)) return;
  }
}

/** Whether something is in the trash of a root. */
export const isInTrash = (path: string): boolean => joined([path, '']).includes(joined(['', ...TRASH, '']));

/** Which steps of a list concern a path, without looking through them all: those of the path itself and of folders around it. */
export class PathSteps {
  private readonly at = new Map<string, number[]>();

  /** Indexes come in rising order. */
  add(path: string, index: number): void {
    const known = this.at.get(path);
    if (known) known.push(index);
    else this.at.set(path, [index]);
  }

  /** The first step from `from` on; -1: none. */
  next(path: string, from: number): number {
    let found = -1;
    for (const at of selfAndAbove(path)) {
      const index = this.at.get(at)?.find((i) => i >= from);
      if (index !== undefined && (found < 0 || index < found)) found = index;
    }
    return found;
  }

  /** The last step before `before`; -1: none. */
  last(path: string, before: number): number {
    let found = -1;
    for (const at of selfAndAbove(path)) found = Math.max(found, this.at.get(at)?.findLast((i) => i < before) ?? -1);
    return found;
  }
}
