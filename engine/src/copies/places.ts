import type { Transform } from '@rootmap/core';
import type { Transformer } from '../crs/transformer.js';
import type { Places } from '../pixels/resample.js';
import type { PixelWindow } from '../pixels/pixel-window.js';
import type { RasterGrid } from './raster-grid.js';

/** Pixels along the side of a cell, in whose corners and middle places are computed. */
const CELL = 16;
/** Pixels of the source by which a place that is put between the corners of its cell may be off. */
const MOST_OFF = 0.01;

/** The places of a part, and a box that holds them all: in columns and rows of the source, though they may lie outside it. */
export interface PlacesOfPart extends Places {
  readonly box: { readonly left: number; readonly right: number; readonly top: number; readonly bottom: number };
}

/**
 * The places of a part of a raster in the one that it is made from: computed in the corners of cells and put between, where the middle
 * of the cell shows that this is exact enough; else computed each.
 * @param of the part
 * @param back from the CRS of the grid to that of the source
 * @param room memory for the places, which are good until it is given again
 */
export function placesIn(grid: RasterGrid, of: PixelWindow, back: Transformer, source: Transform, room = newRoom(of)): PlacesOfPart {
  const { width, height } = of;
  const [cols, rows] = [room.cols.subarray(0, width * height), room.rows.subarray(0, width * height)];
  const into = inverseOf(source);
  const box = { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity };
  const reach = ([x, y]: Spot): void => {
    if (x < box.left) box.left = x;
    if (x > box.right) box.right = x;
    if (y < box.top) box.top = y;
    if (y > box.bottom) box.bottom = y;
  };
  const at = (col: number, row: number): readonly [number, number] | null => {
    const spot = back(grid.west + (of.col + col + 0.5) * grid.pixel, grid.north - (of.row + row + 0.5) * grid.pixel);
    return spot && into(spot[0], spot[1]);
  };
  const across = Math.ceil(width / CELL);
  const line = (row: number) => Array.from({ length: across + 1 }, (_, k) => at(k * CELL, row));
  let above = line(0);
  for (let top = 0; top < height; top += CELL) {
    const below = line(top + CELL);
    for (let k = 0; k < across; k++) {
      const left = k * CELL;
      const corners = [above[k]!, above[k + 1]!, below[k]!, below[k + 1]!] as const;
      const [right, bottom] = [Math.min(width, left + CELL), Math.min(height, top + CELL)];
      if (isFlat(corners, at(left + CELL / 2, top + CELL / 2))) {
        corners.forEach(reach); // what lies between them lies in their box
        putBetween(corners, { left, top, right, bottom }, width, cols, rows);
        continue;
      }
      for (let row = top; row < bottom; row++)
        for (let col = left; col < right; col++) {
          const spot = at(col, row);
          if (spot) reach(spot);
          cols[row * width + col] = spot ? spot[0] : NaN;
          rows[row * width + col] = spot ? spot[1] : NaN;
        }
    }
    above = below;
  }
  return { cols, rows, box };
}

/** Memory for the places of a part. */
export const newRoom = ({ width, height }: Pick<PixelWindow, 'width' | 'height'>): Places => ({
  cols: new Float64Array(width * height),
  rows: new Float64Array(width * height),
});

type Spot = readonly [number, number];
/** Upper left, upper right, lower left, lower right. */
type Corners = readonly [Spot, Spot, Spot, Spot];

function isFlat(corners: readonly (Spot | null)[], middle: Spot | null): corners is Corners {
  if (middle === null || corners.includes(null)) return false;
  const [x, y] = between(corners as unknown as Corners, 0.5, 0.5);
  return Math.abs(x - middle[0]) <= MOST_OFF && Math.abs(y - middle[1]) <= MOST_OFF;
}

const between = ([a, b, c, d]: Corners, x: number, y: number): Spot => {
  const [p, q, r, s] = [(1 - x) * (1 - y), x * (1 - y), (1 - x) * y, x * y];
  return [p * a[0] + q * b[0] + r * c[0] + s * d[0], p * a[1] + q * b[1] + r * c[1] + s * d[1]];
};

/** The places of a cell's pixels, row by row: along a row they lie evenly apart. */
function putBetween(
  corners: Corners,
  { left, top, right, bottom }: { left: number; top: number; right: number; bottom: number },
  width: number,
  cols: Float64Array,
  rows: Float64Array,
): void {
  for (let row = top; row < bottom; row++) {
    const y = (row - top) / CELL;
    const [from, to] = [between(corners, 0, y), between(corners, 1, y)];
    const [dx, dy] = [(to[0] - from[0]) / CELL, (to[1] - from[1]) / CELL];
    const first = row * width;
    for (let col = left; col < right; col++) {
      cols[first + col] = from[0] + (col - left) * dx;
      rows[first + col] = from[1] + (col - left) * dy;
    }
  }
}

/** From world to pixels. */
function inverseOf([x0, a, b, y0, d, e]: Transform): (x: number, y: number) => Spot {
  const det = a * e - b * d;
  return (x, y) => [(e * (x - x0) - b * (y - y0)) / det, (a * (y - y0) - d * (x - x0)) / det];
}
