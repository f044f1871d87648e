import type Database from 'better-sqlite3';
import { geometryColumnOf, quoteName } from '../../geopackage/describe-geopackage.js';
import { dropSpatialIndex } from '../../geopackage-write/spatial-index.js';
import { hasTable, removeFromRegistry } from './registry.js';

/** A table goes, with its spatial index, and everything in the container that names it, but for what stays. */
export function dropTable(db: Database.Database, name: string, stays: readonly string[] = []): void {
  const column = hasTable(db, 'gpkg_geometry_columns') ? geometryColumnOf(db, name)?.column_name : undefined;
  if (column !== undefined && hasTable(db, 'gpkg_extensions')) dropSpatialIndex(db, { table: name, column });
  const isView = db.prepare("SELECT 1 FROM sqlite_master WHERE type = 'view' AND name = ?").get(name) !== undefined;
  db.exec(`DROP ${isView ? 'VIEW' : 'TABLE'} ${quoteName(name)}`);
  removeFromRegistry(db, name, stays);
}
