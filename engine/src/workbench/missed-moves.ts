import { existsSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import type { StepRecord } from '../changes/change.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { settingTable } from '../store/tables.js';
import type { ProjectBook } from './project-book.js';

const keyOf = (root: string): string => `missed ${root}`;
/** More changes than anybody follows one by one; the oldest are forgotten first. */
const MOST = 500;

/** What moved while projects were away, so that they can follow when they are back. */
export class MissedMoves {
  constructor(
    private readonly store: DataSource,
    private readonly book: ProjectBook,
  ) {}

  async of(root: string): Promise<readonly MovedPairs[]> {
    const row = await this.store.manager.findOneBy(settingTable, { key: keyOf(root) });
    return row ? (JSON.parse(row.value) as MovedPairs[]) : [];
  }

  /** Every known project whose root cannot be reached now is to hear of it later. */
  async note(pairs: MovedPairs): Promise<void> {
    if (pairs.length === 0) return;
    for (const row of await this.book.rows()) {
      if (existsSync(row.root)) continue;
      const value = JSON.stringify([...(await this.of(row.root)), pairs].slice(-MOST));
      await this.store.manager.upsert(settingTable, { key: keyOf(row.root), value }, ['key']);
    }
  }

  /** What an undo moves back. */
  noteSteps(steps: readonly StepRecord[]): Promise<void> {
    return this.note(steps.flatMap((s) => (s.kind === 'move' && s.source ? [{ from: s.source, to: s.path }] : [])));
  }

  async forget(root: string): Promise<void> {
    await this.store.manager.delete(settingTable, { key: keyOf(root) });
  }
}
