import { partsOf } from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import type { PlannedMove } from '../changes/change.js';

export interface Pair {
  readonly from: string;
  readonly to: string;
}

const depthOf = (path: string): number => partsOf(path).length;

/** All renames: from the deepest up, so that what is in a folder has its new name before the folder has. */
export function orderMoves(pairs: readonly Pair[]): PlannedMove[] {
  const depths = [...new Set(pairs.map((p) => depthOf(p.from)))].sort((a, b) => b - a);
  return depths.flatMap((depth) => orderLevel(pairs.filter((p) => depthOf(p.from) === depth)));
}

/**
 * Renames in an order in which no target is still taken by another that is to go away. Names that go round in a circle
 * take a detour.
 */
function orderLevel(pairs: readonly Pair[]): PlannedMove[] {
  const waiting = new Map(pairs.map((p) => [p.from, p.to]));
  const steps: PlannedMove[] = [];
  const last: PlannedMove[] = [];
  while (waiting.size > 0) {
    const free = [...waiting].filter(([, to]) => !waiting.has(to));
    if (free.length > 0) {
      for (const [from, to] of free) {
        steps.push({ kind: 'move', from, path: to });
        waiting.delete(from);
      }
      continue;
    }
    const [from, to] = [...waiting][0]!; // all that is left goes round in circles: one steps aside
    const aside = stepAside(from, last.length);
    steps.push({ kind: 'move', from, path: aside });
    last.push({ kind: 'move', from: aside, path: to });
    waiting.delete(from);
  }
  return [...steps, ...last];
}

const stepAside = (path: string, n: number): string => join(dirname(path), `.rootmap-aside-${n}`);
