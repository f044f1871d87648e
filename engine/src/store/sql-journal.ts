import { ProblemError } from '@rootmap/core';
import { In, type DataSource, type EntityManager } from 'typeorm';
import type { ChangeRecord, ChangeState, Owner, StepRecord } from '../changes/change.js';
import { describeOwner, type Journal } from '../changes/journal-port.js';
import { changeTable, lockTable, stepTable, type ChangeRow, type StepRow } from './tables.js';

/** So many that a statement takes a few milliseconds, and so many bytes that a commit does; between them others have their turn. */
const ROWS_AT_ONCE = 50;
const BYTES_AT_ONCE = 1 << 20;
/** As many as one statement takes. */
const PATHS_AT_ONCE = 500;
const ENDED: readonly ChangeState[] = ['done', 'undone', 'taken-back', 'failed'];

/** The journal in SQLite. A row of `lock` is the lock of a root, shared by all processes that use the same data folder. */
export class SqlJournal implements Journal {
  private last: Promise<unknown> = Promise.resolve();
  constructor(private readonly store: DataSource) {}

  /** One connection has one transaction at a time: they queue. */
  private transaction<T>(work: (manager: EntityManager) => Promise<T>): Promise<T> {
    const next = this.last.then(() => this.store.transaction(work));
    this.last = next.catch(() => undefined);
    return next;
  }

  /**
   * Locks, then writes the steps down, in commits that are small enough for others to have their turn between them. Nothing
   * is done before the last one is kept; a change that ends before has touched no file.
   */
  async begin(change: ChangeRecord, otherRoots: readonly string[] = []): Promise<void> {
    const { steps, owner, ...row } = change;
    await this.transaction(async (manager) => {
      await manager.insert(changeTable, { ...row, owner: JSON.stringify(owner), beatMs: Date.now() });
      for (const root of new Set([change.root, ...otherRoots])) await this.lock(manager, root, change.id);
    });
    try {
      for (const batch of batches(steps)) {
        const rows = batch.map((s) => ({ ...s, changeId: change.id, before: s.before && Buffer.from(s.before) }));
        await this.transaction((manager) => manager.insert(stepTable, rows));
        await new Promise((next) => setImmediate(next));
      }
    } catch (error) {
      await this.transaction(async (manager) => {
        await manager.delete(lockTable, { changeId: change.id });
        await manager.delete(stepTable, { changeId: change.id });
        await manager.delete(changeTable, { id: change.id });
      });
      throw error;
    }
  }

  private async lock(manager: EntityManager, root: string, changeId: string): Promise<void> {
    const held = await manager.findOneBy(lockTable, { root });
    if (held) {
      const holder = await manager.findOneBy(changeTable, { id: held.changeId });
      throw new ProblemError({
        code: 'locked',
        root,
        owner: holder ? describeOwner(JSON.parse(holder.owner) as Owner) : 'another process',
      });
    }
    await manager.insert(lockTable, { root, changeId });
  }

  setState(id: string, state: ChangeState, note?: string): Promise<void> {
    return this.transaction(async (manager) => {
      await manager.update(changeTable, { id }, note === undefined ? { state } : { state, note });
      if (ENDED.includes(state)) await manager.delete(lockTable, { changeId: id });
    });
  }

  async setHashes(id: string, step: number, hashes: Partial<Pick<StepRecord, 'beforeHash' | 'afterHash'>>): Promise<void> {
    await this.transaction((manager) => manager.update(stepTable, { changeId: id, n: step }, hashes));
  }

  async get(id: string): Promise<ChangeRecord | null> {
    const row = await this.store.manager.findOneBy(changeTable, { id });
    return row && this.withSteps(row);
  }

  async unfinished(): Promise<ChangeRecord[]> {
    const rows = await this.store.manager.find(changeTable, {
      where: { state: In(['preparing', 'applying', 'taking-back']) },
      order: { createdMs: 'ASC' },
    });
    return Promise.all(rows.map((row) => this.withSteps(row)));
  }

  async list(options: { root?: string; limit: number }): Promise<ChangeRecord[]> {
    const rows = await this.store.manager.find(changeTable, {
      ...(options.root === undefined ? {} : { where: { root: options.root } }),
      order: { createdMs: 'DESC' },
      take: options.limit,
    });
    const steps = await this.store.manager.find(stepTable, {
      where: { changeId: In(rows.map((r) => r.id)) },
      select: { changeId: true, n: true, kind: true, path: true, temp: true, source: true, beforeHash: true, afterHash: true },
      order: { n: 'ASC' },
    });
    return rows.map((row) =>
      toRecord(
        row,
        steps.filter((s) => s.changeId === row.id),
      ),
    );
  }

  /** The latest change that is done by which a file or a folder was deleted, by its real path. */
  async deletionsOf(paths: readonly string[]): Promise<Map<string, Pick<ChangeRecord, 'id' | 'title' | 'createdMs'>>> {
    const found = new Map<string, Pick<ChangeRecord, 'id' | 'title' | 'createdMs'>>();
    for (let i = 0; i < paths.length; i += PATHS_AT_ONCE) {
      const steps = await this.store.manager.find(stepTable, {
        where: { kind: 'trash', path: In(paths.slice(i, i + PATHS_AT_ONCE)) },
        select: { changeId: true, n: true, path: true },
      });
      const changes = await this.store.manager.find(changeTable, {
        where: { id: In([...new Set(steps.map((s) => s.changeId))]), state: 'done' },
        order: { createdMs: 'ASC' },
      });
      for (const { id, title, createdMs } of changes)
        for (const step of steps) if (step.changeId === id) found.set(step.path, { id, title, createdMs });
    }
    return found;
  }

  async beat(id: string): Promise<void> {
    await this.store.manager.update(changeTable, { id }, { beatMs: Date.now() });
  }

  private async withSteps(row: ChangeRow): Promise<ChangeRecord> {
    return toRecord(row, await this.store.manager.find(stepTable, { where: { changeId: row.id }, order: { n: 'ASC' } }));
  }
}

function* batches(steps: readonly StepRecord[]): Generator<StepRecord[]> {
  let batch: StepRecord[] = [];
  let bytes = 0;
  for (const step of steps) {
    batch.push(step);
    bytes += step.before?.length ?? 0;
    if (batch.length < ROWS_AT_ONCE && bytes < BYTES_AT_ONCE) continue;
    yield batch;
    batch = [];
    bytes = 0;
  }
  if (batch.length > 0) yield batch;
}

const toRecord = (row: ChangeRow, steps: readonly StepRow[]): ChangeRecord => ({
  id: row.id,
  title: row.title,
  kind: row.kind as ChangeRecord['kind'],
  root: row.root,
  who: row.who,
  createdMs: row.createdMs,
  state: row.state as ChangeState,
  owner: JSON.parse(row.owner) as Owner,
  note: row.note,
  undoes: row.undoes,
  steps: steps.map((s): StepRecord => ({
    n: s.n,
    kind: s.kind as StepRecord['kind'],
    path: s.path,
    temp: s.temp,
    source: s.source,
    beforeHash: s.beforeHash,
    afterHash: s.afterHash,
    before: s.before ?? null,
  })),
});
