import type Database from 'better-sqlite3';
import { proposeTableName } from '@rootmap/core';
import { columnsOf, geometryColumnOf, quoteName } from '../../geopackage/describe-geopackage.js';
import { addIndexTriggers, dropIndexTriggers, rtreeOf } from '../../geopackage-write/spatial-index.js';
import { hasTable, renameInRegistry } from './registry.js';

/** A table gets another name, with its spatial index, and everything in the container that names it. */
export function renameTable(db: Database.Database, from: string, to: string): void {
  // SQLite tells no case apart, so that a name in other letters would be taken by the table itself.
  if (from.toLowerCase() === to.toLowerCase()) {
    const between = proposeTableName(`${to}_renamed`, (name) => hasTable(db, name));
    rename(db, from, between);
    rename(db, between, to);
  } else rename(db, from, to);
}

function rename(db: Database.Database, from: string, to: string): void {
  const column = hasTable(db, 'gpkg_geometry_columns') ? geometryColumnOf(db, from)?.column_name : undefined;
  const key = keyOf(db, from);
  const rtree = column === undefined ? null : rtreeOf(from, column);
  const hasIndex = rtree !== null && hasTable(db, rtree);
  if (column !== undefined) dropIndexTriggers(db, from, column);
  dropCountTriggers(db, from);
  if (hasIndex) db.exec(`ALTER TABLE ${quoteName(rtree)} RENAME TO ${quoteName(rtreeOf(to, column!))}`);
  db.exec(`ALTER TABLE ${quoteName(from)} RENAME TO ${quoteName(to)}`);
  renameInRegistry(db, from, to);
  if (hasIndex && key !== null) addIndexTriggers(db, { table: to, column: column!, key });
}

export function keyOf(db: Database.Database, table: string): string | null {
  const keys = columnsOf(db, table).filter((c) => Number(c.pk) > 0);
  return keys.length === 1 ? keys[0]!.name : null;
}

/**
 * Triggers by which some writers keep a count of the rows hold the table's name in quotes, where no rename finds it: they go with the
 * counts, which every reader takes anew.
 */
function dropCountTriggers(db: Database.Database, table: string): void {
  if (!hasTable(db, 'gpkg_ogr_contents')) return;
  const names = db
    .prepare<[string], string>(
      "SELECT name FROM sqlite_master WHERE type = 'trigger' AND lower(tbl_name) = lower(?) AND sql LIKE '%gpkg_ogr_contents%'",
    )
    .pluck(true)
    .all(table);
  for (const name of names) db.exec(`DROP TRIGGER ${quoteName(name)}`);
  db.prepare('DELETE FROM gpkg_ogr_contents WHERE lower(table_name) = lower(?)').run(table);
}
