import 'reflect-metadata';
import { EntitySchema, type MigrationInterface, type QueryRunner } from 'typeorm';

export interface ChangeRow {
  id: string;
  title: string;
  kind: string;
  root: string;
  who: string;
  createdMs: number;
  state: string;
  owner: string;
  beatMs: number;
  note: string | null;
  undoes: string | null;
  roots: string | null;
}
export interface StepRow {
  changeId: string;
  n: number;
  kind: string;
  path: string;
  temp: string;
  source: string | null;
  beforeHash: string | null;
  afterHash: string | null;
  before: Buffer | null;
}
export interface LockRow {
  root: string;
  changeId: string;
}
export interface ProjectRow {
  id: string;
  root: string;
  title: string;
  place: string;
  openedMs: number;
}
/** Unsaved work of one editor on one map. `content` null: it has the map open, with nothing unsaved. */
export interface DraftRow {
  editor: string;
  root: string;
  path: string;
  who: string;
  base: string;
  content: string | null;
  savedMs: number;
  beatMs: number;
}
export const changeTable = new EntitySchema<ChangeRow>({
  name: 'change',
  columns: {
    id: { type: 'text', primary: true },
    title: { type: 'text' },
    kind: { type: 'text' },
    root: { type: 'text' },
    who: { type: 'text' },
    createdMs: { type: 'integer' },
    state: { type: 'text' },
    owner: { type: 'text' },
    beatMs: { type: 'integer' },
    note: { type: 'text', nullable: true },
    undoes: { type: 'text', nullable: true },
    roots: { type: 'text', nullable: true },
  },
});
export const stepTable = new EntitySchema<StepRow>({
  name: 'step',
  columns: {
    changeId: { type: 'text', primary: true },
    n: { type: 'integer', primary: true },
    kind: { type: 'text' },
    path: { type: 'text' },
    temp: { type: 'text' },
    source: { type: 'text', nullable: true },
    beforeHash: { type: 'text', nullable: true },
    afterHash: { type: 'text', nullable: true },
    before: { type: 'blob', nullable: true },
  },
});
export const lockTable = new EntitySchema<LockRow>({
  name: 'lock',
  columns: { root: { type: 'text', primary: true }, changeId: { type: 'text' } },
});
export const projectTable = new EntitySchema<ProjectRow>({
  name: 'project',
  columns: {
    id: { type: 'text', primary: true },
    root: { type: 'text', primary: true },
    title: { type: 'text' },
    place: { type: 'text' },
    openedMs: { type: 'integer' },
  },
});
export const draftTable = new EntitySchema<DraftRow>({
  name: 'draft',
  columns: {
    editor: { type: 'text', primary: true },
    root: { type: 'text', primary: true },
    path: { type: 'text', primary: true },
    who: { type: 'text' },
    base: { type: 'text' },
    content: { type: 'text', nullable: true },
    savedMs: { type: 'integer' },
    beatMs: { type: 'integer' },
  },
});
export class CreateJournal1764000000000 implements MigrationInterface {
  name = 'CreateJournal1764000000000';
  async up(runner: QueryRunner): Promise<void> {
    for (const sql of [
      `CREATE TABLE "change" ("id" text PRIMARY KEY NOT NULL, "title" text NOT NULL, "kind" text NOT NULL, "root" text NOT NULL, "who" text NOT NULL, "createdMs" integer NOT NULL, "state" text NOT NULL, "owner" text NOT NULL, "beatMs" integer NOT NULL, "note" text, "undoes" text)`,
      `CREATE INDEX "change_by_root" ON "change" ("root", "createdMs")`,
      `CREATE INDEX "change_by_state" ON "change" ("state")`,
      `CREATE TABLE "step" ("changeId" text NOT NULL REFERENCES "change" ("id"), "n" integer NOT NULL, "kind" text NOT NULL, "path" text NOT NULL, "temp" text NOT NULL, "beforeHash" text, "afterHash" text, "before" blob, PRIMARY KEY ("changeId", "n"))`,
      `CREATE TABLE "lock" ("root" text PRIMARY KEY NOT NULL, "changeId" text NOT NULL REFERENCES "change" ("id"))`,
      `CREATE TABLE "setting" ("key" text PRIMARY KEY NOT NULL, "value" text NOT NULL)`,
      `CREATE TABLE "project" ("id" text NOT NULL, "root" text NOT NULL, "title" text NOT NULL, "place" text NOT NULL, "openedMs" integer NOT NULL, PRIMARY KEY ("id", "root"))`,
    ])
      await runner.query(sql);
  }
  async down(runner: QueryRunner): Promise<void> {
    for (const table of ['project', 'setting', 'lock', 'step', 'change']) await runner.query(`DROP TABLE "${table}"`);
  }
}
/** Steps that move and copy tell where from. */
export class AddStepSource1764000000002 implements MigrationInterface {
  name = 'AddStepSource1764000000002';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "step" ADD COLUMN "source" text');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "step" DROP COLUMN "source"');
  }
}
/** Changes tell which folders they stand in, so that one that is away is told from one where files are gone. */
export class AddChangeRoots1764300000000 implements MigrationInterface {
  name = 'AddChangeRoots1764300000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "change" ADD COLUMN "roots" text');
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('ALTER TABLE "change" DROP COLUMN "roots"');
  }
}
/** What moved is found without looking at every step. */
export class AddStepMoves1764900000001 implements MigrationInterface {
  name = 'AddStepMoves1764900000001';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(`CREATE INDEX "step_moves" ON "step" ("changeId") WHERE "kind" = 'move'`);
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP INDEX "step_moves"');
  }
}
/** Unsaved work on maps. */
export class AddDrafts1764200000000 implements MigrationInterface {
  name = 'AddDrafts1764200000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "draft" ("editor" text NOT NULL, "root" text NOT NULL, "path" text NOT NULL, "who" text NOT NULL, "base" text NOT NULL, "content" text, "savedMs" integer NOT NULL, "beatMs" integer NOT NULL, PRIMARY KEY ("editor", "root", "path"))`,
    );
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "draft"');
  }
}
