import { In, type DataSource } from 'typeorm';
import type { MendDecisions } from '@rootmap/core';
import { acceptedMoveTable, rejectionTable, type AcceptedMoveRow } from '../store/remembered.js';

type Move = MendDecisions['accepted'][number];
/** As it crosses processes: plain lists. */
export interface KeptDecisions {
  readonly rejected: readonly string[];
  readonly accepted: readonly Move[];
}
export const decisionsOf = ({ rejected, accepted }: KeptDecisions): MendDecisions => ({ rejected: new Set(rejected), accepted });

/** An entry is the key of a layer, a line feed, and what was turned down; a key has line feeds of its own. */
function isOf(entry: string, layers: ReadonlySet<string>): boolean {
  for (let at = entry.indexOf('\n'); at >= 0; at = entry.indexOf('\n', at + 1)) if (layers.has(entry.slice(0, at))) return true;
  return false;
}

const MOST_ACCEPTED = 500;
const MOST_REJECTED = 5000;

/** What people accepted and turned down while mending, for all maps and projects. */
export class MendDecisionRepository {
  constructor(private readonly store: DataSource) {}

  /** The newest first. What a mend accepted holds while it is done: undone it does not, and done again it does. */
  async read(): Promise<KeptDecisions> {
    const [rejected, accepted] = await Promise.all([
      this.store.createQueryBuilder(rejectionTable, 'r').orderBy('r.ms', 'DESC').addOrderBy('r.rowid', 'DESC').getMany(),
      this.store.query<AcceptedMoveRow[]>(
        `SELECT a.* FROM "accepted_move" a LEFT JOIN "change" c ON c."id" = a."changeId"
         WHERE c."state" IS NULL OR c."state" = 'done' ORDER BY a."ms" DESC, a.rowid DESC`,
      ),
    ]);
    return { rejected: rejected.map((r) => r.entry), accepted: accepted.map((a) => JSON.parse(a.moved) as Move) };
  }

  async accept(moves: readonly Move[], changeId: string): Promise<void> {
    if (moves.length === 0) return;
    const ms = Date.now();
    const rows = moves.map(({ from, to }) => ({ moved: JSON.stringify({ from, to }), changeId, ms }));
    await this.store.manager.upsert(acceptedMoveTable, rows, ['moved']);
    await this.keepNewest('accepted_move', MOST_ACCEPTED);
  }

  /** 'Not this one': a layer is never offered that dataset again. */
  async reject(entry: string): Promise<void> {
    await this.store.manager.upsert(rejectionTable, { entry, ms: Date.now() }, ['entry']);
    await this.keepNewest('rejection', MOST_REJECTED);
  }

  /** All that was turned down for these layers is offered again. Gives how many that were. */
  async forgive(layers: readonly string[]): Promise<number> {
    const wanted = new Set(layers);
    const rows = await this.store.manager.find(rejectionTable);
    const entries = rows.map((r) => r.entry).filter((entry) => isOf(entry, wanted));
    await this.store.manager.delete(rejectionTable, { entry: In(entries) });
    return entries.length;
  }

  private async keepNewest(table: 'rejection' | 'accepted_move', most: number): Promise<void> {
    await this.store.query(
      `DELETE FROM "${table}" WHERE rowid IN (SELECT rowid FROM "${table}" ORDER BY "ms" DESC, rowid DESC LIMIT -1 OFFSET ${most})`,
    );
  }
}
