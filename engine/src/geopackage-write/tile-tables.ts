import type Database from 'better-sqlite3';
import { addSrs } from './schema.js';

/** Tables that tiles need (OGC 12-128r17, annex C), and those of gridded coverages (OGC 17-066r1, table 1). */
export function ensureTileTables(db: Database.Database, isCoverage: boolean): void {
  db.exec(`
CREATE TABLE IF NOT EXISTS gpkg_extensions (table_name TEXT, column_name TEXT, extension_name TEXT NOT NULL, definition TEXT NOT NULL, scope TEXT NOT NULL, CONSTRAINT ge_tce UNIQUE (table_name, column_name, extension_name));
CREATE TABLE IF NOT EXISTS gpkg_tile_matrix_set (table_name TEXT NOT NULL PRIMARY KEY, srs_id INTEGER NOT NULL, min_x DOUBLE NOT NULL, min_y DOUBLE NOT NULL, max_x DOUBLE NOT NULL, max_y DOUBLE NOT NULL, CONSTRAINT fk_gtms_table_name FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name), CONSTRAINT fk_gtms_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
CREATE TABLE IF NOT EXISTS gpkg_tile_matrix (table_name TEXT NOT NULL, zoom_level INTEGER NOT NULL, matrix_width INTEGER NOT NULL, matrix_height INTEGER NOT NULL, tile_width INTEGER NOT NULL, tile_height INTEGER NOT NULL, pixel_x_size DOUBLE NOT NULL, pixel_y_size DOUBLE NOT NULL, CONSTRAINT pk_ttm PRIMARY KEY (table_name, zoom_level), CONSTRAINT fk_tmm_table_name FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name));`);
  if (!isCoverage) return;
  db.exec(`
CREATE TABLE IF NOT EXISTS gpkg_2d_gridded_coverage_ancillary (id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, tile_matrix_set_name TEXT NOT NULL UNIQUE, datatype TEXT NOT NULL DEFAULT 'integer', scale REAL NOT NULL DEFAULT 1.0, offset REAL NOT NULL DEFAULT 0.0, precision REAL DEFAULT 1.0, data_null REAL, grid_cell_encoding TEXT DEFAULT 'grid-value-is-center', uom TEXT, field_name TEXT DEFAULT 'Height', quantity_definition TEXT DEFAULT 'Height', CONSTRAINT fk_g2dgtct_name FOREIGN KEY('tile_matrix_set_name') REFERENCES gpkg_tile_matrix_set ( table_name ) CHECK (datatype in ('integer','float')));
CREATE TABLE IF NOT EXISTS gpkg_2d_gridded_tile_ancillary (id INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, tpudt_name TEXT NOT NULL, tpudt_id INTEGER NOT NULL, scale REAL NOT NULL DEFAULT 1.0, offset REAL NOT NULL DEFAULT 0.0, min REAL DEFAULT NULL, max REAL DEFAULT NULL, mean REAL DEFAULT NULL, std_dev REAL DEFAULT NULL, CONSTRAINT fk_g2dgtat_name FOREIGN KEY (tpudt_name) REFERENCES gpkg_contents(table_name), UNIQUE (tpudt_name, tpudt_id));`);
  addSrs(db, 'EPSG:4979'); // the extension asks for it
}
