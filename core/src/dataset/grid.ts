import type { Extent } from './dataset.js';

const GRID_CELLS = 16;

/**
 * Occupancy of a 16×16 grid over an extent. Bit `row·16 + col`, row 0 south, col 0 west; printed as a 256-bit number in
 * 64 hex digits, so bit 0 is the lowest bit of the last digit. Without width or height there is no grid.
 */
export class OccupancyGrid {
  private readonly cells = new Uint8Array(GRID_CELLS * GRID_CELLS);
  private readonly usable: boolean;
  constructor(private readonly extent: Extent | null) {
    this.usable = !!extent && extent[2] > extent[0] && extent[3] > extent[1];
  }

  /** Marks the cell of a vertex. Points outside the extent (a header that lies) count for the nearest cell. */
  add(x: number, y: number): void {
    if (!this.usable || !Number.isFinite(x) || !Number.isFinite(y)) return;
    const [minx, miny, maxx, maxy] = this.extent!;
    const col = cell(x, minx, maxx);
    const row = cell(y, miny, maxy);
    this.cells[row * GRID_CELLS + col] = 1;
  }

  toHex(): string | null {
    if (!this.usable) return null;
    let hex = '';
    for (let at = this.cells.length - 4; at >= 0; at -= 4)
      hex += (this.cells[at]! | (this.cells[at + 1]! << 1) | (this.cells[at + 2]! << 2) | (this.cells[at + 3]! << 3)).toString(16);
    return hex;
  }
}

const cell = (v: number, min: number, max: number): number =>
  Math.min(GRID_CELLS - 1, Math.max(0, Math.floor(((v - min) / (max - min)) * GRID_CELLS)));
