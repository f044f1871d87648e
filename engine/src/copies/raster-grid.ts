import { apply, type Transform } from '@rootmap/core';
import type { Transformer } from '../crs/transformer.js';

/** A raster with north up and square pixels. */
export interface RasterGrid {
  /** Of the outer corner of the first pixel, in its CRS. */
  readonly west: number;
  readonly north: number;
  /** Length of a pixel's side, in the units of its CRS. */
  readonly pixel: number;
  readonly width: number;
  readonly height: number;
}

/** Places along each side of the source that are looked at. */
const LOOKED_AT = 65;

/**
 * Where a raster comes to lie in another CRS. Its diagonal keeps as many pixels as it has (common practice of several programs).
 * @param to from the CRS of the raster
 * @param pixel as somebody wants it; null: what follows
 * @returns null where none of it has a place there
 */
export function gridIn(
  to: Transformer,
  source: { readonly transform: Transform; readonly width: number; readonly height: number },
  pixel: number | null,
): RasterGrid | null {
  const { transform, width, height } = source;
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < LOOKED_AT; i++)
    for (let k = 0; k < LOOKED_AT; k++) {
      const spot = to(...apply(transform, (width * k) / (LOOKED_AT - 1), (height * i) / (LOOKED_AT - 1)));
      if (!spot) continue;
      [west, east] = [Math.min(west, spot[0]), Math.max(east, spot[0])];
      [south, north] = [Math.min(south, spot[1]), Math.max(north, spot[1])];
    }
  if (!(east > west) || !(north > south)) return null;
  const side = pixel ?? Math.hypot(east - west, north - south) / Math.hypot(width, height);
  const count = (length: number): number => Math.max(1, Math.ceil(length / side - 1e-6));
  return { west, north, pixel: side, width: count(east - west), height: count(north - south) };
}
