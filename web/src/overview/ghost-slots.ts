import type { LayerView } from '@rootmap/core/contract';

export interface GhostNode {
  readonly id: string;
  readonly y: number;
  readonly height: number;
  readonly label: string;
  readonly layers: readonly LayerView[];
}

/** Room for two lines of text, and for the ends of tethers. */
const LEAST = 42;
export const GHOST_ROW = 13;
const APART = 8;
/** Half the height that a tether keeps free where it passes. */
const PASSING = 6;

interface Slot {
  readonly from: number;
  readonly to: number;
}

/**
 * One ghost for each recorded folder, beside the layers that it belongs to; where it would cover a tether that passes, in the nearest gap
 * between those, and never over another ghost.
 * @param heightOf height of a layer's row
 * @param passing heights at which tethers pass
 */
export function layoutGhosts(layers: readonly LayerView[], heightOf: (l: LayerView) => number, passing: readonly number[]): GhostNode[] {
  const byFolder = new Map<string, LayerView[]>();
  for (const l of layers) {
    const key = l.recordedFolder ?? 'no source recorded';
    const list = byFolder.get(key);
    if (list) list.push(l);
    else byFolder.set(key, [l]);
  }
  const wanted = [...byFolder].map(([label, list]) => {
    const ys = [...new Set(list.map(heightOf))];
    return { label, list, centre: ys.reduce((a, b) => a + b, 0) / ys.length, height: Math.max(LEAST, 12 + ys.length * GHOST_ROW) };
  });
  let free = gapsBetween(passing);
  const ghosts = wanted
    .sort((a, b) => b.height - a.height || a.centre - b.centre) // the large ones find least room
    .map(({ label, list, centre, height }): GhostNode => {
      const y = nearestRoom(free, centre - height / 2, height);
      free = free.flatMap((slot) => without(slot, { from: y - APART, to: y + height + APART }));
      return { id: `ghost:${label}`, y, height, label, layers: list };
    });
  return ghosts.sort((a, b) => a.y - b.y);
}

function gapsBetween(passing: readonly number[]): Slot[] {
  const ys = [...new Set(passing)].sort((a, b) => a - b);
  return [...ys, Infinity].map((y, i) => ({ from: i === 0 ? 0 : ys[i - 1]! + PASSING, to: y - PASSING }));
}

function nearestRoom(free: readonly Slot[], wanted: number, height: number): number {
  let best = Infinity;
  for (const { from, to } of free) {
    if (to - from < height) continue;
    const y = Math.min(Math.max(wanted, from), to - height);
    if (Math.abs(y - wanted) < Math.abs(best - wanted)) best = y;
  }
  return best;
}

const without = (slot: Slot, taken: Slot): Slot[] =>
  taken.to <= slot.from || taken.from >= slot.to
    ? [slot]
    : [
        { from: slot.from, to: taken.from },
        { from: taken.to, to: slot.to },
      ].filter((s) => s.to > s.from);
