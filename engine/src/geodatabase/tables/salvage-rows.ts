import type Database from 'better-sqlite3';
import { quoteName } from '../../geopackage/describe-geopackage.js';
import { isSqliteError } from '../../geopackage/open-geopackage.js';

/** More tries than this are not made in one table: what is left is mostly damage. */
const MOST_TRIES = 20_000;
const LOWEST = -(2n ** 63n);
const HIGHEST = 2n ** 63n - 1n;

/**
 * Rows of a damaged table, as many as can be reached: from the first on until a page cannot be read, from the last back, and so on in
 * halves of what lies between. Each row comes once, with its rowid.
 */
export function salvageRows(db: Database.Database, table: string, columns: readonly string[], take: (row: unknown[]) => void): void {
  const select = `SELECT rowid, ${columns.map(quoteName).join(', ')} FROM ${quoteName(table)} WHERE rowid BETWEEN ? AND ? ORDER BY rowid`;
  let tries = 0;

  /** Takes rows from one side until the other side, or the damage. @returns the rowid at which it stopped; null: all were taken */
  const run = (low: bigint, high: bigint, order: 'ASC' | 'DESC'): bigint | null => {
    tries++;
    let next = order === 'ASC' ? low : high;
    try {
      for (const row of db.prepare(`${select} ${order}`).raw(true).iterate(low, high) as IterableIterator<unknown[]>) {
        const id = BigInt(row[0] as bigint);
        take(row);
        next = order === 'ASC' ? id + 1n : id - 1n;
      }
      return null;
    } catch (error) {
      if (!isSqliteError(error)) throw error;
      return next;
    }
  };

  const open: [bigint, bigint][] = [[LOWEST, HIGHEST]];
  for (let range = open.pop(); range && tries < MOST_TRIES; range = open.pop()) {
    const low = run(range[0], range[1], 'ASC');
    if (low === null || low > range[1]) continue;
    const high = run(low, range[1], 'DESC');
    if (high === null || high <= low) continue;
    const middle = (low + high) / 2n;
    open.push([low, middle], [middle + 1n, high]);
  }
}
