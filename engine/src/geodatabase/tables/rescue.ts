import type Database from 'better-sqlite3';
import { ProblemError, type OnProgress } from '@rootmap/core';
import { quoteName } from '../../geopackage/describe-geopackage.js';
import { isSqliteError, NotADatabase, openGeopackage } from '../../geopackage/open-geopackage.js';
import { newGeopackage } from '../../geopackage-write/new-geopackage.js';
import { copyRegistry, createAlike } from './copy-table.js';
import { salvageRows } from './salvage-rows.js';

/** What of one table could be read. */
export interface Rescued {
  readonly table: string;
  readonly rows: number;
  /** What is known to be lost, or why nothing came; null: the whole table was read. */
  readonly why: string | null;
}

/**
 * Reads what can be read of a damaged geodatabase into a new one. Each table comes by itself: one that is lost takes no other along.
 * The damaged file is opened for reading only.
 */
export function rescue(from: string, staged: string, onProgress: OnProgress): Rescued[] {
  const source = open(from);
  try {
    const tables = namesOf(source.db);
    return newGeopackage(staged, (db) =>
      tables.map((table) => rescueTable(db, source.db, table, (done) => onProgress({ done, of: 0, unit: 'records', item: table }))),
    );
  } finally {
    source.close();
  }
}

function open(from: string) {
  try {
    return openGeopackage(from);
  } catch (error) {
    if (!(error instanceof NotADatabase)) throw error;
    throw new ProblemError({ code: 'failed', what: `Reading ${from}`, why: `${error.message}, and nothing in it can be made out` });
  }
}

function namesOf(db: Database.Database): string[] {
  try {
    return db.prepare<[], string>('SELECT table_name FROM gpkg_contents ORDER BY table_name').pluck(true).all();
  } catch (error) {
    if (!isSqliteError(error)) throw error;
    throw new ProblemError({
      code: 'failed',
      what: 'Reading its table of contents',
      why: `${error.message}. Bring back an earlier copy from a backup, or a bundle`,
    });
  }
}

function rescueTable(db: Database.Database, source: Database.Database, table: string, onProgress: (rows: number) => void): Rescued {
  db.exec('SAVEPOINT one');
  let rows = 0;
  try {
    createAlike(db, source, table, table);
    const columns = source
      .prepare<[], { name: string }>(`PRAGMA table_info(${quoteName(table)})`)
      .all()
      .map((c) => c.name);
    const insert = db.prepare(
      `INSERT OR IGNORE INTO ${quoteName(table)} (${columns.map(quoteName).join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`,
    );
    salvageRows(source, table, columns, (row) => {
      rows += insert.run(row.slice(1)).changes;
      if (rows % 4096 === 0) onProgress(rows);
    });
    copyRegistry(db, source, table, table);
    db.exec('RELEASE one');
  } catch (error) {
    if (!isSqliteError(error) && !(error instanceof ProblemError)) throw error;
    db.exec('ROLLBACK TO one; RELEASE one');
    return { table, rows: 0, why: `nothing of it could be read: ${error.message}` };
  }
  const expected = countOf(source, table);
  const isWhole = expected !== null && expected === rows;
  return { table, rows, why: isWhole ? null : expected === null ? 'how many are lost is not known' : `${expected - rows} are lost` };
}

/** Null: the pages that would have to be counted cannot be read. */
function countOf(db: Database.Database, table: string): number | null {
  try {
    return Number(
      db
        .prepare(`SELECT count(*) FROM ${quoteName(table)}`)
        .pluck(true)
        .get(),
    );
  } catch (error) {
    if (!isSqliteError(error)) throw error;
    return null;
  }
}
