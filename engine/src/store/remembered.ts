import 'reflect-metadata';
import { EntitySchema, type MigrationInterface, type QueryRunner } from 'typeorm';

/*
 * What is remembered for people, each kind in a table of its own, so that one statement changes one thing: two requests at
 * the same time lose nothing of each other.
 */

export interface PlanRow {
  id: string;
  /** In small letters: one plan a title. */
  folded: string;
  /** A `FolderPlanBody` as JSON. */
  body: string;
}
export interface PlaceRow {
  name: string;
  /** Their order. */
  n: number;
  folder: string;
  /** JSON. */
  driveNames: string;
  /** JSON: folders at which it stood before. */
  formerly: string;
}
/** A layer and a dataset that was turned down for it. */
export interface RejectionRow {
  entry: string;
  ms: number;
}
export interface AcceptedMoveRow {
  /** From where to where, as JSON. */
  moved: string;
  /** The mend that accepted it. */
  changeId: string;
  ms: number;
}
export interface MissedMoveRow {
  n: number;
  root: string;
  /** Pairs of paths, as JSON. */
  pairs: string;
}
export interface OriginalsRow {
  root: string;
  /** As the task wants it. */
  known: string;
}
export interface SeenFolderRow {
  path: string;
  ms: number;
}

export interface SentRow {
  root: string;
  /** A `SendRequest` as JSON. */
  choices: string;
}

export interface EditionRow {
  root: string;
  /** When it was sent or received. */
  ms: number;
  /** Name of the bundle. */
  bundle: string;
  /** SHA-256 by path, as JSON: of the root, and of the bundle's payload. */
  here: string;
  sent: string;
}

/** What came of asking a service, by its address. */
export interface ServiceRow {
  url: string;
  askedMs: number | null;
  okMs: number | null;
  /** 1: it answered when it was asked last. */
  answered: number;
  why: string | null;
  /** Names of what it offers, as JSON. */
  offers: string | null;
  /** Sealed; null: nobody signed in. */
  signIn: string | null;
  signInKind: string | null;
}

export const planTable = new EntitySchema<PlanRow>({
  name: 'plan',
  columns: { id: { type: 'text', primary: true }, folded: { type: 'text', unique: true }, body: { type: 'text' } },
});
export const placeTable = new EntitySchema<PlaceRow>({
  name: 'place',
  columns: {
    name: { type: 'text', primary: true },
    n: { type: 'integer' },
    folder: { type: 'text' },
    driveNames: { type: 'text' },
    formerly: { type: 'text', default: '[]' },
  },
});
export const rejectionTable = new EntitySchema<RejectionRow>({
  name: 'rejection',
  columns: { entry: { type: 'text', primary: true }, ms: { type: 'integer' } },
});
export const acceptedMoveTable = new EntitySchema<AcceptedMoveRow>({
  name: 'accepted_move',
  columns: { moved: { type: 'text', primary: true }, changeId: { type: 'text' }, ms: { type: 'integer' } },
});
export const missedMoveTable = new EntitySchema<MissedMoveRow>({
  name: 'missed_move',
  columns: { n: { type: 'integer', primary: true, generated: 'increment' }, root: { type: 'text' }, pairs: { type: 'text' } },
});
export const originalsTable = new EntitySchema<OriginalsRow>({
  name: 'originals',
  columns: { root: { type: 'text', primary: true }, known: { type: 'text' } },
});
export const seenFolderTable = new EntitySchema<SeenFolderRow>({
  name: 'seen_folder',
  columns: { path: { type: 'text', primary: true }, ms: { type: 'integer' } },
});

export const sentTable = new EntitySchema<SentRow>({
  name: 'sent',
  columns: { root: { type: 'text', primary: true }, choices: { type: 'text' } },
});

export const editionTable = new EntitySchema<EditionRow>({
  name: 'edition',
  columns: {
    root: { type: 'text', primary: true },
    ms: { type: 'integer' },
    bundle: { type: 'text' },
    here: { type: 'text' },
    sent: { type: 'text' },
  },
});

export const serviceTable = new EntitySchema<ServiceRow>({
  name: 'service',
  columns: {
    url: { type: 'text', primary: true },
    askedMs: { type: 'integer', nullable: true },
    okMs: { type: 'integer', nullable: true },
    answered: { type: 'integer', default: 0 },
    why: { type: 'text', nullable: true },
    offers: { type: 'text', nullable: true },
    signIn: { type: 'text', nullable: true },
    signInKind: { type: 'text', nullable: true },
  },
});
export interface AllowedHostRow {
  /** Empty: for projects in every place. */
  place: string;
  host: string;
}
export const allowedHostTable = new EntitySchema<AllowedHostRow>({
  name: 'allowed_host',
  columns: { place: { type: 'text', primary: true }, host: { type: 'text', primary: true } },
});

/** Linked services, and hosts of one's own network that may be asked. */
export class AddServices1765400000000 implements MigrationInterface {
  name = 'AddServices1765400000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      'CREATE TABLE "service" ("url" text PRIMARY KEY NOT NULL, "askedMs" integer, "okMs" integer, "answered" integer NOT NULL DEFAULT 0, "why" text, "offers" text, "signIn" text, "signInKind" text)',
    );
    await runner.query('CREATE TABLE "allowed_host" ("host" text PRIMARY KEY NOT NULL)');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "allowed_host"');
    await runner.query('DROP TABLE "service"');
  }
}

/** Hosts are allowed place by place; those that were allowed before stay allowed in every place. */
export class AllowHostsByPlace1765600000000 implements MigrationInterface {
  name = 'AllowHostsByPlace1765600000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "allowed_host" RENAME TO "allowed_before"');
    await runner.query('CREATE TABLE "allowed_host" ("place" text NOT NULL, "host" text NOT NULL, PRIMARY KEY ("place", "host"))');
    await runner.query(`INSERT INTO "allowed_host" ("place", "host") SELECT '', "host" FROM "allowed_before"`);
    await runner.query('DROP TABLE "allowed_before"');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "allowed_host" RENAME TO "allowed_after"');
    await runner.query('CREATE TABLE "allowed_host" ("host" text PRIMARY KEY NOT NULL)');
    await runner.query('INSERT OR IGNORE INTO "allowed_host" ("host") SELECT "host" FROM "allowed_after"');
    await runner.query('DROP TABLE "allowed_after"');
  }
}

/** What was chosen last for a bundle of a project, and what a project held when it was sent or received last. */
export class AddSent1765200000000 implements MigrationInterface {
  name = 'AddSent1765200000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('CREATE TABLE "sent" ("root" text PRIMARY KEY NOT NULL, "choices" text NOT NULL)');
    await runner.query(
      'CREATE TABLE "edition" ("root" text PRIMARY KEY NOT NULL, "ms" integer NOT NULL, "bundle" text NOT NULL, "here" text NOT NULL, "sent" text NOT NULL)',
    );
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "edition"');
    await runner.query('DROP TABLE "sent"');
  }
}

interface KeptBefore {
  readonly plans?: readonly { readonly id: string; readonly title: string }[];
  readonly places?: readonly { readonly name: string; readonly folder: string; readonly driveNames: readonly string[] }[];
  readonly 'mend.memory'?: {
    readonly rejected: readonly string[];
    readonly accepted: readonly { readonly from: object; readonly to: object; readonly change: string }[];
  };
  readonly seen?: Readonly<Record<string, number>>;
}

/** Where a place stood before it was known again elsewhere. */
export class AddFormerFolders1765100000000 implements MigrationInterface {
  name = 'AddFormerFolders1765100000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`ALTER TABLE "place" ADD COLUMN "formerly" text NOT NULL DEFAULT '[]'`);
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "place" DROP COLUMN "formerly"');
  }
}

/** What stood in one row of `setting` a kind comes into tables of its own. */
export class SplitSettings1764600000000 implements MigrationInterface {
  name = 'SplitSettings1764600000000';

  async up(runner: QueryRunner): Promise<void> {
    for (const sql of [
      `CREATE TABLE "plan" ("id" text PRIMARY KEY NOT NULL, "folded" text UNIQUE NOT NULL, "body" text NOT NULL)`,
      `CREATE TABLE "place" ("name" text PRIMARY KEY NOT NULL, "n" integer NOT NULL, "folder" text NOT NULL, "driveNames" text NOT NULL)`,
      `CREATE TABLE "rejection" ("entry" text PRIMARY KEY NOT NULL, "ms" integer NOT NULL)`,
      `CREATE TABLE "accepted_move" ("moved" text PRIMARY KEY NOT NULL, "changeId" text NOT NULL, "ms" integer NOT NULL)`,
      `CREATE TABLE "missed_move" ("n" integer PRIMARY KEY AUTOINCREMENT NOT NULL, "root" text NOT NULL, "pairs" text NOT NULL)`,
      `CREATE INDEX "missed_move_by_root" ON "missed_move" ("root", "n")`,
      `CREATE TABLE "originals" ("root" text PRIMARY KEY NOT NULL, "known" text NOT NULL)`,
      `CREATE TABLE "seen_folder" ("path" text PRIMARY KEY NOT NULL, "ms" integer NOT NULL)`,
    ])
      await runner.query(sql);
    const rows = (await runner.query('SELECT "key", "value" FROM "setting"')) as { key: string; value: string }[];
    const put = (table: string, columns: string, values: readonly unknown[]): Promise<unknown> =>
      runner.query(`INSERT INTO "${table}" (${columns}) VALUES (${values.map(() => '?').join(', ')})`, [...values]);
    const kept = Object.fromEntries(
      rows.filter((r) => !r.key.includes(' ')).map((r) => [r.key, JSON.parse(r.value) as unknown]),
    ) as KeptBefore;
    for (const { id, ...body } of kept.plans ?? [])
      await put('plan', '"id", "folded", "body"', [id, body.title.toLowerCase(), JSON.stringify(body)]);
    for (const [n, { name, folder, driveNames }] of (kept.places ?? []).entries())
      await put('place', '"name", "n", "folder", "driveNames"', [name, n, folder, JSON.stringify(driveNames)]);
    if (kept.places?.length === 0) await put('place', '"name", "n", "folder", "driveNames"', ['', -1, '', '[]']); // none, on purpose
    const memory = kept['mend.memory'] ?? { rejected: [], accepted: [] };
    const now = Date.now(); // the newest stands first in them
    for (const [i, entry] of memory.rejected.entries()) await put('rejection', '"entry", "ms"', [entry, now - i]);
    for (const [i, { from, to, change }] of memory.accepted.entries())
      await put('accepted_move', '"moved", "changeId", "ms"', [JSON.stringify({ from, to }), change, now - i]);
    for (const [path, ms] of Object.entries(kept.seen ?? {})) await put('seen_folder', '"path", "ms"', [path, ms]);
    for (const { key, value } of rows) {
      const root = key.slice(key.indexOf(' ') + 1);
      if (key.startsWith('originals ')) await put('originals', '"root", "known"', [root, value]);
      if (key.startsWith('missed '))
        for (const pairs of JSON.parse(value) as unknown[]) await put('missed_move', '"root", "pairs"', [root, JSON.stringify(pairs)]);
    }
    await runner.query('DROP TABLE "setting"');
  }

  async down(): Promise<void> {
    throw new Error('what stands in the tables is not put back into one row');
  }
}
