import { seeded } from './random.js';

export type Position = readonly [number, number];

/** The bay, in metres of UTM zone 24N: far out in the ocean, where no real land contradicts it. */
export const BAY = { minx: 478_000, miny: 4_868_000, maxx: 487_000, maxy: 4_874_000 } as const;

/** Noise between −1 and 1 of corners a unit apart, smoothly in between; the same for every run. */
function latticeNoise(seed: number): (x: number, y: number) => number {
  const random = seeded(seed);
  const corners = Float64Array.from({ length: 4096 }, () => random() * 2 - 1);
  const at = (i: number, j: number): number => corners[((i & 63) << 6) | (j & 63)]!;
  const eased = (t: number): number => t * t * (3 - 2 * t);
  return (x, y) => {
    const [i, j] = [Math.floor(x), Math.floor(y)];
    const [a, b] = [eased(x - i), eased(y - j)];
    const [low, high] = [at(i, j) * (1 - a) + at(i + 1, j) * a, at(i, j + 1) * (1 - a) + at(i + 1, j + 1) * a];
    return low * (1 - b) + high * b;
  };
}
const noise = latticeNoise(20_260_311);
/** Noise of several sizes, each half as large and half as strong as the one before. */
function rough(x: number, y: number, octaves: number): number {
  let [sum, strength, size] = [0, 0.5, 1];
  for (let k = 0; k < octaves; k++) {
    sum += strength * noise(x * size + k * 17.3, y * size - k * 9.1);
    strength /= 2;
    size *= 2;
  }
  return sum;
}

/** Islands: kilometres east and north of the bay's corner, and how far they reach. */
const ISLANDS: readonly (readonly [number, number, number])[] = [
  [1.35, 1.95, 0.42],
  [1.95, 2.45, 0.16],
  [7.45, 2.75, 0.5],
  [8.15, 3.3, 0.2],
  [6.65, 2.0, 0.22],
  [4.45, 0.8, 0.19],
];
/** The middle of the deep that leads in from the open sea. */
const DEEP: readonly Position[] = [
  [9.4, -0.2],
  [6.6, 1.1],
  [4.9, 2.3],
  [3.7, 3.6],
  [3.45, 4.7],
];

const bump = (from: number, reach: number): number => Math.exp(-((from / reach) ** 2));

function toLine([x, y]: Position, line: readonly Position[]): number {
  let least = Infinity;
  for (let i = 1; i < line.length; i++) {
    const [[ax, ay], [bx, by]] = [line[i - 1]!, line[i]!];
    const [dx, dy] = [bx - ax, by - ay];
    const t = Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy)));
    least = Math.min(least, Math.hypot(x - ax - t * dx, y - ay - t * dy));
  }
  return least;
}

/** Kilometres inland, roughly; below zero: out at sea. A coast in the north with an inlet and a headland, and islands. */
function inland(u: number, v: number): number {
  const coast = 4.35 + 0.45 * Math.sin(0.8 * u + 0.3) + 1.15 * bump(u - 3.45, 0.55) - 0.95 * bump(u - 5.55, 0.6) - 0.5 * bump(u - 0.6, 0.5);
  const along = v - coast;
  let s = along + 0.75 * rough(u * 1.1, v * 1.1, 6) * Math.exp(-((along / 0.9) ** 2));
  for (const [x, y, reach] of ISLANDS) {
    const far = Math.hypot(u - x, v - y);
    if ((reach * 2 - far) * 0.9 < s) continue; // its outline reaches that far at most
    s = Math.max(s, (reach * (1 + 1.1 * rough(u * 2.6 + 5, v * 2.6, 5)) - far) * 0.9);
  }
  return s;
}

/** Metres above chart datum at a position of the bay; below zero: sea bed. Everything in the demo that lies on the ground follows it. */
export function heightAt(x: number, y: number): number {
  const [u, v] = [(x - BAY.minx) / 1000, (y - BAY.miny) / 1000];
  const s = inland(u, v);
  const grain = rough(u * 1.7, v * 1.7, 6);
  if (s > 0) return 105 * (1 - Math.exp(-s / 0.55)) * (0.75 + 0.7 * grain) + 0.4;
  const shelf = -27 * (1 - Math.exp(s / 1.15)) + 5 * grain * Math.min(1, -s / 0.35);
  const channel = 10 * bump(toLine([u, v], DEEP), 0.17) * Math.min(1, -s / 0.12);
  return Math.min(-0.1, shelf - channel);
}
/** Metres of water; 0 on land. */
export const depthAt = ([x, y]: Position): number => Math.max(0, -heightAt(x, y));

/** How the ground rises there, metres per metre: to the east, to the north. */
export function gradientAt([x, y]: Position, step = 30): Position {
  const [dx, dy] = [heightAt(x + step, y) - heightAt(x - step, y), heightAt(x, y + step) - heightAt(x, y - step)];
  return [dx / (2 * step), dy / (2 * step)];
}

/** The ground as rows of a raster, the first one in the north; each value at the middle of its pixel. */
export function heightsOf(width: number, height: number, pixel: number, left: number = BAY.minx, top: number = BAY.maxy): Float32Array {
  const out = new Float32Array(width * height);
  for (let row = 0; row < height; row++)
    for (let col = 0; col < width; col++) out[row * width + col] = heightAt(left + (col + 0.5) * pixel, top - (row + 0.5) * pixel);
  return out;
}
