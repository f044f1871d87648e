import fs from 'node:fs';
import Database from 'better-sqlite3';
import { isFree, systemError } from './bounds.js';
import { assertFile, openToRead, openToWrite } from './open.js';

const DESCRIPTORS = '/proc/self/fd';

/** A database that stands at a path; the one that is open is the file that was checked (`open.ts`). */
export function openDatabase(path: string, { readonly }: { readonly: boolean }): Database.Database {
  const open = (): Database.Database => new Database(path, { readonly, fileMustExist: true });
  if (isFree(path)) {
    assertFile(path);
    return open();
  }
  const fd = openToRead(path);
  try {
    return heldOpen(path, fd, open);
  } finally {
    fs.closeSync(fd);
  }
}

/** A new database, or one in an empty file that nobody knows of yet. */
export function newDatabase(path: string): Database.Database {
  if (!fs.existsSync(path)) fs.closeSync(openToWrite(path, 'wx'));
  return openDatabase(path, { readonly: false });
}

/** Held by this process alone, until it ends however it ends. Throws where another holds it. */
export function holdWhole(db: Database.Database): void {
  db.pragma('busy_timeout = 0');
  db.pragma('locking_mode = EXCLUSIVE');
  db.exec('BEGIN EXCLUSIVE');
}

/** SQLite opens by path and follows links: what it holds then must be the file that our own descriptor holds. */
function heldOpen(path: string, fd: number, open: () => Database.Database): Database.Database {
  const db = open();
  if (holdsTwice(path, fd)) return db;
  db.close();
  throw systemError('EOUTSIDE', 'open', path);
}

function holdsTwice(path: string, fd: number): boolean {
  const wanted = fs.fstatSync(fd, { bigint: true });
  const isWanted = (stat: fs.BigIntStats): boolean => stat.ino === wanted.ino && stat.dev === wanted.dev;
  if (!fs.existsSync(DESCRIPTORS)) return isWanted(fs.statSync(path, { bigint: true }));
  return fs.readdirSync(DESCRIPTORS).some((name) => {
    try {
      return Number(name) !== fd && isWanted(fs.fstatSync(Number(name), { bigint: true }));
    } catch {
      return false; // the descriptor that listed them is closed by now
    }
  });
}
