import 'reflect-metadata';
import type Database from 'better-sqlite3';
import { DataSource, type MigrationInterface, type QueryRunner } from 'typeorm';
import type { IndexStore } from './survey-index.js';

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

/**
 * The index: a cache of what headers say, one packed row a folder, deleted at no loss. Opened and migrated through TypeORM;
 * its rows go through prepared statements of the same connection, since this is the hottest path there is
 * (docs/decisions/0003-index-rows.md).
 */
export async function openIndex(path: string): Promise<IndexStore & { close(): Promise<void> }> {
  const source = await new DataSource({
    type: 'better-sqlite3',
    database: path,
    enableWAL: true,
    timeout: 10_000,
    migrations: [CreateIndex1764000000001],
    migrationsRun: true,
    synchronize: false,
  }).initialize();
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
  return {
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
