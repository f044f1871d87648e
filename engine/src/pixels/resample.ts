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
  const count = cols.length;
  const nearest = await read(
    Int32Array.from(cols, (c) => (c < 0 ? -1 : Math.floor(c))),
    Int32Array.from(rows, (r) => Math.floor(r)),
  );
  const [sum, total] = [new Float64Array(count), new Float64Array(count)];
  const part = (x: number): number => x - 0.5 - Math.floor(x - 0.5);
  const inside = (x: number, offset: number, size: number): number => Math.min(size - 1, Math.max(0, Math.floor(x - 0.5) + offset));
  for (const [i, down] of offsets.entries())
    for (const [k, across] of offsets.entries()) {
      const at = Int32Array.from(cols, (c) => (c < 0 ? -1 : inside(c, across, width)));
      const values = await read(
        at,
        Int32Array.from(rows, (r) => inside(r, down, height)),
      );
      for (let n = 0; n < count; n++) {
        const value = values[n]!;
        if (at[n]! < 0 || Number.isNaN(value)) continue;
        const weight = weights(part(cols[n]!))[k]! * weights(part(rows[n]!))[i]!;
        sum[n] = sum[n]! + value * weight;
        total[n] = total[n]! + weight;
      }
    }
  return nearest.map((value, n) => (Number.isNaN(value) || total[n] === 0 ? NaN : sum[n]! / total[n]!));
}
