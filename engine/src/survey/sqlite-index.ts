import 'reflect-metadata';
import type Database from 'better-sqlite3';
import { DataSource, type MigrationInterface, type QueryRunner } from 'typeorm';
import type { IndexStore } from './survey-index.js';
import { initialize } from '../store/initialize.js';

class CreateIndex1764000000001 implements MigrationInterface {
  name = 'CreateIndex1764000000001';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      'CREATE TABLE "folder" ("root" text NOT NULL, "folder" text NOT NULL, "signature" text NOT NULL, "packed" text NOT NULL, PRIMARY KEY ("root", "folder")) WITHOUT ROWID',
    );
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "folder"');
  }
}

class AddSeen1764300000002 implements MigrationInterface {
  name = 'AddSeen1764300000002';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE "seen" ("data" text PRIMARY KEY NOT NULL, "ms" integer NOT NULL) WITHOUT ROWID');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "seen"');
  }
}

/** Rows of before hold no texts of CRSs: they are read anew. */
class ForgetFolders1764600000003 implements MigrationInterface {
  name = 'ForgetFolders1764600000003';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('DELETE FROM "folder"');
  }
  async down(): Promise<void> {
    // nothing to be brought back
  }
}

/** When the data of layers was seen last where it belongs, by real path and `#table`. */
export interface SeenStore {
  noteSeen(data: readonly string[], ms: number): void;
  /** Null: never, or before this was kept. */
  seenMs(data: string): number | null;
}
/** A time that is so little older is left as it is: nobody asks for seconds. */
const SEEN_AGAIN_MS = 600_000;

/**
 * The index: a cache of what headers say, one packed row a folder, deleted at no loss. Opened and migrated through TypeORM;
 * its rows go through prepared statements of the same connection, since this is the hottest path there is
 * (docs/decisions/0003-index-rows.md).
 */
export async function openIndex(path: string): Promise<IndexStore & SeenStore & { close(): Promise<void> }> {
  const source = await initialize(
    () =>
      new DataSource({
        type: 'better-sqlite3',
        database: path,
        enableWAL: true,
        timeout: 10_000,
        migrations: [CreateIndex1764000000001, AddSeen1764300000002, ForgetFolders1764600000003],
        migrationsRun: true,
        synchronize: false,
      }),
  );
  const db = (source.driver as unknown as { databaseConnection: Database.Database }).databaseConnection;
  db.pragma('synchronous = NORMAL');
  const select = db.prepare<[string], { folder: string; signature: string; packed: string }>(
    'SELECT folder, signature, packed FROM folder WHERE root = ?',
  );
  const put = db.prepare('INSERT OR REPLACE INTO folder (root, folder, signature, packed) VALUES (?, ?, ?, ?)');
  const drop = db.prepare('DELETE FROM folder WHERE root = ? AND folder = ?');
  const save = db.transaction(
    (root: string, changed: readonly { folder: string; signature: string; packed: string }[], gone: readonly string[]) => {
      for (const row of changed) put.run(root, row.folder, row.signature, row.packed);
      for (const folder of gone) drop.run(root, folder);
    },
  );
  const see = db.prepare(
    'INSERT INTO seen (data, ms) VALUES (?, ?) ON CONFLICT (data) DO UPDATE SET ms = excluded.ms WHERE excluded.ms - ms > ?',
  );
  const seen = db.prepare<[string], { ms: number }>('SELECT ms FROM seen WHERE data = ?');
  const noteSeen = db.transaction((data: readonly string[], ms: number) => {
    for (const path of data) see.run(path, ms, SEEN_AGAIN_MS);
  });
  return {
    noteSeen,
    seenMs: (data) => seen.get(data)?.ms ?? null,
    load: (root) => {
      const rows = new Map<string, { signature: string; packed: string }>();
      for (const row of select.iterate(root)) rows.set(row.folder, row);
      return rows;
    },
    save: (root, changed, gone) => {
      if (changed.length || gone.length) save(root, changed, gone);
    },
    close: () => source.destroy(),
  };
}
