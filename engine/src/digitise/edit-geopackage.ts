import { ProblemError, wkbCode, type Field } from '@rootmap/core';
import { columnsOf, geometryColumnOf, quoteName } from '../geopackage/describe-geopackage.js';
import { BlobMaker } from '../geopackage-write/geometry-to-blob.js';
import { COLUMN, toSql, writeTable, type TableSpec } from '../geopackage-write/write-features.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { copyWhole, openStaged } from '../geodatabase/tables/staged-database.js';
import type { Transformer } from '../crs/transformer.js';
import { shapeOfDrawn, typedValue, type Edits } from './edited-records.js';

/** Applies edits to a table in a copy of its container, row by row: all other rows, tables and settings stay as they are. */
export function editTable(
  from: string,
  staged: string,
  table: string,
  fields: readonly Field[],
  edits: Edits,
  to: Transformer | null,
): number {
  copyWhole(from, staged);
  const db = openStaged(staged);
  try {
    const shape = geometryColumnOf(db, table);
    const key = columnsOf(db, table).find((c) => c.pk > 0n)?.name;
    if (key === undefined)
      throw new ProblemError({
        code: 'wrong-use',
        message: `${table} has no key: its rows cannot be told apart. Repair it first, in Geodatabases.`,
      });
    const name = quoteName(table);
    const srs = shape ? Number(db.prepare('SELECT srs_id FROM gpkg_geometry_columns WHERE table_name = ?').pluck().get(table)) : 0;
    const blobs = new BlobMaker(srs);
    const blobOf = (wkb: Uint8Array | null): Uint8Array | null => {
      const blob = wkb && blobs.make(wkb);
      if (wkb && !blob)
        throw new ProblemError({ code: 'wrong-use', message: `A shape of kind ${wkbCode(wkb)} has no place in a GeoPackage.` });
      return blob ? Uint8Array.from(blob) : null;
    };
    const all = [...fields, ...edits.newFields];
    const editable = all.filter((f) => f.type !== 'binary');
    db.exec('BEGIN');
    for (const f of edits.newFields) db.exec(`ALTER TABLE ${name} ADD COLUMN ${quoteName(f.name)} ${COLUMN[f.type]}`);
    const drop = db.prepare(`DELETE FROM ${name} WHERE ${quoteName(key)} = ?`);
    for (const id of edits.removed) drop.run(id);
    const valuesOf = (values: Edits['added'][number]['values']): unknown[] =>
      all.flatMap((f, i) => (f.type === 'binary' ? [] : [toSql(typedValue(values[i] ?? null, f), f.type)]));
    const sets = editable.map((f) => `${quoteName(f.name)} = ?`);
    for (const c of edits.changed) {
      const withShape = shape && c.geometry !== undefined;
      const columns = [...sets, ...(withShape ? [`${quoteName(shape.column_name)} = ?`] : [])];
      if (columns.length === 0) continue;
      const bound = [...valuesOf(c.values), ...(withShape ? [blobOf(shapeOfDrawn(c.geometry, to))] : [])];
      db.prepare(`UPDATE ${name} SET ${columns.join(', ')} WHERE ${quoteName(key)} = ?`).run(...bound, c.id);
    }
    const names = [...(shape ? [quoteName(shape.column_name)] : []), ...editable.map((f) => quoteName(f.name))];
    const insert =
      names.length === 0 ? null : db.prepare(`INSERT INTO ${name} (${names.join(', ')}) VALUES (${names.map(() => '?').join(', ')})`);
    for (const a of edits.added) insert?.run(...(shape ? [blobOf(shapeOfDrawn(a.geometry, to))] : []), ...valuesOf(a.values));
    const count = Number(db.prepare(`SELECT count(*) FROM ${name}`).pluck().get());
    if (shape) updateExtent(db, table, shape.column_name);
    db.exec('COMMIT');
    return count;
  } finally {
    db.close();
  }
}

/** Extent and time of the contents (OGC 12-128r17, table 3). */
function updateExtent(db: ReturnType<typeof openStaged>, table: string, column: string): void {
  const c = quoteName(column);
  const box = db
    .prepare(
      `SELECT min(ST_MinX(${c})) a, min(ST_MinY(${c})) b, max(ST_MaxX(${c})) c, max(ST_MaxY(${c})) d FROM ${quoteName(table)} WHERE ${c} IS NOT NULL`,
    )
    .get() as Record<'a' | 'b' | 'c' | 'd', number | null>;
  db.prepare(
    "UPDATE gpkg_contents SET min_x = ?, min_y = ?, max_x = ?, max_y = ?, last_change = strftime('%Y-%m-%dT%H:%M:%fZ','now') WHERE table_name = ?",
  ).run(box.a, box.b, box.c, box.d, table);
}

/** A table that is new, in a copy of a container or in a new one. */
export function addTable(from: string | null, staged: string, spec: TableSpec, edits: Edits): number {
  const features = edits.added.map((a, i) => ({
    id: i,
    geometry: shapeOfDrawn(a.geometry, null),
    values: spec.fields.map((f, k) => typedValue(a.values[k] ?? null, f)),
  }));
  if (from === null) return newGeopackage(staged, (db) => writeTable(db, spec, features)).written;
  copyWhole(from, staged);
  const db = openStaged(staged);
  try {
    return db.transaction(() => writeTable(db, spec, features))().written;
  } finally {
    db.close();
  }
}
