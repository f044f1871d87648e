import type Database from 'better-sqlite3';
import { quoteName } from '../../geopackage/describe-geopackage.js';

/**
 * Where a GeoPackage names its tables, beside the tables themselves: OGC 12-128r17, clauses 1.1.3, 2.1.5, 2.2.6, 2.2.7, 2.3.2 and annexes
 * F.8 to F.10, OGC 17-066r1, OGC 18-000, and the tables of counts and styles that common writers add.
 */
const NAMED_IN: readonly (readonly [table: string, column: string])[] = [
  ['gpkg_contents', 'table_name'],
  ['gpkg_geometry_columns', 'table_name'],
  ['gpkg_extensions', 'table_name'],
  ['gpkg_tile_matrix_set', 'table_name'],
  ['gpkg_tile_matrix', 'table_name'],
  ['gpkg_2d_gridded_coverage_ancillary', 'tile_matrix_set_name'],
  ['gpkg_2d_gridded_tile_ancillary', 'tpudt_name'],
  ['gpkg_data_columns', 'table_name'],
  ['gpkg_metadata_reference', 'table_name'],
  ['gpkgext_relations', 'base_table_name'],
  ['gpkgext_relations', 'related_table_name'],
  ['gpkgext_relations', 'mapping_table_name'],
  ['gpkg_ogr_contents', 'table_name'],
  ['layer_styles', 'f_table_name'],
];

export const hasTable = (db: Database.Database, name: string): boolean =>
  db.prepare("SELECT 1 FROM sqlite_master WHERE type IN ('table', 'view') AND lower(name) = lower(?)").get(name) !== undefined;

const present = (db: Database.Database) => NAMED_IN.filter(([table]) => hasTable(db, table));

/** Every row that names a table names it anew. Foreign keys must be off. */
export function renameInRegistry(db: Database.Database, from: string, to: string): void {
  for (const [table, column] of present(db))
    db.prepare(`UPDATE ${quoteName(table)} SET ${quoteName(column)} = ? WHERE lower(${quoteName(column)}) = lower(?)`).run(to, from);
  db.prepare('UPDATE gpkg_contents SET identifier = ? WHERE table_name = ? AND lower(identifier) = lower(?)').run(to, to, from);
  touch(db, to);
}

/** Every row that names a table goes, but for those of the registers that stay. */
export function removeFromRegistry(db: Database.Database, name: string, stays: readonly string[] = []): void {
  // Those that others point to go last.
  for (const [table, column] of [...present(db)].reverse().filter(([register]) => !stays.includes(register)))
    db.prepare(`DELETE FROM ${quoteName(table)} WHERE lower(${quoteName(column)}) = lower(?)`).run(name);
}

export const touch = (db: Database.Database, name: string): void =>
  void db.prepare("UPDATE gpkg_contents SET last_change = strftime('%Y-%m-%dT%H:%M:%fZ','now') WHERE table_name = ?").run(name);

/** The user's tables with their number of rows, as evidence that an operation left the others alone. */
export function rowCounts(db: Database.Database): Map<string, number> {
  const names = db.prepare<[], string>('SELECT table_name FROM gpkg_contents').pluck(true).all();
  const countOf = (name: string): number =>
    Number(
      db
        .prepare<[], bigint | number>(`SELECT count(*) FROM ${quoteName(name)}`)
        .pluck(true)
        .get(),
    );
  return new Map(names.filter((name) => hasTable(db, name)).map((name) => [name, countOf(name)]));
}
