/** Nodes at equal steps, in degrees east and north. */
export interface Subgrid {
  readonly west: number;
  readonly south: number;
  readonly lonStep: number;
  readonly latStep: number;
  readonly columns: number;
  readonly rows: number;
  /** Degrees to add at a node, east or north. @param column from the west @param row from the south */
  value(column: number, row: number, part: 'east' | 'north'): number;
}

/** Degrees east and north. */
type Spot = readonly [lon: number, lat: number];

/** A grid of shifts between two datums. */
export class ShiftGrid {
  /** The finest first: what is denser takes the place of what it lies in. */
  private readonly subgrids: readonly Subgrid[];

  constructor(subgrids: readonly Subgrid[]) {
    this.subgrids = [...subgrids].sort((a, b) => a.latStep - b.latStep);
  }

  /** The same spot on the other datum; null: the grid does not reach there. */
  shift([lon, lat]: Spot): Spot | null {
    const by = this.at(lon, lat);
    return by && [lon + by[0], lat + by[1]];
  }

  /** The spot that is shifted to this one; null: the grid does not reach there. */
  inverse([lon, lat]: Spot): Spot | null {
    let [x, y] = [lon, lat];
    for (let i = 0; i < MOST_ROUNDS; i++) {
      const by = this.at(x, y);
      if (!by) return null;
      const [dx, dy] = [lon - x - by[0], lat - y - by[1]];
      x += dx;
      y += dy;
      if (Math.abs(dx) < NEAR && Math.abs(dy) < NEAR) return [x, y];
    }
    return null;
  }

  /** Degrees to add, east and north, between the four nodes around. */
  private at(lon: number, lat: number): Spot | null {
    for (const grid of this.subgrids) {
      const [x, y] = [(lon - grid.west) / grid.lonStep, (lat - grid.south) / grid.latStep];
      if (!(x >= -EDGE && y >= -EDGE && x <= grid.columns - 1 + EDGE && y <= grid.rows - 1 + EDGE)) continue;
      const by = between(grid, x, y);
      if (Number.isFinite(by[0]) && Number.isFinite(by[1])) return by; // else a node around it says nothing
    }
    return null;
  }
}
/** A hundredth of a millimetre on the ground, in degrees. */
const NEAR = 1e-10;
const MOST_ROUNDS = 20;
/** Of a step: what stands on the outermost nodes is in the grid, however its position was computed. */
const EDGE = 1e-9;

function between(grid: Subgrid, x: number, y: number): Spot {
  const [column, row] = [clamp(Math.floor(x), grid.columns - 2), clamp(Math.floor(y), grid.rows - 2)];
  const [u, v] = [x - column, y - row];
  const of = (part: 'east' | 'north'): number =>
    (1 - v) * ((1 - u) * grid.value(column, row, part) + u * grid.value(column + 1, row, part)) +
    v * ((1 - u) * grid.value(column, row + 1, part) + u * grid.value(column + 1, row + 1, part));
  return [of('east'), of('north')];
}

const clamp = (n: number, most: number): number => Math.max(0, Math.min(n, most));
