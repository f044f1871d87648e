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

const EVERY_ID = { from: -Infinity, to: Infinity };

/** The id that has about this share of the others before it; null: rows have no key, or there are none. @param share from 0 to 1 */
export function idAtShare(path: string, table: string, share: number): number | null {
  const opened = openGeopackage(path);
  try {
    const key = columnsOf(opened.db, table).find((c) => c.pk > 0n)?.name;
    if (key === undefined) return null;
    // One by one: SQLite looks at every row where both are asked for at once.
    const end = (of: 'min' | 'max'): string => `(SELECT ${of}(${quoteName(key)}) FROM ${quoteName(table)})`;
    const [first, last] = opened.db
      .prepare<[], [bigint | null, bigint | null]>(`SELECT ${end('min')}, ${end('max')}`)
      .raw(true)
      .get()!;
    return first === null || last === null ? null : Math.ceil(Number(first) + (Number(last) - Number(first) + 1) * share);
  } finally {
    opened.close();
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
  const { from, to } = wanted.range ?? EVERY_ID;
  const range =
    key !== undefined && wanted.range ? { sql: `${quoteName(key)} >= ? AND ${quoteName(key)} < ?`, parameters: [from, to] } : null;
  const conditions = [range, hint].filter((c) => c !== null);
  const where = conditions.length > 0 ? ` WHERE ${conditions.map((c) => c.sql).join(' AND ')}` : '';
  const rows = db.prepare(`SELECT ${columns.join(', ')} FROM ${quoteName(table)}${where}${order}`).raw(true);
  const areTrue = fields.map((f) => f.type === 'boolean');
  let n = 0;
  for (const row of rows.iterate(...conditions.flatMap((c) => c.parameters)) as IterableIterator<
    (bigint | number | string | Uint8Array | null)[]
  >) {
    const id = typeof row[0] === 'bigint' ? Number(row[0]) : n;
    n++;
    if (id < from || id >= to) continue;
    const blob = row[1];
    const values = new Array<Value>(row.length - 2);
    for (let i = 0; i < values.length; i++) values[i] = toValue(row[i + 2]!, areTrue[i]!);
    yield { id, geometry: blob instanceof Uint8Array ? wkbOf(blob) : null, values };
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
