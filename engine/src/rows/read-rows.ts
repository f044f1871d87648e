import { createHash } from 'node:crypto';
import { existsSync, statSync } from 'node:fs';
import { fieldsOf, testRecord, type Field, type Value } from '@rootmap/core';
import type { RowsPage, RowsRequest, ShownValue } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { closeSync, openSync, readSync, renameSync, writeFileSync } from '../disk/files.js';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { CacheFolder, versionOf } from '../disk/cache-folder.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { conditionOf } from './filter-condition.js';
import { rowQuery } from './row-query.js';
import { openRowTable, type RowTable } from './row-table.js';

/** Longer text is cut for the table. */
const LONGEST_SHOWN = 2000;
const KEY_BYTES = 8;

/**
 * Part of a dataset's records, in an order and under conditions. The keys of all that are found are worked out once and kept below the
 * cache, so that any part of a million comes as fast as the first.
 */
export function readRows(
  found: FoundDataset,
  request: RowsRequest,
  dataFolder: string,
  onProgress: (done: number) => void = () => undefined,
): RowsPage {
  const cache = new CacheFolder(join(dataFolder, 'cache', 'rows'));
  const version = versionOf(found);
  const folder = cache.of(version);
  cache.touch(version);
  const table = openRowTable(found, folder, onProgress);
  try {
    const all = keysFor(table, { sort: null, find: '', where: [], filter: '' }, folder);
    const keys = keysFor(table, request, folder);
    const rows = rowsOf(table, readKeys(keys.path, request.from, request.count));
    const at = request.seek === null ? null : placeOf(table, readKeys(keys.path, 0, keys.count), request.seek);
    return { fields: found.dataset.fields ?? [], found: keys.count, all: all.count, at, rows };
  } finally {
    table.close();
    cache.trim();
  }
}

function placeOf(table: RowTable, keys: Float64Array, id: number): number | null {
  const key = table.keyOf(id);
  const at = key === null ? -1 : keys.indexOf(key);
  return at < 0 ? null : at;
}

/** The file of the keys in their order; made where it is not there. */
function keysFor(
  table: RowTable,
  { sort, find, where, filter }: Pick<RowsRequest, 'sort' | 'find' | 'where' | 'filter'>,
  folder: string,
): { path: string; count: number } {
  const name = createHash('sha256')
    .update(JSON.stringify([sort, find.trim(), where, ...(filter.trim() === '' ? [] : [filter])]))
    .digest('hex')
    .slice(0, 24);
  const path = join(folder, `${name}.keys`);
  if (!existsSync(path)) {
    const { tail, parameters } = rowQuery({ sort, find, where }, table.fields, table.key);
    const meets = filtered(table, filter);
    const columns = [table.key, ...meets.fields].map(quoteName);
    const asked = table.db.prepare<unknown[], unknown[]>(`SELECT ${columns.join(', ')} FROM ${quoteName(table.table)} ${tail}`).raw(true);
    const keys: number[] = [];
    for (const [key, ...values] of asked.iterate(...parameters)) if (meets.test(values)) keys.push(Number(key));
    writeFileSync(`${path}.new`, new Uint8Array(Float64Array.from(keys).buffer));
    renameSync(`${path}.new`, path);
  }
  return { path, count: statSync(path).size / KEY_BYTES };
}

/** Whether a row meets a filter, by the values of the fields that it names. Throws `wrong-use` where the filter is none. */
function filtered(table: RowTable, filter: string): { fields: readonly string[]; test: (values: readonly unknown[]) => boolean } {
  const condition = conditionOf(filter);
  if (!condition) return { fields: [], test: () => true };
  const fields = [...new Set(fieldsOf(condition))].flatMap((name) => table.fields.find((f) => f.name === name) ?? []);
  const places = new Map(fields.map((f, i) => [f.name, i]));
  return {
    fields: fields.map((f) => f.name),
    test: (values) =>
      testRecord(condition, (name) => {
        const i = places.get(name);
        return i === undefined ? undefined : valueIn(values[i], fields[i]!);
      }) === true,
  };
}

/** A value of a column as records have it. */
const valueIn = (value: unknown, { type }: Field): Value =>
  type === 'boolean' && value !== null ? Number(value) !== 0 : ((value ?? null) as Value);

function readKeys(path: string, from: number, count: number): Float64Array {
  const fd = openSync(path, 'r');
  try {
    const bytes = Buffer.alloc(count * KEY_BYTES);
    const read = readSync(fd, bytes, 0, bytes.length, from * KEY_BYTES);
    return new Float64Array(bytes.buffer, bytes.byteOffset, Math.floor(read / KEY_BYTES));
  } finally {
    closeSync(fd);
  }
}

function rowsOf(table: RowTable, keys: Float64Array): RowsPage['rows'] {
  const valuesOf = valueReader(table);
  return [...keys].map((key) => ({ key, id: table.idOf(key), values: valuesOf(key) ?? [] }));
}

/** The values of a row by its key; null: there is none. */
export function valueReader({ db, table, key, fields }: RowTable): (key: number) => ShownValue[] | null {
  const columns = fields.map((f) => quoteName(f.name));
  const one = db
    .prepare<[number], unknown[]>(`SELECT ${columns.join(', ') || 'NULL'} FROM ${quoteName(table)} WHERE ${quoteName(key)} = ?`)
    .raw(true);
  return (k) => one.get(k)?.map((v, i) => shown(v, fields[i])) ?? null;
}

export function shown(value: unknown, field: Field | undefined): ShownValue {
  if (value === null || value === undefined) return null;
  if (value instanceof Uint8Array) return `${value.length} bytes`;
  if (typeof value === 'bigint') {
    if (field?.type === 'boolean') return value !== 0n;
    return Number.isSafeInteger(Number(value)) ? Number(value) : String(value);
  }
  if (typeof value === 'string') return value.length > LONGEST_SHOWN ? `${value.slice(0, LONGEST_SHOWN)}…` : value;
  return Number.isFinite(value) ? (value as number) : null; // no number, or one without end
}
