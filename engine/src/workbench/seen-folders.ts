import type { DataSource } from 'typeorm';
import { settingTable } from '../store/tables.js';

const KEY = 'seen';

/** When linked folders were seen last, so that what is shown of one that is away is dated. */
export class SeenFolders {
  constructor(private readonly store: DataSource) {}

  /** Milliseconds, by real path. */
  async all(): Promise<Record<string, number>> {
    const row = await this.store.manager.findOneBy(settingTable, { key: KEY });
    return row ? (JSON.parse(row.value) as Record<string, number>) : {};
  }

  async note(folders: readonly string[]): Promise<void> {
    if (folders.length === 0) return;
    const now = Date.now();
    const value = JSON.stringify({ ...(await this.all()), ...Object.fromEntries(folders.map((f) => [f, now])) });
    await this.store.manager.upsert(settingTable, { key: KEY, value }, ['key']);
  }
}
