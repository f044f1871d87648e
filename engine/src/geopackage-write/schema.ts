import type Database from 'better-sqlite3';
import { identifyCrs } from '@rootmap/core';
import { definitionOf } from '../crs/definitions.js';
import { crsTable } from '../disk/crs-table.js';

/** "GPKG" (OGC 12-128r17, requirement 2), and version 1.3. */
export const APPLICATION_ID = 0x47504b47;
export const USER_VERSION = 10300;

/** Tables that features and their index need; files of other writers may be without. */
const FOR_FEATURES = `
CREATE TABLE IF NOT EXISTS gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, CONSTRAINT pk_geom_cols PRIMARY KEY (table_name, column_name), CONSTRAINT uk_gc_table_name UNIQUE (table_name), CONSTRAINT fk_gc_tn FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name), CONSTRAINT fk_gc_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
CREATE TABLE IF NOT EXISTS gpkg_extensions (table_name TEXT, column_name TEXT, extension_name TEXT NOT NULL, definition TEXT NOT NULL, scope TEXT NOT NULL, CONSTRAINT ge_tce UNIQUE (table_name, column_name, extension_name));`;

export const ensureFeatureTables = (db: Database.Database): void => void db.exec(FOR_FEATURES);

/** The tables that every GeoPackage has (OGC 12-128r17, annex C), in an empty database. */
export function createSchema(db: Database.Database): void {
  db.pragma(`application_id = ${APPLICATION_ID}`);
  db.pragma(`user_version = ${USER_VERSION}`);
  db.exec(`
CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER, CONSTRAINT fk_gc_r_srs_id FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id));
`);
  ensureFeatureTables(db);
  addFixedSrs(db);
}

/** The three rows that must be there (OGC 12-128r17, requirement 11). */
export function addFixedSrs(db: Database.Database): void {
  insertSrs(db, 'Undefined cartesian SRS', -1, 'NONE', 'undefined');
  insertSrs(db, 'Undefined geographic SRS', 0, 'NONE', 'undefined');
  addSrs(db, 'EPSG:4326');
}

/**
 * The id of a CRS in `gpkg_spatial_ref_sys`, where it gets a row if it has none (requirement 11: `definition` is its text).
 * @param crs `EPSG:n`, or the text of one without a code; null: coordinates of an unknown system, id -1
 */
export function addSrs(db: Database.Database, crs: string | null): number {
  if (crs === null) return -1;
  if (!/^EPSG:\d+$/.test(crs)) return addOwnSrs(db, crs);
  const id = Number(crs.slice('EPSG:'.length));
  const known = db.prepare('SELECT 1 FROM gpkg_spatial_ref_sys WHERE srs_id = ?').get(id);
  if (!known) insertSrs(db, crsTable.nameOf(crs) ?? crs, id, 'EPSG', definitionOf(crs)?.wkt ?? 'undefined');
  return id;
}

/** Ids of the EPSG end below 32768; those that no registry gave begin beyond all of them. */
const FIRST_OWN_ID = 100_000;

function addOwnSrs(db: Database.Database, wkt: string): number {
  const same = db.prepare<[string], { srs_id: number }>('SELECT srs_id FROM gpkg_spatial_ref_sys WHERE definition = ?').get(wkt);
  if (same) return same.srs_id;
  const { last } = db.prepare<[], { last: number | null }>('SELECT max(srs_id) AS last FROM gpkg_spatial_ref_sys').get()!;
  const id = Math.max(FIRST_OWN_ID, (last ?? 0) + 1);
  insertSrs(db, identifyCrs(wkt, crsTable)?.name ?? 'A CRS without a code', id, 'NONE', wkt);
  return id;
}

/** Files with the extension for WKT 2 (OGC 12-128r17, annex F.10) have a second column of text that must not be empty. */
function insertSrs(db: Database.Database, name: string, id: number, organization: string, definition: string): void {
  const columns = db.prepare<[], { name: string }>('PRAGMA table_info(gpkg_spatial_ref_sys)').all();
  const second = columns.some((c) => c.name === 'definition_12_063') ? ", 'undefined'" : '';
  db.prepare(
    `INSERT OR IGNORE INTO gpkg_spatial_ref_sys (srs_name, srs_id, organization, organization_coordsys_id, definition${second && ', definition_12_063'}) VALUES (?, ?, ?, ?, ?${second})`,
  ).run(name, id, organization, id, definition);
}
