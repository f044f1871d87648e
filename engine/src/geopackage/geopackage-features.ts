import type Database from 'better-sqlite3';
import { wkbOffset, type Feature, type FeatureStream, type Field, type Value, type Wanted } from '@rootmap/core';
import { conditionSql } from './condition-sql.js';
import { columnsOf, geometryColumnOf, quoteName } from './describe-geopackage.js';
import { openGeopackage } from './open-geopackage.js';

/** Rows of a table in primary-key order. The file is open while they are read, and closed when they end or are given up. */
export function geopackageFeatures(path: string, table: string, fields: readonly Field[], wanted: Wanted): FeatureStream {
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    const opened = openGeopackage(path);
    try {
      yield* rowsOf(opened.db, table, fields, wanted);
    } finally {
      opened.close();
    }
  }
}

function* rowsOf(db: Database.Database, table: string, fields: readonly Field[], wanted: Wanted): Generator<Feature> {
  const geometry = wanted.geometry ? geometryColumnOf(db, table)?.column_name : undefined;
  const key = columnsOf(db, table).find((c) => c.pk > 0n)?.name;
  const columns = [
    key === undefined ? 'NULL' : quoteName(key),
    geometry === undefined ? 'NULL' : quoteName(geometry),
    ...(wanted.values ? fields.map((f) => quoteName(f.name)) : []),
  ];
  // Without a key a row is known by its place among all.
  const hint = wanted.hint && key !== undefined ? conditionSql(wanted.hint, fields) : null;
  const order = key === undefined ? '' : ` ORDER BY ${quoteName(key)}`;
  const where = hint ? ` WHERE ${hint.sql}` : '';
  const rows = db.prepare(`SELECT ${columns.join(', ')} FROM ${quoteName(table)}${where}${order}`).raw(true);
  const areTrue = fields.map((f) => f.type === 'boolean');
  let n = 0;
  for (const row of rows.iterate(...(hint?.parameters ?? [])) as IterableIterator<(bigint | number | string | Uint8Array | null)[]>) {
    const blob = row[1];
    const values = new Array<Value>(row.length - 2);
    for (let i = 0; i < values.length; i++) values[i] = toValue(row[i + 2]!, areTrue[i]!);
    yield { id: typeof row[0] === 'bigint' ? Number(row[0]) : n, geometry: blob instanceof Uint8Array ? wkbOf(blob) : null, values };
    n++;
  }
}

function wkbOf(blob: Uint8Array): Uint8Array | null {
  const from = wkbOffset(blob);
  return from === null ? null : blob.subarray(from);
}

function toValue(value: bigint | number | string | Uint8Array | null, isBoolean: boolean): Value {
  if (typeof value !== 'bigint') return value;
  if (isBoolean) return value !== 0n;
  return value >= -9007199254740991n && value <= 9007199254740991n ? Number(value) : value;
}
