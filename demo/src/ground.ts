import { isolines } from './isolines.js';
import { between, pick, type Random } from './random.js';
import { BAY, depthAt, gradientAt, heightAt, type Position } from './terrain.js';

/** Metres of water between which something lies; below zero: on land. */
export type Band = readonly [least: number, most: number];
/** Where eelgrass finds light, and waves do not tear it out. */
export const GRASS: Band = [0.8, 7.5];
export const SEA: Band = [0.6, 60];

const round = (v: number): number => Math.round(v * 100) / 100;
export const rounded = ([x, y]: Position): Position => [round(x), round(y)];
const MARGIN = 120;
const isInBay = ([x, y]: Position, margin = MARGIN): boolean =>
  x > BAY.minx + margin && x < BAY.maxx - margin && y > BAY.miny + margin && y < BAY.maxy - margin;
const isIn = ([least, most]: Band, at: Position): boolean => {
  const depth = -heightAt(...at);
  return depth >= least && depth <= most;
};

/** Somewhere in the bay where the water is so deep. */
export function somewhere(random: Random, band: Band = SEA): Position {
  for (;;) {
    const at: Position = [between(random, BAY.minx + MARGIN, BAY.maxx - MARGIN), between(random, BAY.miny + MARGIN, BAY.maxy - MARGIN)];
    if (isIn(band, at)) return rounded(at);
  }
}
/** Likewise, near one of some positions. */
export function near(random: Random, spots: readonly Position[], reach: number, band: Band = SEA): Position {
  for (let tries = 0; tries < 400; tries++) {
    const [x, y] = pick(random, spots);
    const at: Position = [x + between(random, -reach, reach), y + between(random, -reach, reach)];
    if (isInBay(at) && isIn(band, at)) return rounded(at);
  }
  return somewhere(random, band);
}
/** So many positions, none nearer to another than that while there is room. */
export function spread(count: number, distance: number, next: () => Position): Position[] {
  const out: Position[] = [];
  for (let tries = 0; out.length < count; tries++) {
    const at = next();
    const gap = distance * Math.max(0.05, 1 - tries / (count * 40));
    if (out.every(([x, y]) => Math.hypot(x - at[0], y - at[1]) >= gap)) out.push(at);
  }
  return out;
}

const CORNERS = 32;
/** A patch that grows from its middle until the water is too deep, too shallow, or it is large enough. A ring, clockwise, closed. */
export function patch(random: Random, [x, y]: Position, radius: number, band: Band): Position[] {
  const [a, b, turn] = [between(random, 0.1, 0.3), between(random, 0.05, 0.15), random() * 6];
  const ring: Position[] = [];
  for (let i = 0; i < CORNERS; i++) {
    const angle = -(i / CORNERS) * 2 * Math.PI;
    const most = radius * (0.8 + a * Math.sin(2 * angle + turn) + b * Math.sin(5 * angle - turn) + between(random, -0.04, 0.04));
    let r = Math.min(12, most);
    for (; r + 12 < most; r += 12) {
      const at: Position = [x + Math.cos(angle) * (r + 12), y + Math.sin(angle) * (r + 12)];
      if (!isInBay(at, 10) || !isIn(band, at)) break;
    }
    ring.push(rounded([x + Math.cos(angle) * r, y + Math.sin(angle) * r]));
  }
  return [...ring, ring[0]!];
}

/** A circle of a radius, clockwise, closed. */
export function circle([x, y]: Position, radius: number, corners = 36): Position[] {
  const ring = Array.from({ length: corners }, (_, i): Position => {
    const angle = -(i / corners) * 2 * Math.PI;
    return rounded([x + Math.cos(angle) * radius, y + Math.sin(angle) * radius]);
  });
  return [...ring, ring[0]!];
}

/** A line of so many positions from one, up the sea bed to the shore or down to the deep. */
export function downhill(from: Position, step: number, count: number): Position[] {
  const line: Position[] = [rounded(from)];
  let [x, y] = from;
  const [gx, gy] = gradientAt(from, 120);
  const length = Math.hypot(gx, gy) || 1;
  for (let i = 1; i < count; i++) {
    [x, y] = [x - (gx / length) * step, y - (gy / length) * step];
    line.push(rounded([x, y]));
  }
  return line;
}

/** Positions of a line at even distances. */
export function along(line: readonly Position[], count: number): Position[] {
  const lengths = line.map((p, i) => (i === 0 ? 0 : Math.hypot(p[0] - line[i - 1]![0], p[1] - line[i - 1]![1])));
  const whole = lengths.reduce((a, b) => a + b, 0);
  return Array.from({ length: count }, (_, k): Position => {
    let left = (whole * (k + 0.5)) / count;
    let i = 1;
    while (i < line.length - 1 && left > lengths[i]!) left -= lengths[i++]!;
    const t = left / (lengths[i] || 1);
    const [a, b] = [line[i - 1]!, line[i]!];
    return rounded([a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t]);
  });
}

let shore: Position[] | null = null;
const coast = (): Position[] =>
  (shore ??= isolines(0)
    .flat()
    .filter((at) => isInBay(at)));
/** Positions on the coast, as far from one another as can be; the first is that nearest to one. */
export function onCoast(count: number, nearest: Position): Position[] {
  const all = coast();
  const from = ([ax, ay]: Position, [bx, by]: Position): number => Math.hypot(ax - bx, ay - by);
  const first = all.reduce((a, b) => (from(b, nearest) < from(a, nearest) ? b : a));
  const out = [first];
  const least = all.map((at) => from(at, first));
  while (out.length < count) {
    const at = all[least.indexOf(Math.max(...least))]!;
    out.push(at);
    all.forEach((other, i) => (least[i] = Math.min(least[i]!, from(other, at))));
  }
  return out;
}

/** Lanes up and down over a rectangle, as a boat surveys it; each a line that drifts a little, cut where it gets shallow. */
export function lanes(random: Random, count: number, west: number, east: number, north: number, gap: number, direction = 0): Position[][] {
  return Array.from({ length: count }, (_, k): Position[] => {
    const y = north - k * gap;
    const line = Array.from({ length: 26 }, (__, i): Position => {
      const x = west + ((east - west) * i) / 25;
      const [dx, dy] = [x - west, y - north];
      const [c, s] = [Math.cos(direction), Math.sin(direction)];
      return rounded([west + dx * c - dy * s, north + dx * s + dy * c + between(random, -7, 7)]);
    }).filter((at) => isInBay(at, 0) && depthAt(at) > 1.2);
    return k % 2 === 0 ? line : line.reverse();
  }).filter((line) => line.length > 1);
}
