import type Database from 'better-sqlite3';
import { ProblemError } from '@rootmap/core';
import { geometryColumnOf, quoteName } from '../../geopackage/describe-geopackage.js';
import { openGeopackage } from '../../geopackage/open-geopackage.js';
import { ensureFeatureTables } from '../../geopackage-write/schema.js';
import { addSpatialIndex, boxesOf } from '../../geopackage-write/spatial-index.js';
import { ensureTileTables } from '../../geopackage-write/tile-tables.js';
import { hasTable } from './registry.js';
import { keyOf } from './rename-table.js';

type Row = Record<string, unknown>;
const BATCH = 4096;

/**
 * A table of one container is copied into another, or into the same one, row by row as it stands: keys, shapes and tiles keep their
 * bytes. What describes it comes along: its place in the contents, its CRS, columns, tile matrices, and a spatial index made anew.
 * @param from path of the container that has it; it is not written to
 * @returns how many rows came
 */
export function copyTable(db: Database.Database, from: string, table: string, name: string, onProgress: (rows: number) => void): number {
  const source = openGeopackage(from);
  try {
    createAlike(db, source.db, table, name);
    const rows = copyRows(db, source.db, table, name, onProgress);
    copyRegistry(db, source.db, table, name); // its index needs the rows
    return rows;
  } finally {
    source.close();
  }
}

/** The same columns and constraints under another name. */
export function createAlike(db: Database.Database, source: Database.Database, table: string, name: string): void {
  const sql = source.prepare<[string], string>("SELECT sql FROM sqlite_master WHERE type = 'table' AND name = ?").pluck(true).get(table);
  const head = sql && /^\s*CREATE\s+TABLE\s+("(?:[^"]|"")*"|'(?:[^']|'')*'|`(?:[^`]|``)*`|\[[^\]]*\]|[^\s("']+)/i.exec(sql);
  if (!head)
    throw new ProblemError({ code: 'wrong-use', message: `${table} is a view, made from other tables. Only tables can be copied.` });
  db.exec(`CREATE TABLE ${quoteName(name)}${sql.slice(head[0].length)}`);
  for (const columns of plainIndexes(source, table))
    db.exec(`CREATE INDEX ${quoteName(`${name}_${columns.join('_')}`)} ON ${quoteName(name)} (${columns.map(quoteName).join(', ')})`);
}

/** Columns of each index that somebody made, where it is on whole columns of all rows. */
function plainIndexes(source: Database.Database, table: string): string[][] {
  const lists = source.prepare<[], { name: string; origin: string; partial: bigint }>(`PRAGMA index_list(${quoteName(table)})`).all();
  return lists
    .filter((l) => l.origin === 'c' && Number(l.partial) === 0)
    .map((l) => source.prepare<[], { name: string | null }>(`PRAGMA index_info(${quoteName(l.name)})`).all())
    .filter((columns) => columns.every((c) => c.name !== null))
    .map((columns) => columns.map((c) => c.name!));
}

function copyRows(
  db: Database.Database,
  source: Database.Database,
  table: string,
  name: string,
  onProgress: (rows: number) => void,
): number {
  const names = source
    .prepare<[], { name: string }>(`PRAGMA table_info(${quoteName(table)})`)
    .all()
    .map((c) => quoteName(c.name)); // computed columns are not among them
  const rows = source.prepare(`SELECT ${names.join(', ')} FROM ${quoteName(table)}`).raw(true);
  const insert = db.prepare(`INSERT INTO ${quoteName(name)} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`);
  let n = 0;
  for (const row of rows.iterate() as IterableIterator<unknown[]>) {
    insert.run(row);
    if (++n % BATCH === 0) onProgress(n);
  }
  return n;
}

/** What the container says of the table, in the order in which rows point to each other. */
export function copyRegistry(db: Database.Database, source: Database.Database, table: string, name: string): void {
  const rowsOf = (from: string, column: string): Row[] =>
    hasTable(source, from)
      ? source.prepare<[string], Row>(`SELECT * FROM ${quoteName(from)} WHERE lower(${quoteName(column)}) = lower(?)`).all(table)
      : [];
  const [contents] = rowsOf('gpkg_contents', 'table_name');
  const isCoverage = contents!['data_type'] === '2d-gridded-coverage';
  if (rowsOf('gpkg_tile_matrix_set', 'table_name').length > 0) ensureTileTables(db, isCoverage);
  ensureFeatureTables(db);
  const srsOf = (id: unknown): unknown => (id === null ? null : copySrs(db, source, BigInt(id as bigint)));
  const now = new Date().toISOString();
  insertRow(db, 'gpkg_contents', {
    ...contents,
    table_name: name,
    identifier: name,
    last_change: now,
    srs_id: srsOf(contents!['srs_id']),
  });
  for (const row of rowsOf('gpkg_geometry_columns', 'table_name'))
    insertRow(db, 'gpkg_geometry_columns', { ...row, table_name: name, srs_id: srsOf(row['srs_id']) });
  for (const row of rowsOf('gpkg_tile_matrix_set', 'table_name'))
    insertRow(db, 'gpkg_tile_matrix_set', { ...row, table_name: name, srs_id: srsOf(row['srs_id']) });
  for (const row of rowsOf('gpkg_tile_matrix', 'table_name')) insertRow(db, 'gpkg_tile_matrix', { ...row, table_name: name });
  for (const row of rowsOf('gpkg_2d_gridded_coverage_ancillary', 'tile_matrix_set_name'))
    insertRow(db, 'gpkg_2d_gridded_coverage_ancillary', { ...row, id: null, tile_matrix_set_name: name });
  for (const row of rowsOf('gpkg_2d_gridded_tile_ancillary', 'tpudt_name'))
    insertRow(db, 'gpkg_2d_gridded_tile_ancillary', { ...row, id: null, tpudt_name: name });
  if (hasTable(db, 'gpkg_data_columns'))
    for (const row of rowsOf('gpkg_data_columns', 'table_name')) insertRow(db, 'gpkg_data_columns', { ...row, table_name: name });
  for (const row of rowsOf('gpkg_extensions', 'table_name'))
    if (row['extension_name'] !== 'gpkg_rtree_index') insertRow(db, 'gpkg_extensions', { ...row, table_name: name });
  if (isCoverage) for (const own of COVERAGE_TABLES) copySystemExtensions(db, source, own);
  copyMetadata(db, source, rowsOf('gpkg_metadata_reference', 'table_name'), name);
  const column = geometryColumnOf(db, name)?.column_name;
  const key = keyOf(db, name);
  if (column === undefined || key === null) return;
  const indexed = { table: name, column, key };
  addSpatialIndex(db, indexed, boxesOf(db, indexed));
}

const COVERAGE_TABLES = ['gpkg_2d_gridded_coverage_ancillary', 'gpkg_2d_gridded_tile_ancillary'];

/** An extension registers tables of its own, too. */
function copySystemExtensions(db: Database.Database, source: Database.Database, own: string): void {
  const known = db.prepare('SELECT 1 FROM gpkg_extensions WHERE table_name = ?').get(own) !== undefined;
  const rows = source.prepare<[string], Row>('SELECT * FROM gpkg_extensions WHERE table_name = ?').all(own);
  if (!known) for (const row of rows) insertRow(db, 'gpkg_extensions', row);
}

/** What is written down about the table (OGC 12-128r17, annex F.8), under ids that are free here. */
function copyMetadata(db: Database.Database, source: Database.Database, references: readonly Row[], name: string): void {
  if (references.length === 0) return;
  for (const own of ['gpkg_metadata', 'gpkg_metadata_reference']) {
    if (!hasTable(db, own)) db.exec(source.prepare<[string], string>('SELECT sql FROM sqlite_master WHERE name = ?').pluck(true).get(own)!);
    if (hasTable(source, 'gpkg_extensions')) copySystemExtensions(db, source, own);
  }
  const read = source.prepare<[unknown], Row>('SELECT * FROM gpkg_metadata WHERE id = ?');
  const free = db.prepare<[], bigint | number>('SELECT coalesce(max(id), 0) + 1 FROM gpkg_metadata').pluck(true);
  const copied = new Map<unknown, unknown>();
  const copy = (id: unknown): unknown => {
    const row = id === null ? undefined : read.get(id);
    if (!row) return null;
    if (!copied.has(id)) {
      copied.set(id, free.get());
      insertRow(db, 'gpkg_metadata', { ...row, id: copied.get(id) });
    }
    return copied.get(id);
  };
  for (const row of references) {
    const file = copy(row['md_file_id']);
    if (file !== null)
      insertRow(db, 'gpkg_metadata_reference', { ...row, table_name: name, md_file_id: file, md_parent_id: copy(row['md_parent_id']) });
  }
}

/** Columns that the target has not are left out: editions differ. */
function insertRow(db: Database.Database, table: string, row: Row): void {
  const known = new Set(
    db
      .prepare<[], { name: string }>(`PRAGMA table_info(${quoteName(table)})`)
      .all()
      .map((c) => c.name),
  );
  const columns = Object.keys(row).filter((c) => known.has(c));
  db.prepare(`INSERT INTO ${quoteName(table)} (${columns.map(quoteName).join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`).run(
    ...columns.map((c) => row[c]),
  );
}

/** The row of a CRS; shapes name it by this id, so that another CRS under the same id is refused. */
function copySrs(db: Database.Database, source: Database.Database, id: bigint): bigint {
  const read = (from: Database.Database): Row | undefined =>
    from.prepare<[bigint], Row>('SELECT * FROM gpkg_spatial_ref_sys WHERE srs_id = ?').get(id);
  const [theirs, ours] = [read(source), read(db)];
  if (!theirs) return id;
  const nameOf = (row: Row): string => `${String(row['organization']).toUpperCase()}:${String(row['organization_coordsys_id'])}`;
  if (!ours) insertRow(db, 'gpkg_spatial_ref_sys', theirs);
  else if (nameOf(ours) !== nameOf(theirs))
    throw new ProblemError({
      code: 'wrong-use',
      message: `The two geodatabases call different CRSs ${id}: ${nameOf(theirs)} and ${nameOf(ours)}. Bring the table in as data instead.`,
    });
  return id;
}
