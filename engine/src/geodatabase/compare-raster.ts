import type Database from 'better-sqlite3';
import sharp from 'sharp';
import { quoteName } from '../geopackage/describe-geopackage.js';
import type { WrittenRaster } from '../geopackage/write/write-raster.js';
import type { PixelSource } from '../preview/pixels/pixel-source.js';

const TILE = 256;
/** Tiles that are read back: all of a small raster, a spread of a large one. */
const MOST_TILES = 64;
const DATA_OFFSET = 8;

/** Tiles of the finest zoom, decoded, hold the pixels that they were made of. */
export async function isSamePicture(
  db: Database.Database,
  table: string,
  { kind, zooms }: WrittenRaster,
  pixels: PixelSource,
): Promise<boolean> {
  const rows = db
    .prepare<[number], { c: number; r: number; data: Buffer }>(
      `SELECT tile_column AS c, tile_row AS r, tile_data AS data FROM ${quoteName(table)} WHERE zoom_level = ?`,
    )
    .all(zooms - 1);
  const stride = Math.max(1, Math.floor(rows.length / MOST_TILES));
  for (let n = 0; n < rows.length; n += stride) {
    const { c, r, data } = rows[n]!;
    const cols = Int32Array.from({ length: TILE * TILE }, (_, i) => inside(c * TILE + (i % TILE), pixels.width));
    const lines = Int32Array.from({ length: TILE * TILE }, (_, i) =>
      cols[i]! < 0 ? -1 : inside(r * TILE + Math.floor(i / TILE), pixels.height),
    );
    lines.forEach((line, i) => line < 0 && (cols[i] = -1));
    if (kind === 'tiles') {
      const colours = (await pixels.colours(cols, lines, 1))!;
      const back = await sharp(data).ensureAlpha().raw().toBuffer();
      // What is wholly transparent has no colour that counts.
      if (colours.some((v, i) => colours[i - (i % 4) + 3]! > 0 && v !== back[i])) return false;
    } else {
      const values = (await pixels.values(cols, lines, 1))!;
      const view = new DataView(data.buffer, data.byteOffset + DATA_OFFSET);
      if (values.some((v, i) => Number.isFinite(v) && Math.fround(v) !== view.getFloat32(i * 4, true))) return false;
    }
  }
  return true;
}

const inside = (n: number, of: number): number => (n < of ? n : -1);
