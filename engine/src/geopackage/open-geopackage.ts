import { closeSync, copyFileSync, existsSync, mkdtempSync, openSync, readSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import Database from 'better-sqlite3';

const MAGIC = 'SQLite format 3\0';
const WAL = 2;

export interface OpenedGeopackage {
  readonly db: Database.Database;
  close(): void;
}

/**
 * Opens a GeoPackage for reading and leaves nothing beside it. A database in WAL mode, or one with a journal beside it,
 * would get `-wal` and `-shm` files even when opened read-only, so a private copy of it and them is read instead.
 * Header bytes 18 and 19: SQLite file format, section 1.3.3. Throws `NotADatabase` where the file is none.
 */
export function openGeopackage(path: string): OpenedGeopackage {
  return needsCopy(path) ? openCopy(path) : openAt(path);
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

function openAt(path: string, readonly = true): OpenedGeopackage {
  try {
    const db = new Database(path, { readonly, fileMustExist: true });
    db.pragma('trusted_schema = OFF');
    db.pragma('cell_size_check = ON');
    db.defaultSafeIntegers(true);
    return { db, close: () => db.close() };
  } catch (error) {
    throw isSqliteError(error) ? new NotADatabase(error.message) : error;
  }
}

function openCopy(path: string): OpenedGeopackage {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-read-'));
  const discard = (): void => rmSync(folder, { recursive: true, force: true });
  try {
    const copy = join(folder, basename(path));
    for (const ending of ['', '-wal', '-journal']) if (existsSync(path + ending)) copyFileSync(path + ending, copy + ending);
    const opened = openAt(copy, false);
    return {
      db: opened.db,
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
