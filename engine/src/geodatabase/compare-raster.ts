import type Database from 'better-sqlite3';
import sharp from 'sharp';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { TILE } from '../geopackage-write/pyramid-level.js';
import type { WrittenRaster } from '../geopackage-write/write-raster.js';
import { readBand, type PixelSource } from '../pixels/pixel-source.js';

/** Rows of tiles that are read back: all of a small raster, a spread of a large one. */
const MOST_TILES = 128;
const DATA_OFFSET = 8;

/** Tiles of the finest zoom, decoded, hold the pixels that they were made of. */
export async function isSamePicture(db: Database.Database, table: string, { zooms }: WrittenRaster, pixels: PixelSource): Promise<boolean> {
  const tiles = db.prepare<[number, number], { c: number; data: Buffer }>(
    `SELECT tile_column AS c, tile_data AS data FROM ${quoteName(table)} WHERE zoom_level = ? AND tile_row = ?`,
  );
  const rows = Math.ceil(pixels.height / TILE);
  const wanted = Math.max(2, Math.floor(MOST_TILES / Math.ceil(pixels.width / TILE)));
  for (const row of spread(rows, wanted)) {
    const lines = Math.min(TILE, pixels.height - row * TILE);
    const band = await readBand(pixels, row * TILE, lines);
    for (const { c, data } of tiles.all(zooms - 1, row)) {
      const isSame =
        'colours' in band
          ? sameColours(band.colours, await sharp(data).ensureAlpha().raw().toBuffer(), c, lines, pixels.width)
          : sameValues(band.values, data, c, lines, pixels.width);
      if (!isSame) return false;
    }
  }
  return true;
}

/** The first, the last, and others between. */
function spread(rows: number, wanted: number): number[] {
  if (rows <= wanted) return Array.from({ length: rows }, (_, i) => i);
  return Array.from({ length: wanted }, (_, i) => Math.round((i * (rows - 1)) / (wanted - 1)));
}

/** What is wholly transparent has no colour that counts. */
function sameColours(band: Uint8ClampedArray, tile: Buffer, column: number, lines: number, width: number): boolean {
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

function sameValues(band: Float32Array, tile: Buffer, column: number, lines: number, width: number): boolean {
  const view = new DataView(tile.buffer, tile.byteOffset + DATA_OFFSET);
  const count = Math.min(TILE, width - column * TILE);
  for (let row = 0; row < lines; row++)
    for (let i = 0; i < count; i++) {
      const value = band[row * width + column * TILE + i]!;
      if (Number.isFinite(value) && value !== view.getFloat32((row * TILE + i) * 4, true)) return false;
    }
  return true;
}
