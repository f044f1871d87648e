import { constants, existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { wkbOffset, readWkb } from '@rootmap/core';
import { copyFileSync, rmSync } from '../../disk/files.js';
import { newDatabase, openDatabase } from '../../disk/database.js';
import { beginReading } from '../../geopackage/reading-watch.js';
import { BESIDE } from '../holders.js';

/**
 * A database that nobody knows of yet: no journal beside it, since what goes wrong takes it away whole. The R-tree's own tables can
 * be written, and triggers of spatial indexes find the functions that they call.
 */
export function openStaged(path: string): Database.Database {
  const db = newDatabase(path);
  const end = beginReading(path); // its triggers run when it is written
  const close = db.close.bind(db);
  db.close = () => {
    end();
    return close();
  };
  db.pragma('journal_mode = OFF');
  db.pragma('synchronous = OFF');
  db.pragma('foreign_keys = OFF');
  db.unsafeMode(true);
  defineBoxFunctions(db);
  return db;
}

/** A copy beside the original, with what stands in its write-ahead log or a journal that was left, which is taken in. Blocks are shared where the disk can. */
export function copyWhole(from: string, to: string): void {
  for (const ending of ['', '-wal', '-journal'])
    if (existsSync(from + ending)) copyFileSync(from + ending, to + ending, constants.COPYFILE_FICLONE);
  const db = openDatabase(to, { readonly: false });
  db.pragma('journal_mode = DELETE');
  db.close();
  for (const ending of BESIDE) rmSync(to + ending);
}

/** Functions that the triggers of a spatial index call (OGC 12-128r17, annex F.3, requirement 76). */
function defineBoxFunctions(db: Database.Database): void {
  const side = (name: string, axis: 0 | 1, pick: (a: number, b: number) => number): void =>
    void db.function(name, { deterministic: true }, (blob: unknown) => {
      if (!(blob instanceof Uint8Array)) return null;
      const from = wkbOffset(blob);
      let found: number | null = null;
      const vertex = (x: number, y: number): void => {
        const value = axis === 0 ? x : y;
        found = found === null ? value : pick(found, value);
      };
      return from !== null && readWkb(blob, { vertex }, from) ? found : null;
    });
  side('ST_MinX', 0, Math.min);
  side('ST_MaxX', 0, Math.max);
  side('ST_MinY', 1, Math.min);
  side('ST_MaxY', 1, Math.max);
  db.function('ST_IsEmpty', { deterministic: true }, (blob: unknown) => (blob instanceof Uint8Array ? (blob[3]! & 0x10) >> 4 : null));
}
