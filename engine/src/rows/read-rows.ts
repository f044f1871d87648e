import { createHash } from 'node:crypto';
import { existsSync, statSync } from 'node:fs';
import type { Field } from '@rootmap/core';
import type { RowsPage, RowsRequest, ShownValue } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { closeSync, openSync, readSync, renameSync, writeFileSync } from '../disk/files.js';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { CacheFolder, versionOf } from '../disk/cache-folder.js';
import type { FoundDataset } from '../project/find-dataset.js';
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
    const all = keysFor(table, { sort: null, find: '', where: [] }, folder);
    const keys = keysFor(table, request, folder);
    const rows = rowsOf(table, readKeys(keys.path, request.from, request.count));
    return { fields: found.dataset.fields ?? [], found: keys.count, all: all.count, rows };
  } finally {
    table.close();
    cache.trim();
  }
}

/** The file of the keys in their order; made where it is not there. */
function keysFor(
  table: RowTable,
  { sort, find, where }: Pick<RowsRequest, 'sort' | 'find' | 'where'>,
  folder: string,
): { path: string; count: number } {
  const name = createHash('sha256')
    .update(JSON.stringify([sort, find.trim(), where]))
    .digest('hex')
    .slice(0, 24);
  const path = join(folder, `${name}.keys`);
  if (!existsSync(path)) {
    const { tail, parameters } = rowQuery({ sort, find, where }, table.fields, table.key);
    const keys = table.db
      .prepare<unknown[], bigint>(`SELECT ${quoteName(table.key)} FROM ${quoteName(table.table)} ${tail}`)
      .pluck(true)
      .safeIntegers(false)
      .all(...parameters);
    writeFileSync(`${path}.new`, new Uint8Array(Float64Array.from(keys, Number).buffer));
    renameSync(`${path}.new`, path);
  }
  return { path, count: statSync(path).size / KEY_BYTES };
}

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

function rowsOf({ db, table, key, fields }: RowTable, keys: Float64Array): RowsPage['rows'] {
  const columns = fields.map((f) => quoteName(f.name));
  const one = db
    .prepare<[number], unknown[]>(`SELECT ${columns.join(', ') || 'NULL'} FROM ${quoteName(table)} WHERE ${quoteName(key)} = ?`)
    .raw(true);
  return [...keys].map((k) => ({ key: k, values: (one.get(k) ?? []).map((v, i) => shown(v, fields[i])) }));
}

function shown(value: unknown, field: Field | undefined): ShownValue {
  if (value === null || value === undefined) return null;
  if (value instanceof Uint8Array) return `${value.length} bytes`;
  if (typeof value === 'bigint') {
    if (field?.type === 'boolean') return value !== 0n;
    return Number.isSafeInteger(Number(value)) ? Number(value) : String(value);
  }
  if (typeof value === 'string') return value.length > LONGEST_SHOWN ? `${value.slice(0, LONGEST_SHOWN)}…` : value;
  return Number.isFinite(value) ? (value as number) : null; // no number, or one without end
}
