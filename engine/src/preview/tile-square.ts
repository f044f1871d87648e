import type { Extent } from '@rootmap/core';

/** Tiles of zoom 0 cover the square of an extent, those of zoom z a 2^z-th of its side; rows count from the north. */
export interface TileSquare {
  readonly minx: number;
  readonly maxy: number;
  readonly side: number;
}

export function squareOf([minx, miny, maxx, maxy]: Extent): TileSquare {
  const side = Math.max(maxx - minx, maxy - miny);
  if (side > 0) return { minx, maxy, side };
  const around = Math.max(1e-3, Math.abs(minx) * 1e-6); // one point: a little of what is around it
  return { minx: minx - around / 2, maxy: maxy + around / 2, side: around };
}

/** The extent of a tile. */
export function tileBox({ minx, maxy, side }: TileSquare, z: number, x: number, y: number): Extent {
  const size = side / 2 ** z;
  return [minx + x * size, maxy - (y + 1) * size, minx + (x + 1) * size, maxy - y * size];
}
