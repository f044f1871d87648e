import type Database from 'better-sqlite3';
import type { Extent } from '@rootmap/core';
import { readBand, type PixelSource } from '../pixels/pixel-source.js';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { addSrs } from './schema.js';
import { NO_VALUE, PyramidLevel, TILE, type EncodedTile } from './pyramid-level.js';
import { ensureTileTables } from './tile-tables.js';

export interface RasterSpec {
  readonly name: string;
  /** `EPSG:n`, or the text of one without a code; null: nobody knows. */
  readonly crs: string | null;
  /** Of all pixels; north is up. */
  readonly extent: Extent;
  /** Of those that have something, as the source states it; left out: all have. */
  readonly content?: Extent;
}
export interface WrittenRaster {
  readonly kind: 'tiles' | 'coverage';
  readonly tiles: number;
  readonly zooms: number;
}

/**
 * Writes a raster as a tiles table (OGC 12-128r17, clause 2.2; colours as PNG) or, where it has one band of numbers, as a gridded
 * coverage (OGC 17-066r1; 32-bit floats as TIFF), with all coarser zooms. Pixels keep their size and place: the finest zoom has
 * those of the raster; the coarser ones take every second, fourth … of them. Tiles without anything are left out. Every pixel is read
 * once, in rows of tiles; each coarser zoom is made of the one below it.
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
  ).run(name, isCoverage ? '2d-gridded-coverage' : 'tiles', name, '', ...(spec.content ?? extent), srs);
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
  for (let zoom = finest; zoom >= 0; zoom--) {
    const step = 2 ** (finest - zoom);
    matrix.run(name, zoom, 2 ** zoom, 2 ** zoom, TILE, TILE, px * step, py * step);
  }
  let tiles = 0;
  const put = (zoom: number, column: number, row: number, tile: EncodedTile): void => {
    const { lastInsertRowid } = insert.run(zoom, column, row, tile.data);
    ancillary?.run(name, lastInsertRowid, tile.min, tile.max);
    onProgress(++tiles);
  };
  const levels = Array.from({ length: finest + 1 }, (_, level) => new PyramidLevel(Math.ceil(pixels.width / 2 ** level), isCoverage));
  for (let row = 0; row < pixels.height; row += TILE) {
    const rows = Math.min(TILE, pixels.height - row);
    const band = await readBand(pixels, row, rows);
    levels[0]!.take('colours' in band ? band.colours : band.values, rows);
    const isLast = row + TILE >= pixels.height;
    for (let level = 0; level <= finest; level++) {
      const here = levels[level]!;
      if (!here.isFull && !isLast) break;
      await here.flush((column, tileRow, tile) => put(finest - level, column, tileRow, tile));
      const next = levels[level + 1];
      if (next) here.handDown(next);
      here.clear();
    }
  }
  return { kind: isCoverage ? 'coverage' : 'tiles', tiles, zooms: finest + 1 };
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
