import type { Resampling } from '@rootmap/core';
import type { PixelSource } from './pixel-source.js';

/** Places in a raster: column and row as fractions, the middle of the first pixel being 0.5; negative: outside. */
export interface Places {
  readonly cols: Float64Array;
  readonly rows: Float64Array;
}
/** Offsets of the pixels that count, from the one whose middle lies before the place, and their weights at a fraction. */
interface Kernel {
  readonly offsets: readonly number[];
  readonly weights: (t: number) => readonly number[];
}
const A = -0.5;
/** Keys, Cubic convolution interpolation for digital image processing (1981), with a = −0.5. */
const near = (t: number): number => (A + 2) * t ** 3 - (A + 3) * t ** 2 + 1;
const far = (t: number): number => A * t ** 3 - 5 * A * t ** 2 + 8 * A * t - 4 * A;
const KERNELS: Readonly<Record<Exclude<Resampling, 'nearest'>, Kernel>> = {
  bilinear: { offsets: [0, 1], weights: (t) => [1 - t, t] },
  cubic: { offsets: [-1, 0, 1, 2], weights: (t) => [far(1 + t), near(t), near(1 - t), far(2 - t)] },
};

/** Where a picture shows several pixels of the raster as one, a reduced picture serves, and nothing is put between. */
const FINEST_STEP = 1.5;
export const isResampled = (resampling: Resampling, step: number): resampling is Exclude<Resampling, 'nearest'> =>
  resampling !== 'nearest' && step < FINEST_STEP;

/** Pixels that are read at once; where a picture is torn far apart, as at the edge of a projection, the nearest ones do. */
const MOST_READ = 4_000_000;

/**
 * Numbers between the pixels of a raster. Pixels without a value do not count; where the nearest has none, there is none.
 * @param read one number for each position; NaN where there is none
 */
export async function resampled(
  { width, height }: Pick<PixelSource, 'width' | 'height'>,
  { cols, rows }: Places,
  resampling: Exclude<Resampling, 'nearest'>,
  read: (cols: Int32Array, rows: Int32Array) => Promise<Float64Array>,
): Promise<Float64Array> {
  const { offsets, weights } = KERNELS[resampling];
  const [left, right] = rangeOf(cols, cols, width);
  const [top, bottom] = rangeOf(rows, cols, height);
  const [across, down] = [right - left + 1, bottom - top + 1];
  const out = new Float64Array(cols.length).fill(NaN);
  if (across <= 0 || down <= 0) return out;
  if (across * down > MOST_READ)
    return read(
      Int32Array.from(cols, (c) => (c < 0 ? -1 : Math.floor(c))),
      Int32Array.from(rows, (r) => Math.floor(r)),
    );
  // All pixels that any place needs, once.
  const window = await read(
    Int32Array.from({ length: across * down }, (_, i) => left + (i % across)),
    Int32Array.from({ length: across * down }, (_, i) => top + Math.floor(i / across)),
  );
  const inside = (at: number, size: number): number => Math.min(size - 1, Math.max(0, at));
  for (let n = 0; n < cols.length; n++) {
    const [c, r] = [cols[n]!, rows[n]!];
    if (c < 0) continue;
    const nearest = window[(Math.floor(r) - top) * across + Math.floor(c) - left]!;
    if (Number.isNaN(nearest)) continue;
    const [firstCol, firstRow] = [Math.floor(c - 0.5), Math.floor(r - 0.5)];
    const [acrossBy, downBy] = [weights(c - 0.5 - firstCol), weights(r - 0.5 - firstRow)];
    let [sum, total] = [0, 0];
    for (let i = 0; i < offsets.length; i++) {
      const line = (inside(firstRow + offsets[i]!, height) - top) * across - left;
      for (let k = 0; k < offsets.length; k++) {
        const value = window[line + inside(firstCol + offsets[k]!, width)]!;
        if (Number.isNaN(value)) continue;
        const weight = acrossBy[k]! * downBy[i]!;
        sum += value * weight;
        total += weight;
      }
    }
    out[n] = total === 0 ? nearest : sum / total;
  }
  return out;
}

/** The widest kernel reaches so far beyond a place. */
const REACH = 2;
/** The first and the last pixel that places need along one side. */
function rangeOf(places: Float64Array, cols: Float64Array, size: number): readonly [number, number] {
  let [least, most] = [Infinity, -Infinity];
  for (let n = 0; n < places.length; n++) {
    if (cols[n]! < 0) continue;
    const at = Math.floor(places[n]!);
    if (at < least) least = at;
    if (at > most) most = at;
  }
  return [Math.max(0, least - REACH), Math.min(size - 1, most + REACH)];
}
