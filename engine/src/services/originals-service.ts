import type { TamperedView } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import type { OriginalsOptions } from '../folders/originals.js';
import { originalsTable } from '../store/remembered.js';
import type { Pool } from '../pool/pool.js';
import type { TaskBase } from '../tasks/task-base.js';

/** What the originals of each project were like when they came, and what became of them since. */
export class OriginalsService {
  private readonly tampered = new Map<string, readonly TamperedView[]>();
  private readonly running = new Map<string, Promise<unknown>>();

  constructor(
    private readonly store: DataSource,
    private readonly pool: Pool,
  ) {}

  of(root: string): readonly TamperedView[] {
    return this.tampered.get(root) ?? [];
  }

  /** Compares them anew, one run after the other. Gives whether what is reported changed. */
  check(base: TaskBase, options: OriginalsOptions = {}): Promise<boolean> {
    const before = this.running.get(base.root) ?? Promise.resolve();
    const run = before.catch(() => undefined).then(() => this.run(base, options));
    this.running.set(base.root, run);
    return run;
  }

  private async run(base: TaskBase, options: OriginalsOptions): Promise<boolean> {
    const row = await this.store.manager.findOneBy(originalsTable, { root: base.root });
    let known = row?.known ?? null;
    for (;;) {
      const seen = await this.pool.run('originals', { ...base, ...options, known });
      options = { ...options, own: [] }; // reckoned in with the first part
      known = seen.known;
      if (seen.isPartial) continue;
      if (known !== row?.known) await this.store.manager.upsert(originalsTable, { root: base.root, known }, ['root']);
      const isNews = JSON.stringify(this.of(base.root)) !== JSON.stringify(seen.tampered);
      this.tampered.set(base.root, seen.tampered);
      return isNews;
    }
  }

  /** A root that moved keeps what is known of its originals. */
  async move(from: string, to: string): Promise<void> {
    await this.store.query('UPDATE OR REPLACE "originals" SET "root" = ? WHERE "root" = ?', [to, from]);
  }
}
