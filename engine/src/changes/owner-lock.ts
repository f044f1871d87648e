import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { holdWhole, newDatabase, openDatabase } from '../disk/database.js';
import { mkdirSync, readdirSync, rmSync } from '../disk/files.js';
import { isHeldByOther } from '../disk/patience.js';
import { join } from '../disk/native-path.js';

/*
 * Where a system has no /proc to tell when a process started, its number alone proves nothing: another may have it now. So a
 * process holds a lock of the operating system for as long as it lives, through SQLite, which ends with it however it ends.
 */

let folder: string | null = null;
let own: { readonly name: string; readonly db: Database.Database } | null = null;

/** Where the locks are: below the data folder that the journal is in. */
export const setOwnersFolder = (dataFolder: string): void => void (folder = join(dataFolder, 'owners'));

/** The name of this process's lock, taken at the first call; '' where there is no data folder. */
export function ownLock(): string {
  if (own || folder === null) return own?.name ?? '';
  mkdirSync(folder, { recursive: true });
  for (const left of readdirSync(folder)) if (left.endsWith('.lock')) isLockFree(left); // those of processes that are gone
  const name = `${process.pid}-${randomUUID().slice(0, 8)}.lock`;
  const db = newDatabase(join(folder, name));
  holdWhole(db);
  own = { name, db };
  return name;
}

/** True only where the lock can be taken, so that whoever held it is gone. Its file goes then. */
export function isLockFree(name: string): boolean {
  if (folder === null || name === own?.name) return false;
  const path = join(folder, name);
  if (!existsSync(path)) return true; // only who finds it free removes it
  let db: Database.Database | null = null;
  try {
    db = openDatabase(path, { readonly: false });
    holdWhole(db);
    db.exec('ROLLBACK');
  } catch {
    return false; // held, or it cannot be told
  } finally {
    db?.close();
  }
  for (const ending of ['', '-journal'])
    try {
      rmSync(path + ending);
    } catch (error) {
      if (!isHeldByOther(error)) throw error; // somebody else finds it free at this moment, too: whoever is next takes it away
    }
  return true;
}
