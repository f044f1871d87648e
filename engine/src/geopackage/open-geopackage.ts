import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import type { Problem } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { openDatabase } from '../disk/database.js';
import { closeSync, copyFileSync, openSync, readSync, rmSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import { beginReading, isShunned } from './reading-watch.js';

const MAGIC = 'SQLite format 3\0';
const WAL = 2;

export interface OpenedGeopackage {
  readonly db: Database.Database;
  /** Views and virtual tables, by name: asking them would run what the file brings along. */
  readonly computed: ReadonlySet<string>;
  close(): void;
}

/**
 * Opens a GeoPackage for reading and leaves nothing beside it. A database in WAL mode, or one with a journal beside it,
 * would get `-wal` and `-shm` files even when opened read-only, so a private copy of it and them is read instead.
 * Header bytes 18 and 19: SQLite file format, section 1.3.3. Throws `NotADatabase` where the file is none.
 */
export function openGeopackage(path: string): OpenedGeopackage {
  const shared = held.get(path);
  if (shared) return { ...shared, close: () => undefined };
  return needsCopy(path) ? openCopy(path) : openAt(path);
}

/** Those that are open for a while, by path. */
const held = new Map<string, OpenedGeopackage>();

/**
 * Opens a GeoPackage for all who read it until it is released: each opening reads the definitions of all of its tables, of which there
 * may be thousands. One that cannot be opened is left to whoever reads it.
 */
export function holdGeopackage(path: string): () => void {
  if (held.has(path)) return () => undefined;
  let opened: OpenedGeopackage;
  try {
    opened = openGeopackage(path);
  } catch {
    return () => undefined; // told by its first reader, for each of its tables
  }
  held.set(path, opened);
  return () => {
    held.delete(path);
    opened.close();
  };
}

/** It could not be read where it is without leaving something beside it. */
export function needsCopy(path: string): boolean {
  const header = readHeader(path);
  if (header.toString('latin1', 0, 16) !== MAGIC) throw new NotADatabase('it does not begin like a SQLite file');
  return header[18] === WAL || header[19] === WAL || [`${path}-wal`, `${path}-journal`].some((p) => existsSync(p));
}

export class NotADatabase extends Error {}

/** Told by its code: the addon's error class is one for the whole process, the module's is not. */
export const isSqliteError = (error: unknown): error is Error & { code: string } =>
  typeof error === 'object' && error !== null && /^SQLITE_/.test(String((error as { code?: unknown }).code));

/** What is wrong with the file, where it or SQLite would not be read; null: the error is another one. */
export const databaseProblem = (error: unknown, file: string): Problem | null =>
  error instanceof NotADatabase || isSqliteError(error) ? { code: 'not-a-database', file, why: error.message } : null;

function readHeader(path: string): Buffer {
  const fd = openSync(path, 'r');
  try {
    const header = Buffer.alloc(100);
    readSync(fd, header, 0, 100, 0);
    return header;
  } finally {
    closeSync(fd);
  }
}

function openAt(path: string, shown = path, readonly = true): OpenedGeopackage {
  if (isShunned(shown)) throw new NotADatabase('it kept its reader busy without end, and is not opened again until it changes');
  const end = beginReading(shown);
  let db: Database.Database | null = null;
  let computed: ReadonlySet<string>;
  try {
    db = openDatabase(path, { readonly });
    db.pragma('trusted_schema = OFF');
    db.pragma('cell_size_check = ON');
    db.defaultSafeIntegers(true);
    computed = computedTables(db);
    // What stands where the standard has a table of its registry must be a table: a view would be computed by the file's own SQL.
    const registry = [...computed].find((name) => name.startsWith('gpkg_'));
    if (registry !== undefined) throw new NotADatabase(`${registry} is computed by SQL of its own and no table`);
  } catch (error) {
    db?.close();
    end();
    throw isSqliteError(error) ? new NotADatabase(error.message) : error;
  }
  const opened = db;
  return {
    db: opened,
    computed,
    close: () => {
      opened.close();
      end();
    },
  };
}

/** Indexes of shapes are virtual, too, and the standard's own: they are asked by their own names only. */
function computedTables(db: Database.Database): ReadonlySet<string> {
  const rows = db
    .prepare<[], { name: string; type: string; sql: string | null }>(
      "SELECT name, type, sql FROM sqlite_master WHERE type IN ('table', 'view')",
    )
    .all();
  const isComputed = (r: { type: string; sql: string | null }): boolean => r.type === 'view' || /^\s*CREATE\s+VIRTUAL/i.test(r.sql ?? '');
  return new Set(rows.filter(isComputed).map((r) => String(r.name)));
}

function openCopy(path: string): OpenedGeopackage {
  const folder = newScratch('read');
  const discard = (): void => rmSync(folder);
  try {
    const copy = join(folder, basename(path));
    for (const ending of ['', '-wal', '-journal']) if (existsSync(path + ending)) copyFileSync(path + ending, copy + ending);
    const opened = openAt(copy, path, false);
    return {
      db: opened.db,
      computed: opened.computed,
      close: () => {
        opened.close();
        discard();
      },
    };
  } catch (error) {
    discard();
    throw error;
  }
}
