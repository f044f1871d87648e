import { linkHorizontal } from 'd3-shape';
import { END_X, GATE_X, GHOST_X, LANE_X, LEFT } from './diagram-geometry.js';
import type { Thread } from './layout-diagram.js';

type Spot = [number, number];
const curve = linkHorizontal<{ source: Spot; target: Spot }, Spot>()
  .source((d) => d.source)
  .target((d) => d.target);
const from = (source: Spot, target: Spot): string => curve({ source, target }) ?? '';
/** A second curve goes on where the first one ends. */
const onward = (path: string): string => path.replace(/^M[^C]*/, '');

/** How far before its end a tether stops that does not hold. */
const APART = 12;
export const endOf = (t: Thread): number => (t.toGhost ? GHOST_X : END_X);

/**
 * The path of a tether: to a ghost right away; to data straight past the ghosts, then together with others of its folder, then to its own.
 * @param hasGhosts there are some to go past
 */
export function threadPath(t: Thread, hasGhosts: boolean): string {
  const apart = t.bond.state === 'adrift' || t.bond.state === 'absent' ? APART : 0;
  const end: Spot = [endOf(t) - apart, t.toY];
  if (t.toGhost) return from([LEFT, t.fromY], end);
  const start: Spot = [hasGhosts ? LANE_X : LEFT, t.fromY];
  const lead = hasGhosts ? `M${LEFT},${t.fromY}H${LANE_X}` : `M${LEFT},${t.fromY}`;
  if (t.gateY === null || t.gateY === t.toY) return lead + onward(from(start, end));
  const gate: Spot = [GATE_X, t.gateY];
  return lead + onward(from(start, gate)) + onward(from(gate, end));
}
