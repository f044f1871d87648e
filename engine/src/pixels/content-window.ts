import type { Transform } from '@rootmap/core';
import type { PixelSource } from './pixel-source.js';
import type { PixelWindow } from './pixel-window.js';

/** The pixels that a content touches, as far as there are any. North is up. */
export function contentIn([x, px, , y, , py]: Transform, [west, south, east, north]: readonly number[], pixels: PixelSource): PixelWindow {
  const near = (n: number): number => (Math.abs(n - Math.round(n)) < 1e-6 ? Math.round(n) : n);
  const col = Math.max(0, Math.floor(near((west! - x) / px)));
  const row = Math.max(0, Math.floor(near((north! - y) / py)));
  return {
    col,
    row,
    width: Math.min(pixels.width, Math.ceil(near((east! - x) / px))) - col,
    height: Math.min(pixels.height, Math.ceil(near((south! - y) / py))) - row,
  };
}

/** Where a part lies of a raster that lies so. */
export const movedTo = ([x, px, a, y, b, py]: Transform, { col, row }: PixelWindow): Transform => [
  x + col * px,
  px,
  a,
  y + row * py,
  b,
  py,
];
