import type { DataSource } from 'typeorm';
import { seenFolderTable } from '../store/remembered.js';

/** When linked folders were seen last, so that what is shown of one that is away is dated. */
export class SeenFolderRepository {
  constructor(private readonly store: DataSource) {}

  /** Milliseconds, by real path. */
  async all(): Promise<Record<string, number>> {
    const rows = await this.store.manager.find(seenFolderTable);
    return Object.fromEntries(rows.map((r) => [r.path, r.ms]));
  }

  async note(folders: readonly string[]): Promise<void> {
    const ms = Date.now();
    const rows = [...new Set(folders)].map((path) => ({ path, ms }));
    if (rows.length > 0) await this.store.manager.upsert(seenFolderTable, rows, ['path']);
  }
}
