import type { Resampling } from '@rootmap/core';
import type { PixelSource } from './pixel-source.js';
import type { PixelWindow } from './pixel-window.js';

/** Places in a raster: column and row as fractions, the middle of the first pixel being 0.5; negative or NaN: outside. */
export interface Places {
  readonly cols: Float64Array;
  readonly rows: Float64Array;
}
/** What lies in the part of a raster that its places need. */
export interface Held {
  readonly box: PixelWindow;
  /** Row by row; NaN where there is no value. */
  readonly values: Float64Array;
}

/** Pixels of a raster that one which is made stands for: across and down. */
export type Step = readonly [number, number];
const ONE: Step = [1, 1];

/** Where a picture shows several pixels of the raster as one, a reduced picture serves, and nothing is put between. */
const FINEST_STEP = 1.5;
export const isResampled = (resampling: Resampling, step: number): resampling is Exclude<Resampling, 'nearest'> =>
  resampling !== 'nearest' && step < FINEST_STEP;

/** Pixels that are read at once; where a picture is torn far apart, as at the edge of a projection, the nearest ones do. */
const MOST_READ = 4_000_000;

/**
 * Numbers between the pixels of a raster, as `interpolate` has them.
 * @param read one number for each position; NaN where there is none
 */
export async function resampled(
  size: Pick<PixelSource, 'width' | 'height'>,
  places: Places,
  resampling: Exclude<Resampling, 'nearest'>,
  read: (cols: Int32Array, rows: Int32Array) => Promise<Float64Array>,
): Promise<Float64Array> {
  const { cols, rows } = places;
  const out = new Float64Array(cols.length).fill(NaN);
  const box = windowFor(boxOf(places, size), size, reachOf(resampling));
  if (!box) return out;
  const { col, row, width, height } = box;
  if (width * height > MOST_READ)
    return read(
      Int32Array.from(cols, (c) => (c >= 0 ? Math.floor(c) : -1)),
      Int32Array.from(rows, (r) => Math.floor(r)),
    );
  // All pixels that any place needs, once.
  const values = await read(
    Int32Array.from({ length: width * height }, (_, i) => col + (i % width)),
    Int32Array.from({ length: width * height }, (_, i) => row + Math.floor(i / width)),
  );
  interpolate({ box, values }, places, resampling, ONE, { values: out, first: 0, width: cols.length, stride: cols.length });
  return out;
}

/** How far from a place the pixels lie that count. */
export const reachOf = (resampling: Resampling, step: Step = ONE): number =>
  resampling === 'nearest' ? 0 : Math.ceil(kernelReach(resampling) * Math.max(1, ...step)) + 1;
const kernelReach = (resampling: Resampling): number => (resampling === 'cubic' ? 2 : 1);

interface Sides {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** The part of a raster that places within a box need; null: none of them lies in it. */
export function windowFor(box: Sides, { width, height }: Pick<PixelSource, 'width' | 'height'>, reach: number): PixelWindow | null {
  const [col, row] = [Math.max(0, Math.floor(box.left) - reach), Math.max(0, Math.floor(box.top) - reach)];
  const [right, bottom] = [Math.min(width, Math.floor(box.right) + reach + 1), Math.min(height, Math.floor(box.bottom) + reach + 1)];
  return col < right && row < bottom ? { col, row, width: right - col, height: bottom - row } : null;
}

/** Around the places that lie in a raster. */
function boxOf({ cols, rows }: Places, { width, height }: Pick<PixelSource, 'width' | 'height'>): Sides {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let n = 0; n < cols.length; n++) {
    const c = cols[n]!;
    const r = rows[n]!;
    if (!(c >= 0 && c < width && r >= 0 && r < height)) continue;
    if (c < left) left = c;
    if (c > right) right = c;
    if (r < top) top = r;
    if (r > bottom) bottom = r;
  }
  return { left, right, top, bottom };
}

/** Where numbers are put: rows of a width, of an array whose rows are `stride` apart, from `first` on. */
export interface Room {
  readonly values: Float64Array;
  readonly first: number;
  readonly width: number;
  readonly stride: number;
}

/**
 * Numbers between pixels: of the nearest pixel, bilinear of four, or cubic of sixteen (Keys, Cubic convolution interpolation for digital
 * image processing, 1981, with a = −0.5). Where the nearest has no value, there is none; where another has none, the four count, as far
 * as they have one. Where one that is made stands for several, the kernel is as much wider (common practice of several programs).
 * @param room for one for each place; what has none is left as it is
 */
export function interpolate({ box, values }: Held, places: Places, resampling: Resampling, step: Step, room: Room): void {
  const { cols, rows } = places;
  const { col, row, width, height } = box;
  const isWide = isWiderKernel(resampling, step);
  const out = room.values;
  let n = 0;
  for (let start = room.first; n < cols.length; start += room.stride)
    for (let to = start; to < start + room.width; to++, n++) {
      const x = cols[n]! - col;
      const y = rows[n]! - row;
      if (!(x >= 0 && x < width && y >= 0 && y < height)) continue;
      const nearest = values[Math.floor(y) * width + Math.floor(x)]!;
      if (Number.isNaN(nearest)) continue;
      let value = NaN;
      if (resampling === 'nearest') value = nearest;
      else if (isWide) value = wide(box, values, x, y, resampling, step);
      else if (resampling === 'cubic') value = ofSixteen(box, values, x, y);
      if (Number.isNaN(value)) value = ofFour(box, values, x, y);
      out[to] = Number.isNaN(value) ? nearest : value;
    }
}
const WIDER_FROM = 1 / 0.95;
/** One that is made stands for several of the source. */
export const isWiderKernel = (resampling: Resampling, step: Step): boolean => resampling !== 'nearest' && Math.max(...step) > WIDER_FROM;

function ofFour({ width, height }: PixelWindow, values: Float64Array, x: number, y: number): number {
  const left = Math.floor(x - 0.5);
  const top = Math.floor(y - 0.5);
  const dx = x - 0.5 - left;
  const dy = y - 0.5 - top;
  if (left >= 0 && top >= 0 && left + 1 < width && top + 1 < height) {
    const at = top * width + left;
    const value =
      (values[at]! * (1 - dx) + values[at + 1]! * dx) * (1 - dy) + (values[at + width]! * (1 - dx) + values[at + width + 1]! * dx) * dy;
    if (!Number.isNaN(value)) return value;
  }
  let [sum, total] = [0, 0];
  for (let k = 0; k < 4; k++) {
    const [c, r] = [left + (k & 1), top + (k >> 1)];
    if (c < 0 || r < 0 || c >= width || r >= height) continue;
    const value = values[r * width + c]!;
    if (Number.isNaN(value)) continue;
    const weight = (k & 1 ? dx : 1 - dx) * (k >> 1 ? dy : 1 - dy);
    sum += value * weight;
    total += weight;
  }
  return total > 0 ? sum / total : NaN;
}

const A = -0.5;
/** Keys' kernel at a distance of up to one pixel, and `far` from there to two. */
export const near = (t: number): number => ((A + 2) * t - (A + 3)) * t * t + 1;
export const far = (t: number): number => ((A * t - 5 * A) * t + 8 * A) * t - 4 * A;

/** NaN where one of the sixteen lies outside, or has no value. */
function ofSixteen({ width, height }: PixelWindow, v: Float64Array, x: number, y: number): number {
  const left = Math.floor(x - 0.5) - 1;
  const top = Math.floor(y - 0.5) - 1;
  if (left < 0 || top < 0 || left + 3 >= width || top + 3 >= height) return NaN;
  const dx = x - 1.5 - left;
  const dy = y - 1.5 - top;
  const a = far(1 + dx);
  const b = near(dx);
  const c = near(1 - dx);
  const d = far(2 - dx);
  const i = top * width + left;
  const j = i + width;
  const k = j + width;
  const l = k + width;
  return (
    (v[i]! * a + v[i + 1]! * b + v[i + 2]! * c + v[i + 3]! * d) * far(1 + dy) +
    (v[j]! * a + v[j + 1]! * b + v[j + 2]! * c + v[j + 3]! * d) * near(dy) +
    (v[k]! * a + v[k + 1]! * b + v[k + 2]! * c + v[k + 3]! * d) * near(1 - dy) +
    (v[l]! * a + v[l + 1]! * b + v[l + 2]! * c + v[l + 3]! * d) * far(2 - dy)
  );
}

const kernelOf = (resampling: Resampling, t: number): number =>
  resampling === 'cubic' ? (t < 1 ? near(t) : t < 2 ? far(t) : 0) : Math.max(0, 1 - t);

/** NaN where too little has a value to go by. */
function wide({ width, height }: PixelWindow, values: Float64Array, x: number, y: number, resampling: Resampling, step: Step): number {
  const across = Math.max(1, step[0]);
  const down = Math.max(1, step[1]);
  const [reachX, reachY] = [kernelReach(resampling) * across, kernelReach(resampling) * down];
  let sum = 0;
  let total = 0;
  for (let r = Math.max(0, Math.floor(y - reachY)); r < Math.min(height, y + reachY); r++) {
    const weightOfRow = kernelOf(resampling, Math.abs(r + 0.5 - y) / down);
    if (weightOfRow === 0) continue;
    for (let c = Math.max(0, Math.floor(x - reachX)); c < Math.min(width, x + reachX); c++) {
      const value = values[r * width + c]!;
      if (Number.isNaN(value)) continue;
      const weight = weightOfRow * kernelOf(resampling, Math.abs(c + 0.5 - x) / across);
      sum += value * weight;
      total += weight;
    }
  }
  return Math.abs(total) > LEAST_WEIGHT * across * down ? sum / total : NaN;
}
const LEAST_WEIGHT = 1e-3;
