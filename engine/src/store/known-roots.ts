import { existsSync } from 'node:fs';
import { join } from 'node:path';
import Database from 'better-sqlite3';

/**
 * Roots of the projects that this data folder knows, for commands that only read: they start without TypeORM, which alone
 * takes longer than they may (docs/decisions/0003-index-rows.md).
 */
export function knownRoots(dataFolder: string): string[] {
  const file = join(dataFolder, 'journal.sqlite');
  if (!existsSync(file)) return [];
  const db = new Database(file, { readonly: true, fileMustExist: true });
  try {
    const isThere = db.prepare("SELECT 1 FROM sqlite_master WHERE type = 'table' AND name = 'project'").get();
    return isThere
      ? db
          .prepare<[], { root: string }>('SELECT root FROM project ORDER BY root')
          .all()
          .map((r) => r.root)
      : [];
  } finally {
    db.close();
  }
}
