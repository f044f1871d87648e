import type Database from 'better-sqlite3';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { NO_VALUE, TILE } from '../geopackage-write/pyramid-level.js';
import type { WrittenRaster } from '../geopackage-write/write-raster.js';
import { readBand, type PixelSource } from '../pixels/pixel-source.js';
import { coloursOfPng, numbersOfTile, type SecondEyes, type SeenRows } from './second-eyes.js';

/** Tiles that are read back: all of a small raster, a spread of a large one. */
const MOST_TILES = 128;
/** Numbers that a scale computes may differ in the last of their 24 bits, since one reader rounds in between. */
const LAST_BIT = 2 ** -23;

export interface Compared {
  /** Pixels that were looked at. */
  readonly pixels: number;
  /** Of them, those that the table holds less exactly: a coverage's numbers have 32 bits. */
  readonly rounded: number;
  readonly isEqual: boolean;
}

/**
 * Whether the tiles of the finest zoom, unpacked by another reader, hold the pixels that another reader reads in the source.
 * @param isFlipped the source has its south first
 */
export async function compareRaster(
  db: Database.Database,
  table: string,
  { zooms }: WrittenRaster,
  eyes: SecondEyes,
  isFlipped: boolean,
): Promise<Compared> {
  const tiles = db.prepare<[number, number], { c: number; data: Buffer }>(
    `SELECT tile_column AS c, tile_data AS data FROM ${quoteName(table)} WHERE zoom_level = ? AND tile_row = ?`,
  );
  const { width, height } = eyes;
  const columns = Math.ceil(width / TILE);
  const compared = { pixels: 0, rounded: 0, isEqual: true };
  for (const row of spread(Math.ceil(height / TILE), Math.max(2, Math.floor(MOST_TILES / columns)))) {
    const lines = Math.min(TILE, height - row * TILE);
    const seen = await eyes.rows(isFlipped ? height - row * TILE - lines : row * TILE, lines);
    if (!seen) return { ...compared, isEqual: false };
    const band = isFlipped ? upsideDown(seen, width, lines) : seen;
    const found = new Map(tiles.all(zooms - 1, row).map(({ c, data }) => [c, data]));
    for (let column = 0; column < columns; column++) {
      const place = { column, lines, width };
      const data = found.get(column);
      const rounded = data ? await differenceOf(band, data, place) : isNothing(band, place) ? 0 : null;
      if (rounded === null) return { ...compared, isEqual: false };
      compared.pixels += lines * Math.min(TILE, width - column * TILE);
      compared.rounded += rounded;
    }
  }
  return compared;
}

/** A raster as it was read for the import: where no other reader reads it. */
export const ownEyes = (pixels: PixelSource): SecondEyes => ({
  width: pixels.width,
  height: pixels.height,
  async rows(row, count) {
    const band = await readBand(pixels, row, count);
    return 'values' in band ? { values: Float64Array.from(band.values) } : { colours: Uint8Array.from(band.colours) };
  },
});

interface Place {
  readonly column: number;
  readonly lines: number;
  readonly width: number;
}

/** The first, the last, and others between. */
function spread(rows: number, wanted: number): number[] {
  if (rows <= wanted) return Array.from({ length: rows }, (_, i) => i);
  return Array.from({ length: wanted }, (_, i) => Math.round((i * (rows - 1)) / (wanted - 1)));
}

function upsideDown(seen: SeenRows, width: number, lines: number): SeenRows {
  const each = 'values' in seen ? width : width * 4;
  const [from, to] =
    'values' in seen ? [seen.values, new Float64Array(seen.values.length)] : [seen.colours, new Uint8Array(seen.colours.length)];
  for (let row = 0; row < lines; row++) to.set(from.subarray(row * each, (row + 1) * each), (lines - 1 - row) * each);
  return 'values' in seen ? { values: to as Float64Array } : { colours: to as Uint8Array };
}

/** A tile that was left out has nothing in it. */
function isNothing(band: SeenRows, { column, lines, width }: Place): boolean {
  const count = Math.min(TILE, width - column * TILE);
  for (let row = 0; row < lines; row++)
    for (let i = 0; i < count; i++) {
      const at = row * width + column * TILE + i;
      if ('values' in band ? Number.isFinite(band.values[at]) : band.colours[at * 4 + 3] !== 0) return false;
    }
  return true;
}

/** How many numbers of a tile are rounded; null: some pixel is another. */
async function differenceOf(band: SeenRows, data: Buffer, place: Place): Promise<number | null> {
  if ('values' in band) return differingNumbers(band.values, await numbersOfTile(data), place);
  const tile = coloursOfPng(data);
  return tile && areSameColours(band.colours, tile.data, place) ? 0 : null;
}

/** What is wholly transparent has no colour that counts. */
function areSameColours(band: Uint8Array, tile: Uint8Array, { column, lines, width }: Place): boolean {
  const count = Math.min(TILE, width - column * TILE);
  for (let row = 0; row < lines; row++) {
    const [from, to] = [(row * width + column * TILE) * 4, row * TILE * 4];
    for (let i = 0; i < count * 4; i += 4) {
      if (band[from + i + 3] === 0 && tile[to + i + 3] === 0) continue;
      for (let k = 0; k < 4; k++) if (band[from + i + k] !== tile[to + i + k]) return false;
    }
  }
  return true;
}

function differingNumbers(band: Float64Array, tile: ArrayLike<number>, { column, lines, width }: Place): number | null {
  const count = Math.min(TILE, width - column * TILE);
  let rounded = 0;
  for (let row = 0; row < lines; row++)
    for (let i = 0; i < count; i++) {
      const value = band[row * width + column * TILE + i]!;
      const held = tile[row * TILE + i]!;
      if (!Number.isFinite(value)) {
        if (held !== NO_VALUE) return null;
      } else if (value !== held) {
        if (Math.abs(value - held) > Math.abs(value) * LAST_BIT) return null;
        rounded++;
      }
    }
  return rounded;
}
