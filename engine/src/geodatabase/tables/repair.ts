import type Database from 'better-sqlite3';
import { geometryColumnOf, quoteName } from '../../geopackage/describe-geopackage.js';
import { APPLICATION_ID, USER_VERSION, addFixedSrs } from '../../geopackage-write/schema.js';
import { addSpatialIndex, boxesOf, dropSpatialIndex } from '../../geopackage-write/spatial-index.js';
import { hasTable, touch } from './registry.js';
import { keyOf } from './rename-table.js';

/**
 * Puts right what the check calls repairable: the file's ids, the rows of gpkg_spatial_ref_sys that must be there, times of last change, extents, and
 * spatial indexes that are missing or do not have every shape. Records are not touched.
 */
export function repair(db: Database.Database, onProgress: (table: string) => void): void {
  db.pragma(`application_id = ${APPLICATION_ID}`);
  if (Number(db.pragma('user_version', { simple: true })) < 10200) db.pragma(`user_version = ${USER_VERSION}`);
  addFixedSrs(db);
  const tables = db
    .prepare<[], { name: string; kind: string; changed: string }>(
      'SELECT table_name AS name, data_type AS kind, last_change AS changed FROM gpkg_contents',
    )
    .all();
  for (const { name, kind, changed } of tables) {
    if (!hasTable(db, name)) continue;
    onProgress(name);
    if (!IS_TIME.test(String(changed))) touch(db, name);
    if (kind === 'features') repairFeatures(db, name);
  }
}

/** A time as the standard wants it (OGC 12-128r17, requirement 15). */
export const IS_TIME = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?Z$/;

function repairFeatures(db: Database.Database, table: string): void {
  const column = hasTable(db, 'gpkg_geometry_columns') ? geometryColumnOf(db, table)?.column_name : undefined;
  const key = keyOf(db, table);
  if (column === undefined || key === null) return;
  const indexed = { table, column, key };
  const boxes = boxesOf(db, indexed);
  db.prepare('UPDATE gpkg_contents SET min_x = ?, min_y = ?, max_x = ?, max_y = ? WHERE table_name = ?').run(
    ...(boxes.extent() ?? [null, null, null, null]),
    table,
  );
  if (hasTable(db, 'gpkg_extensions')) dropSpatialIndex(db, indexed);
  addSpatialIndex(db, indexed, boxes);
  if (hasTable(db, 'gpkg_ogr_contents')) {
    const count = db
      .prepare(`SELECT count(*) FROM ${quoteName(table)}`)
      .pluck(true)
      .get();
    db.prepare('UPDATE gpkg_ogr_contents SET feature_count = ? WHERE lower(table_name) = lower(?)').run(count, table);
  }
}
