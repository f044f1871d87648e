import { randomUUID } from 'node:crypto';
import { BUILT_IN_PLANS, ProblemError } from '@rootmap/core';
import type { FolderPlanBody, FolderPlanView } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import { settingTable } from '../store/tables.js';

const KEY = 'plans';
type OwnPlan = Omit<FolderPlanView, 'isBuiltIn'>;

/** Folder plans: those that ship, and those that people made and kept. */
export class PlanShelf {
  constructor(private readonly store: DataSource) {}

  async list(): Promise<FolderPlanView[]> {
    const own = await this.own();
    return [...BUILT_IN_PLANS.map((p) => ({ ...p, isBuiltIn: true })), ...own.map((p) => ({ ...p, isBuiltIn: false }))];
  }

  private async own(): Promise<OwnPlan[]> {
    const row = await this.store.manager.findOneBy(settingTable, { key: KEY });
    return row ? (JSON.parse(row.value) as OwnPlan[]) : [];
  }

  /** A plan of one's own; one of the same title is replaced. */
  async save(plan: FolderPlanBody): Promise<FolderPlanView[]> {
    if (BUILT_IN_PLANS.some((p) => p.title.toLowerCase() === plan.title.toLowerCase()))
      throw new ProblemError({ code: 'wrong-use', message: `"${plan.title}" is a plan that ships. Give yours another title.` });
    const own = await this.own();
    const same = own.find((p) => p.title.toLowerCase() === plan.title.toLowerCase());
    await this.keep([...own.filter((p) => p !== same), { id: same?.id ?? randomUUID(), ...plan }]);
    return this.list();
  }

  async remove(id: string): Promise<FolderPlanView[]> {
    const own = await this.own();
    if (!own.some((p) => p.id === id)) throw new ProblemError({ code: 'not-found', what: 'plan', id });
    await this.keep(own.filter((p) => p.id !== id));
    return this.list();
  }

  private async keep(own: readonly OwnPlan[]): Promise<void> {
    await this.store.manager.upsert(settingTable, { key: KEY, value: JSON.stringify(own) }, ['key']);
  }
}
