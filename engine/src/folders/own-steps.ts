import { isInside, below } from '../disk/native-path.js';
import type { StepRecord } from '../changes/change.js';

/** A step of a change of the app's own, as far as it concerns which file stands where. */
export type OwnStep = Pick<StepRecord, 'kind' | 'path'> & { readonly source?: string };

/**
 * What is known of files follows what the app itself did to them: what it moved is known at its new place, what it deleted or
 * wrote is known no more, and is looked at as something new.
 * @param known by path from the root; changed in place
 */
export function followOwn(known: Record<string, unknown>, steps: readonly OwnStep[], root: string): void {
  const take = (path: string | null): [rest: string, known: unknown][] =>
    path === null
      ? []
      : Object.keys(known)
          .filter((p) => isInside(path, p))
          .map((p) => {
            const entry = known[p];
            delete known[p];
            return [p.slice(path.length), entry];
          });
  for (const { kind, path, source } of steps) {
    const to = below(root, path);
    if (kind === 'move') {
      const taken = take(below(root, source ?? ''));
      if (to !== null && !to.startsWith('.rootmap/')) for (const [rest, entry] of taken) known[to + rest] = entry;
    } else if (kind !== 'folder' && kind !== 'drop-folder' && kind !== 'mode') take(to);
  }
}
