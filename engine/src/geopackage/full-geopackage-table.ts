import type Database from 'better-sqlite3';
import {
  hashValue,
  OccupancyGrid,
  readGeometryBlob,
  type Description,
  type FullPart,
  type Hasher,
  type NewHasher,
  type SqlValue,
} from '@rootmap/core';
import { columnsOf, geometryColumnOf, quoteName } from './describe-geopackage.js';
import { isSqliteError, NotADatabase, openGeopackage } from './open-geopackage.js';

const unknown: FullPart = { vertices: null, grid: null, hash: null, deletedRows: 0 };

/** Vertices, grid and hash of one table: schema, then rows in primary-key order, streamed. See docs/fingerprint.md. */
export function fullGeopackageTable(path: string, table: string, description: Description, newHasher: NewHasher): FullPart {
  try {
    const opened = openGeopackage(path);
    try {
      return readTable(opened.db, table, description, newHasher());
    } finally {
      opened.close();
    }
  } catch (error) {
    if (error instanceof NotADatabase || isSqliteError(error)) return unknown;
    throw error;
  }
}

function readTable(db: Database.Database, table: string, description: Description, hasher: Hasher): FullPart {
  const columns = columnsOf(db, table);
  const isTiles = description.kind === 'raster';
  const geometry = description.kind === 'vector' ? geometryColumnOf(db, table)?.column_name : undefined;
  for (const c of columns) {
    hashValue(hasher, c.name);
    hashValue(hasher, c.type.toUpperCase());
  }
  const key = columns
    .filter((c) => c.pk > 0n)
    .sort((a, b) => Number(a.pk - b.pk))
    .map((c) => quoteName(c.name));
  const order = key.length ? key.join(', ') : 'rowid';
  const grid = new OccupancyGrid(isTiles ? null : description.bbox);
  const at = columns.findIndex((c) => c.name === geometry);
  let vertices = 0;
  const rows = db.prepare(`SELECT * FROM ${quoteName(table)} ORDER BY ${order}`).raw(true);
  for (const row of rows.iterate() as IterableIterator<SqlValue[]>) {
    for (const value of row) hashValue(hasher, value);
    const blob = at >= 0 ? row[at] : null;
    if (blob instanceof Uint8Array) vertices += readGeometryBlob(blob, (x, y) => grid.add(x, y)) ?? 0;
  }
  return { vertices: geometry ? vertices : null, grid: geometry ? grid.toHex() : null, hash: `sha256:${hasher.digest()}`, deletedRows: 0 };
}
