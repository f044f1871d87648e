import 'reflect-metadata';
import type Database from 'better-sqlite3';
import { DataSource, type MigrationInterface, type QueryRunner } from 'typeorm';
import type { IndexStore } from './survey-index.js';
import { initialize, SAYS_NOTHING } from '../store/initialize.js';

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

/** What the data was on its disk, so that it is known again where it went. */
class AddObjects1764900000004 implements MigrationInterface {
  name = 'AddObjects1764900000004';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "seen" ADD COLUMN "file" text');
    await runner.query('ALTER TABLE "seen" ADD COLUMN "folder" text');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "seen" DROP COLUMN "file"');
    await runner.query('ALTER TABLE "seen" DROP COLUMN "folder"');
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

/** What a file and its folder are on the disk (`objectId`); null: not known. */
export interface SeenObjects {
  readonly file: string | null;
  readonly folder: string | null;
}
/** When the data of layers was seen last where it belongs, by real path and `#table`, and what it was there. */
export interface SeenStore {
  noteSeen(data: readonly ({ readonly data: string } & SeenObjects)[], ms: number): void;
  /** Null: never, or before this was kept. */
  seen(data: string): (SeenObjects & { readonly ms: number }) | null;
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
        logger: SAYS_NOTHING,
        database: path,
        enableWAL: true,
        timeout: 10_000,
        migrations: [CreateIndex1764000000001, AddSeen1764300000002, ForgetFolders1764600000003, AddObjects1764900000004],
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
    `INSERT INTO seen (data, ms, file, folder) VALUES (?, ?, ?, ?) ON CONFLICT (data) DO UPDATE
     SET ms = excluded.ms, file = excluded.file, folder = excluded.folder
     WHERE excluded.ms - ms > ? OR file IS NOT excluded.file OR folder IS NOT excluded.folder`,
  );
  const seen = db.prepare<[string], SeenObjects & { ms: number }>('SELECT ms, file, folder FROM seen WHERE data = ?');
  const noteSeen = db.transaction<SeenStore['noteSeen']>((all, ms) => {
    for (const { data, file, folder } of all) see.run(data, ms, file, folder, SEEN_AGAIN_MS);
  });
  return {
    noteSeen,
    seen: (data) => seen.get(data) ?? null,
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
