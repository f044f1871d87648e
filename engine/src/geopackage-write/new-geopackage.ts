import type Database from 'better-sqlite3';
import { newDatabase } from '../disk/database.js';
import { rmSync } from '../disk/files.js';
import { createSchema } from './schema.js';

/**
 * A new GeoPackage at a path where nothing stands, filled by `fill` in one transaction: it is whole or not there. No journal is
 * kept beside it, since nobody knows of the file yet.
 */
export function newGeopackage<T>(path: string, fill: (db: Database.Database) => T): T {
  const db = newDatabase(path);
  try {
    db.pragma('page_size = 4096');
    db.pragma('journal_mode = OFF');
    db.pragma('synchronous = OFF');
    db.unsafeMode(true); // for the R-tree's own tables
    const result = db.transaction(() => {
      createSchema(db);
      return fill(db);
    })();
    db.close();
    return result;
  } catch (error) {
    db.close();
    rmSync(path);
    throw error;
  }
}
