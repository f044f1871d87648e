/*
 * Grid of shifts between two datums (NTv2, "National Transformation version 2", Geodetic Survey of Canada: records of 16 bytes with a
 * name of 8 and a value; longitudes count to the west, all angles are in seconds of arc; nodes go from east to west, rows from south
 * to north).
 */
const RECORD = 16;
const HEADER_RECORDS = 11;
const MOST_SUBGRIDS = 2000;
const SECONDS = 3600;

interface Subgrid {
  readonly south: number;
  readonly north: number;
  readonly east: number;
  readonly west: number;
  readonly latStep: number;
  readonly lonStep: number;
  readonly columns: number;
  readonly rows: number;
  /** Where its nodes begin. */
  readonly at: number;
}

/** Degrees east and north. */
type Spot = readonly [lon: number, lat: number];

export class ShiftGrid {
  constructor(
    private readonly view: DataView,
    private readonly little: boolean,
    /** The finest first: what is denser takes the place of what it lies in. */
    private readonly subgrids: readonly Subgrid[],
  ) {}

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
    const [w, n] = [-lon * SECONDS, lat * SECONDS];
    const grid = this.subgrids.find((g) => n >= g.south && n <= g.north && w >= g.east && w <= g.west);
    if (!grid) return null;
    const [x, y] = [(w - grid.east) / grid.lonStep, (n - grid.south) / grid.latStep];
    const [column, row] = [Math.min(Math.floor(x), grid.columns - 2), Math.min(Math.floor(y), grid.rows - 2)];
    const [u, v] = [x - column, y - row];
    const value = (dc: number, dr: number, part: 0 | 4): number =>
      this.view.getFloat32(grid.at + ((row + dr) * grid.columns + column + dc) * RECORD + part, this.little);
    const between = (part: 0 | 4): number =>
      (1 - v) * ((1 - u) * value(0, 0, part) + u * value(1, 0, part)) + v * ((1 - u) * value(0, 1, part) + u * value(1, 1, part));
    return [-between(4) / SECONDS, between(0) / SECONDS];
  }
}
/** A hundredth of a millimetre on the ground, in degrees. */
const NEAR = 1e-10;
const MOST_ROUNDS = 20;

/** A text: why it cannot be read. */
export function parseNtv2(bytes: Uint8Array): ShiftGrid | string {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const named = (at: number, name: string): boolean => at + RECORD <= bytes.length && textAt(bytes, at).trim() === name;
  if (bytes.length < HEADER_RECORDS * RECORD || !named(0, 'NUM_OREC')) return 'it is no grid of the kind NTv2';
  const little = view.getInt32(8, true) === HEADER_RECORDS;
  if (!little && view.getInt32(8, false) !== HEADER_RECORDS) return 'its header is damaged';
  if (textAt(bytes, 3 * RECORD + 8).trim() !== 'SECONDS') return 'its shifts are not in seconds of arc';
  const count = view.getInt32(2 * RECORD + 8, little);
  if (!named(2 * RECORD, 'NUM_FILE') || count < 1 || count > MOST_SUBGRIDS) return 'its header is damaged';
  const subgrids: Subgrid[] = [];
  let at = HEADER_RECORDS * RECORD;
  for (let i = 0; i < count; i++) {
    if (!named(at, 'SUB_NAME') || at + HEADER_RECORDS * RECORD > bytes.length) return 'a grid in it is cut off';
    const number = (record: number): number => view.getFloat64(at + record * RECORD + 8, little);
    const [south, north, east, west, latStep, lonStep] = [number(4), number(5), number(6), number(7), number(8), number(9)];
    const nodes = view.getInt32(at + 10 * RECORD + 8, little);
    const [columns, rows] = [Math.round((west - east) / lonStep) + 1, Math.round((north - south) / latStep) + 1];
    at += HEADER_RECORDS * RECORD;
    if (!(columns >= 2 && rows >= 2) || columns * rows !== nodes || at + nodes * RECORD > bytes.length) return 'a grid in it is cut off';
    subgrids.push({ south, north, east, west, latStep, lonStep, columns, rows, at });
    at += nodes * RECORD;
  }
  subgrids.sort((a, b) => a.latStep - b.latStep);
  return new ShiftGrid(view, little, subgrids);
}

const textAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 8));
