import { randomUUID } from 'node:crypto';
import { BUILT_IN_PLANS, ProblemError } from '@rootmap/core';
import type { FolderPlanBody, FolderPlanView } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import { planTable } from '../store/remembered.js';

/** Folder plans: those that ship, and those that people made and kept. */
export class PlanRepository {
  constructor(private readonly store: DataSource) {}

  async list(): Promise<FolderPlanView[]> {
    const rows = await this.store.createQueryBuilder(planTable, 'plan').orderBy('plan.rowid').getMany();
    const own = rows.map(({ id, body }) => ({ id, ...(JSON.parse(body) as FolderPlanBody), isBuiltIn: false }));
    return [...BUILT_IN_PLANS.map((p) => ({ ...p, isBuiltIn: true })), ...own];
  }

  /** A plan of one's own; one of the same title is replaced. */
  async save(plan: FolderPlanBody): Promise<FolderPlanView[]> {
    const folded = plan.title.toLowerCase();
    if (BUILT_IN_PLANS.some((p) => p.title.toLowerCase() === folded))
      throw new ProblemError({ code: 'wrong-use', message: `"${plan.title}" is a plan that ships. Give yours another title.` });
    await this.store.query(
      'INSERT INTO "plan" ("id", "folded", "body") VALUES (?, ?, ?) ON CONFLICT ("folded") DO UPDATE SET "body" = excluded."body"',
      [randomUUID(), folded, JSON.stringify(plan)],
    );
    return this.list();
  }

  async remove(id: string): Promise<FolderPlanView[]> {
    if (!(await this.store.manager.existsBy(planTable, { id }))) throw new ProblemError({ code: 'not-found', what: 'plan', id });
    await this.store.manager.delete(planTable, { id });
    return this.list();
  }
}
