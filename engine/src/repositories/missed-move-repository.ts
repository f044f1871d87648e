import { existsSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import type { StepRecord } from '../changes/change.js';
import type { MovedPairs } from '../move/follow-moves.js';
import { missedMoveTable } from '../store/remembered.js';
import type { ProjectRepository } from './project-repository.js';

/** More changes than anybody follows one by one; the oldest are forgotten first. */
const MOST = 500;

/** What moved while projects were away, so that they can follow when they are back. */
export class MissedMoveRepository {
  constructor(
    private readonly store: DataSource,
    private readonly book: ProjectRepository,
  ) {}

  /** In the order in which they were made. */
  async of(root: string): Promise<readonly MovedPairs[]> {
    const rows = await this.store.manager.find(missedMoveTable, { where: { root }, order: { n: 'ASC' } });
    return rows.map((r) => JSON.parse(r.pairs) as MovedPairs);
  }

  /** Every known project whose root cannot be reached now is to hear of it later. */
  async note(pairs: MovedPairs): Promise<void> {
    if (pairs.length === 0) return;
    for (const { root } of await this.book.rows()) {
      if (existsSync(root)) continue;
      await this.store.manager.insert(missedMoveTable, { root, pairs: JSON.stringify(pairs) });
      await this.store.query(
        'DELETE FROM "missed_move" WHERE "n" IN (SELECT "n" FROM "missed_move" WHERE "root" = ? ORDER BY "n" DESC LIMIT -1 OFFSET ?)',
        [root, MOST],
      );
    }
  }

  /** What an undo moves back. */
  noteSteps(steps: readonly StepRecord[]): Promise<void> {
    return this.note(steps.flatMap((s) => (s.kind === 'move' ? [{ from: s.source, to: s.path }] : [])));
  }

  async forget(root: string): Promise<void> {
    await this.store.manager.delete(missedMoveTable, { root });
  }
}
