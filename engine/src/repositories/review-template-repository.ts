import { randomUUID } from 'node:crypto';
import { ProblemError } from '@rootmap/core';
import type { KeptReviewTemplate, ReviewTemplate } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import { reviewTemplateTable } from '../store/review-templates.js';

/** What a team says in reviews again and again, by title. */
export class ReviewTemplateRepository {
  constructor(private readonly store: DataSource) {}

  async list(): Promise<KeptReviewTemplate[]> {
    const rows = await this.store.createQueryBuilder(reviewTemplateTable, 'template').orderBy('template.folded').getMany();
    return rows.map(({ id, body }) => ({ id, ...(JSON.parse(body) as ReviewTemplate) }));
  }

  /** One of the same title is replaced. */
  async save(template: ReviewTemplate): Promise<KeptReviewTemplate[]> {
    await this.store.query(
      'INSERT INTO "review_template" ("id", "folded", "body") VALUES (?, ?, ?) ON CONFLICT ("folded") DO UPDATE SET "body" = excluded."body"',
      [randomUUID(), template.title.toLowerCase(), JSON.stringify(template)],
    );
    return this.list();
  }

  async remove(id: string): Promise<KeptReviewTemplate[]> {
    if (!(await this.store.manager.existsBy(reviewTemplateTable, { id })))
      throw new ProblemError({ code: 'not-found', what: 'template', id });
    await this.store.manager.delete(reviewTemplateTable, { id });
    return this.list();
  }
}
