import { ProblemError } from '@rootmap/core';
import Database from 'better-sqlite3';
import { In, type DataSource } from 'typeorm';
import { startOf } from '../disk/native-path.js';
import type { ChangeRecord, ChangeState, JournalMove, Owner, SeenRoot, StepRecord } from '../changes/change.js';
import { describeOwner, type Journal, type JournalFilter } from '../changes/journal-port.js';
import { columnsOf, stepOf } from './step-columns.js';
import { changeTable, stepTable, type ChangeRow, type StepRow } from './tables.js';

/** So many that a statement takes a few milliseconds, and so many bytes that a commit does; between them others have their turn. */
const ROWS_AT_ONCE = 50;
const BYTES_AT_ONCE = 1 << 20;
/** As many as one statement takes. */
const PATHS_AT_ONCE = 500;
const ENDED: readonly ChangeState[] = ['done', 'undone', 'taken-back', 'failed'];

/**
 * The journal in SQLite. A row of `lock` is the lock of a root, shared by all processes that use the same data folder.
 *
 * It is written in transactions of the driver itself, which run without giving way: no other statement of the shared
 * connection can come between, and one that fails (a full disk) is rolled back as a whole. What was written is read back on
 * a second connection, which sees only what is committed (docs/decisions/0013-done-is-read-back.md).
 */
export class SqlJournal implements Journal {
  private readonly db: Database.Database;

  constructor(private readonly store: DataSource) {
    this.db = (store.driver as unknown as { databaseConnection: Database.Database }).databaseConnection;
  }

  private write(work: () => void): void {
    try {
      // An outer transaction that never ended would take this one along into nothing.
      if (this.db.inTransaction) this.db.exec('ROLLBACK');
      this.db.transaction(work).immediate();
    } catch (error) {
      if (this.db.inTransaction) this.db.exec('ROLLBACK');
      throw asProblem(error, this.db.name);
    }
  }

  /** Throws where another connection, which sees what is committed, does not give what was written a moment ago. */
  private readBack(sql: string, id: string, expected: string | number): void {
    const witness = new Database(this.db.name, { readonly: true, fileMustExist: true });
    try {
      if (witness.prepare<[string], string | number>(sql).pluck().get(id) === expected) return;
    } finally {
      witness.close();
    }
    throw new ProblemError({ code: 'failed', what: 'Writing the journal', why: 'what was read back is not what was written' });
  }

  /**
   * Locks, then writes the steps down, in commits that are small enough for others to have their turn between them. Nothing
   * is done before the last one is kept; a change that ends before has touched no file.
   */
  async begin(change: ChangeRecord, otherRoots: readonly string[] = []): Promise<void> {
    const { steps, owner, roots, ...row } = change;
    this.write(() => {
      this.insert('change', { ...row, owner: JSON.stringify(owner), roots: JSON.stringify(roots), beatMs: Date.now() });
      for (const root of new Set([change.root, ...otherRoots])) this.lock(root, change.id);
    });
    try {
      for (const batch of batches(steps)) {
        this.write(() => {
          for (const step of batch) this.insert('step', { changeId: change.id, ...columnsOf(step) });
        });
        await new Promise((next) => setImmediate(next));
      }
      this.readBack('SELECT count(*) FROM step WHERE changeId = ?', change.id, steps.length);
    } catch (error) {
      this.write(() => {
        this.db.prepare('DELETE FROM lock WHERE changeId = ?').run(change.id);
        this.db.prepare('DELETE FROM step WHERE changeId = ?').run(change.id);
        this.db.prepare('DELETE FROM change WHERE id = ?').run(change.id);
      });
      throw error;
    }
  }

  private insert(table: 'change' | 'step', row: Readonly<Record<string, unknown>>): void {
    const columns = Object.keys(row);
    const sql = `INSERT INTO "${table}" (${columns.map((c) => `"${c}"`).join(', ')}) VALUES (${columns.map(() => '?').join(', ')})`;
    this.db.prepare(sql).run(...Object.values(row));
  }

  private lock(root: string, changeId: string): void {
    const holder = this.db
      .prepare<[string], { owner: string | null }>(
        'SELECT change.owner FROM lock LEFT JOIN change ON change.id = lock.changeId WHERE lock.root = ?',
      )
      .get(root);
    if (holder) {
      const owner = holder.owner === null ? 'another process' : describeOwner(JSON.parse(holder.owner) as Owner);
      throw new ProblemError({ code: 'locked', root, owner });
    }
    this.db.prepare('INSERT INTO lock (root, changeId) VALUES (?, ?)').run(root, changeId);
  }

  async setState(id: string, state: ChangeState, note?: string): Promise<void> {
    this.write(() => {
      this.db.prepare('UPDATE change SET state = ?, note = coalesce(?, note) WHERE id = ?').run(state, note ?? null, id);
      if (ENDED.includes(state)) this.db.prepare('DELETE FROM lock WHERE changeId = ?').run(id);
      if (state === 'done') this.turnOver(id);
    });
    this.readBack('SELECT state FROM change WHERE id = ?', id, state);
  }

  /** What a change undoes is undone; and where that undid another, the other is done again. */
  private turnOver(id: string): void {
    const undone = this.db.prepare<[string], string | null>('SELECT undoes FROM change WHERE id = ?').pluck();
    for (
      let [target, state] = [undone.get(id), 'undone'];
      target;
      [target, state] = [undone.get(target), state === 'done' ? 'undone' : 'done']
    )
      this.db.prepare('UPDATE change SET state = ? WHERE id = ?').run(state, target);
  }

  async setNote(id: string, note: string): Promise<void> {
    this.write(() => this.db.prepare('UPDATE change SET note = ? WHERE id = ?').run(note, id));
  }

  async keepStep(id: string, step: StepRecord): Promise<void> {
    const { beforeHash, afterHash, before } = columnsOf(step);
    this.write(() =>
      this.db
        .prepare('UPDATE step SET beforeHash = ?, afterHash = ?, before = coalesce(?, before) WHERE changeId = ? AND n = ?')
        .run(beforeHash, afterHash, before, id, step.n),
    );
  }

  async claim(id: string, from: Owner, to: Owner): Promise<boolean> {
    let isMine = false;
    this.write(() => {
      const { changes } = this.db
        .prepare('UPDATE change SET owner = ? WHERE id = ? AND owner = ?')
        .run(JSON.stringify(to), id, JSON.stringify(from));
      isMine = changes === 1;
    });
    return isMine;
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
    return rows.map((row) => this.withSteps(row));
  }

  async list({ root, kind, text, limit }: JournalFilter): Promise<ChangeRecord[]> {
    const where: string[] = [];
    const given: string[] = [];
    const only = (sql: string, ...values: readonly string[]): void => {
      where.push(sql);
      given.push(...values);
    };
    if (root !== undefined) only(`("root" = ? OR substr("root", 1, length(?)) = ?)`, root, startOf(root), startOf(root));
    if (kind !== undefined) only('"kind" = ?', kind);
    if (text)
      only(
        '(instr(lower("title"), lower(?)) OR EXISTS (SELECT 1 FROM "step" WHERE "changeId" = "id" AND instr(lower("path"), lower(?))))',
        text,
        text,
      );
    const rows = await this.store.query<ChangeRow[]>(
      `SELECT * FROM "change" ${where.length > 0 ? `WHERE ${where.join(' AND ')}` : ''} ORDER BY "createdMs" DESC, rowid DESC LIMIT ?`,
      [...given, limit],
    );
    return this.withoutBytes(rows);
  }

  /** When each root was changed last. */
  async lastChanges(): Promise<ReadonlyMap<string, number>> {
    const rows = await this.store.query<{ root: string; ms: number }[]>(
      'SELECT "root", max("createdMs") AS "ms" FROM "change" GROUP BY "root"',
    );
    return new Map(rows.map(({ root, ms }) => [root, ms]));
  }

  /** Those of them that are known, without the bytes of their steps. */
  async some(ids: readonly string[]): Promise<ChangeRecord[]> {
    const rows: ChangeRow[] = [];
    for (let i = 0; i < ids.length; i += PATHS_AT_ONCE)
      rows.push(...(await this.store.manager.findBy(changeTable, { id: In(ids.slice(i, i + PATHS_AT_ONCE)) })));
    return this.withoutBytes(rows);
  }

  /** The change by which each of these was undone, where that still stands. */
  async undoersOf(ids: readonly string[]): Promise<Map<string, string>> {
    const rows = await this.store.manager.find(changeTable, {
      where: { undoes: In([...ids]), state: 'done' },
      order: { createdMs: 'ASC' },
      select: { id: true, undoes: true },
    });
    return new Map(rows.map((r) => [r.undoes!, r.id]));
  }

  async since(change: ChangeRecord): Promise<ChangeRecord[]> {
    // Changes of one millisecond are in the order in which they were written down.
    const rows = await this.store.query<ChangeRow[]>(
      `SELECT * FROM "change" WHERE "createdMs" > ? OR ("createdMs" = ? AND rowid > (SELECT rowid FROM "change" WHERE "id" = ?))
       ORDER BY "createdMs", rowid`,
      [change.createdMs, change.createdMs, change.id],
    );
    return this.withoutBytes(rows);
  }

  private async withoutBytes(rows: readonly ChangeRow[]): Promise<ChangeRecord[]> {
    const steps = new Map<string, StepRow[]>(rows.map((r) => [r.id, []]));
    const ids = [...steps.keys()];
    for (let i = 0; i < ids.length; i += PATHS_AT_ONCE) {
      const some = await this.store.manager.find(stepTable, {
        where: { changeId: In(ids.slice(i, i + PATHS_AT_ONCE)) },
        select: { changeId: true, n: true, kind: true, path: true, temp: true, source: true, beforeHash: true, afterHash: true },
        order: { n: 'ASC' },
      });
      for (const step of some) steps.get(step.changeId)!.push(step);
    }
    return rows.map((row) => toRecord(row, steps.get(row.id)!));
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

  /** The latest moves of files and folders, undone ones and their undoing too, the oldest first. */
  movesDone(most: number): JournalMove[] {
    return this.db
      .prepare<[number], JournalMove>(
        `SELECT s."source" AS "from", s."path" AS "to", c."createdMs" AS "ms", c."title" FROM "step" s JOIN "change" c ON c."id" = s."changeId"
         WHERE s."kind" = 'move' AND c."state" IN ('done', 'undone') ORDER BY c."createdMs" DESC, c.rowid DESC, s."n" DESC LIMIT ?`,
      )
      .all(most)
      .reverse();
  }

  async beat(id: string): Promise<void> {
    this.write(() => this.db.prepare('UPDATE change SET beatMs = ? WHERE id = ?').run(Date.now(), id));
  }

  /** Through the driver itself: of thousands of steps, making entities takes longer than reading them. */
  private withSteps(row: ChangeRow): ChangeRecord {
    return toRecord(row, this.db.prepare<[string], StepRow>('SELECT * FROM step WHERE changeId = ? ORDER BY n').all(row.id));
  }
}

/** What SQLite says of a full or a broken disk, as a problem. */
function asProblem(error: unknown, file: string): unknown {
  const code = (error as { code?: unknown } | null)?.code;
  if (code === 'SQLITE_FULL') return new ProblemError({ code: 'no-space', path: file });
  if (code === 'SQLITE_READONLY' || code === 'SQLITE_READONLY_DIRECTORY') return new ProblemError({ code: 'read-only', path: file });
  if (typeof code === 'string' && code.startsWith('SQLITE_IOERR')) return new ProblemError({ code: 'io', path: file, errno: code });
  return error;
}

function* batches(steps: readonly StepRecord[]): Generator<StepRecord[]> {
  let batch: StepRecord[] = [];
  let bytes = 0;
  for (const step of steps) {
    batch.push(step);
    bytes += step.kind === 'write' ? (step.before?.length ?? 0) : 0;
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
  roots: row.roots === null ? [] : (JSON.parse(row.roots) as SeenRoot[]),
  steps: steps.map(stepOf),
});
