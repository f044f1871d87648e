import type Database from 'better-sqlite3';
import sharp from 'sharp';
import type { Extent } from '@rootmap/core';
import type { PixelSource } from '../../preview/pixels/pixel-source.js';
import { quoteName } from '../describe-geopackage.js';
import { addSrs } from './schema.js';
import { floatTile } from './float-tile.js';
import { ensureTileTables } from './tile-tables.js';

const TILE = 256;
/** What stands for no value in a coverage. */
const NO_VALUE = -9999;

export interface RasterSpec {
  readonly name: string;
  /** `EPSG:n`; null: nobody knows. */
  readonly crs: string | null;
  /** Of all pixels; north is up. */
  readonly extent: Extent;
}
export interface WrittenRaster {
  readonly kind: 'tiles' | 'coverage';
  readonly tiles: number;
  readonly zooms: number;
}

/**
 * Writes a raster as a tiles table (OGC 12-128r17, clause 2.2; colours as PNG) or, where it has one band of numbers, as a gridded
 * coverage (OGC 17-066r1; 32-bit floats as TIFF), with all coarser zooms. Pixels keep their size and place: the finest zoom has
 * those of the raster; the coarser ones take every second, fourth … of them. Tiles without anything are left out.
 */
export async function writeRaster(
  db: Database.Database,
  spec: RasterSpec,
  pixels: PixelSource,
  onProgress: (tiles: number) => void = () => undefined,
): Promise<WrittenRaster> {
  const { name, extent } = spec;
  const [minx, miny, maxx, maxy] = extent;
  const [px, py] = [(maxx - minx) / pixels.width, (maxy - miny) / pixels.height];
  const finest = Math.max(0, Math.ceil(Math.log2(Math.max(pixels.width, pixels.height) / TILE)));
  const probe = Int32Array.of(0);
  const isCoverage = (await pixels.colours(probe, probe, 1)) === null;
  const srs = addSrs(db, spec.crs);
  ensureTileTables(db, isCoverage);
  const across = TILE * 2 ** finest;
  db.prepare(
    'INSERT INTO gpkg_contents (table_name, data_type, identifier, description, min_x, min_y, max_x, max_y, srs_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)',
  ).run(name, isCoverage ? '2d-gridded-coverage' : 'tiles', name, '', ...extent, srs);
  db.prepare('INSERT INTO gpkg_tile_matrix_set VALUES (?, ?, ?, ?, ?, ?)').run(
    name,
    srs,
    minx,
    maxy - across * py,
    minx + across * px,
    maxy,
  );
  db.exec(
    `CREATE TABLE ${quoteName(name)} (id INTEGER PRIMARY KEY AUTOINCREMENT, zoom_level INTEGER NOT NULL, tile_column INTEGER NOT NULL, tile_row INTEGER NOT NULL, tile_data BLOB NOT NULL, UNIQUE (zoom_level, tile_column, tile_row))`,
  );
  if (isCoverage) registerCoverage(db, name);
  const matrix = db.prepare('INSERT INTO gpkg_tile_matrix VALUES (?, ?, ?, ?, ?, ?, ?, ?)');
  const insert = db.prepare(`INSERT INTO ${quoteName(name)} (zoom_level, tile_column, tile_row, tile_data) VALUES (?, ?, ?, ?)`);
  const ancillary = isCoverage
    ? db.prepare('INSERT INTO gpkg_2d_gridded_tile_ancillary (tpudt_name, tpudt_id, scale, offset, min, max) VALUES (?, ?, 1.0, 0.0, ?, ?)')
    : null;
  let tiles = 0;
  for (let zoom = finest; zoom >= 0; zoom--) {
    const step = 2 ** (finest - zoom);
    matrix.run(name, zoom, 2 ** zoom, 2 ** zoom, TILE, TILE, px * step, py * step);
    const columns = Math.ceil(pixels.width / (TILE * step));
    const rows = Math.ceil(pixels.height / (TILE * step));
    for (let row = 0; row < rows; row++)
      for (let column = 0; column < columns; column++) {
        const tile = await tileOf(pixels, column, row, step, isCoverage);
        if (!tile) continue;
        const { lastInsertRowid } = insert.run(zoom, column, row, tile.data);
        ancillary?.run(name, lastInsertRowid, tile.min, tile.max);
        onProgress(++tiles);
      }
  }
  return { kind: isCoverage ? 'coverage' : 'tiles', tiles, zooms: finest + 1 };
}

/** Null: there is nothing in it. */
async function tileOf(
  pixels: PixelSource,
  column: number,
  row: number,
  step: number,
  isCoverage: boolean,
): Promise<{ data: Uint8Array; min: number | null; max: number | null } | null> {
  const cols = new Int32Array(TILE * TILE).fill(-1);
  const rows = new Int32Array(TILE * TILE).fill(-1);
  for (let j = 0; j < TILE; j++)
    for (let i = 0; i < TILE; i++) {
      const [c, r] = [(column * TILE + i) * step, (row * TILE + j) * step];
      if (c >= pixels.width || r >= pixels.height) continue;
      cols[j * TILE + i] = c;
      rows[j * TILE + i] = r;
    }
  if (!isCoverage) {
    const colours = await pixels.colours(cols, rows, step);
    if (!colours?.some((v, i) => i % 4 === 3 && v > 0)) return null;
    const data = await sharp(colours, { raw: { width: TILE, height: TILE, channels: 4 } })
      .png({ compressionLevel: 6 })
      .toBuffer();
    return { data, min: null, max: null };
  }
  const values = await pixels.values(cols, rows, step);
  const filled = values?.filter((v) => Number.isFinite(v));
  if (!values || !filled || filled.length === 0) return null;
  const floats = Float32Array.from(values, (v) => (Number.isFinite(v) ? v : NO_VALUE));
  return { data: floatTile(floats, TILE), min: filled.reduce((a, b) => Math.min(a, b)), max: filled.reduce((a, b) => Math.max(a, b)) };
}

/** Rows that the extension asks for (OGC 17-066r1, table 1 and requirement 6). */
function registerCoverage(db: Database.Database, name: string): void {
  const definition = 'http://docs.opengeospatial.org/is/17-066r1/17-066r1.html';
  const extension = db.prepare('INSERT OR IGNORE INTO gpkg_extensions VALUES (?, ?, ?, ?, ?)');
  const known = db.prepare("SELECT 1 FROM gpkg_extensions WHERE table_name = ? AND extension_name = 'gpkg_2d_gridded_coverage'");
  for (const table of ['gpkg_2d_gridded_coverage_ancillary', 'gpkg_2d_gridded_tile_ancillary'])
    if (!known.get(table)) extension.run(table, null, 'gpkg_2d_gridded_coverage', definition, 'read-write');
  extension.run(name, 'tile_data', 'gpkg_2d_gridded_coverage', definition, 'read-write');
  db.prepare(
    "INSERT INTO gpkg_2d_gridded_coverage_ancillary (tile_matrix_set_name, datatype, scale, offset, precision, data_null) VALUES (?, 'float', 1.0, 0.0, 1.0, ?)",
  ).run(name, NO_VALUE);
}
