import { existsSync } from 'node:fs';
import Database from 'better-sqlite3';
import { join } from '../disk/native-path.js';
import type { Asked } from '@rootmap/core';
import type { PlaceSetting } from '../places/places.js';

/**
 * What this data folder knows, for commands that only read: they start without TypeORM, which alone takes longer than they may
 * (docs/decisions/0003-index-rows.md). Nothing where it was never written.
 */
function rowsOf<T>(dataFolder: string, table: string, sql: string): T[] {
  const file = join(dataFolder, 'journal.sqlite');
  if (!existsSync(file)) return [];
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    const isThere = db.prepare("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = ?").get(table);
    return isThere ? db.prepare<[], T>(sql).all() : [];
  } finally {
    db.close();
  }
}

/** Roots of the projects of the list. */
export const knownRoots = (dataFolder: string): string[] =>
  rowsOf<{ root: string }>(dataFolder, 'project', 'SELECT root FROM project ORDER BY root').map((r) => r.root);

/** The places that were added in the app. */
export const keptPlaces = (dataFolder: string): PlaceSetting[] =>
  rowsOf<{ name: string; folder: string; driveNames: string; formerly?: string }>(
    dataFolder,
    'place',
    "SELECT * FROM place WHERE name <> '' ORDER BY n",
  ).map(({ name, folder, driveNames, formerly = '[]' }) => ({
    name,
    folder,
    driveNames: JSON.parse(driveNames) as string[],
    formerly: JSON.parse(formerly) as string[],
  }));

/** What came of asking services, by their addresses. */
export const askedServices = (dataFolder: string): ReadonlyMap<string, Asked> =>
  new Map(
    rowsOf<{ url: string; askedMs: number; okMs: number | null; answered: number; why: string | null; offers: string | null }>(
      dataFolder,
      'service',
      'SELECT * FROM service WHERE askedMs IS NOT NULL',
    ).map(({ url, askedMs, okMs, answered, why, offers }) => [
      url,
      { atMs: askedMs, okMs, answered: answered === 1, why, offers: offers === null ? null : (JSON.parse(offers) as string[]) },
    ]),
  );
