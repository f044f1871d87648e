import { EntitySchema, type MigrationInterface, type QueryRunner } from 'typeorm';

export interface ReviewTemplateRow {
  id: string;
  /** In small letters: one template a title. */
  folded: string;
  /** A `ReviewTemplate` as JSON. */
  body: string;
}

export const reviewTemplateTable = new EntitySchema<ReviewTemplateRow>({
  name: 'review_template',
  columns: { id: { type: 'text', primary: true }, folded: { type: 'text', unique: true }, body: { type: 'text' } },
});

/** Templates of reviews that a team keeps. */
export class AddReviewTemplates1765700000000 implements MigrationInterface {
  name = 'AddReviewTemplates1765700000000';
  async up(runner: QueryRunner): Promise<void> {
    await runner.query(
      `CREATE TABLE "review_template" ("id" text PRIMARY KEY NOT NULL, "folded" text UNIQUE NOT NULL, "body" text NOT NULL)`,
    );
  }
  async down(runner: QueryRunner): Promise<void> {
    await runner.query('DROP TABLE "review_template"');
  }
}
