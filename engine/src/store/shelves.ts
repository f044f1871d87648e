import { EntitySchema, type MigrationInterface, type QueryRunner } from 'typeorm';

export interface ShelfRow {
  /** `layouts` or `looks`. */
  shelf: string;
  name: string;
  /** JSON. */
  body: string;
}

export const shelfTable = new EntitySchema<ShelfRow>({
  name: 'shelf',
  columns: { shelf: { type: 'text', primary: true }, name: { type: 'text', primary: true }, body: { type: 'text' } },
});

/** Layouts of pages and looks that people keep for all maps. */
export class AddShelves1765800000000 implements MigrationInterface {
  name = 'AddShelves1765800000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "shelf" ("shelf" text NOT NULL, "name" text NOT NULL, "body" text NOT NULL, PRIMARY KEY ("shelf", "name"))`,
    );
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "shelf"');
  }
}
