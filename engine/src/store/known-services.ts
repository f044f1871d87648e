import type { DataSource } from 'typeorm';
import { allowedHostTable, serviceTable, type ServiceRow } from './remembered.js';

/** What is known of services: what came of asking them, and who asks, sealed. One statement a change. */
export class KnownServices {
  constructor(private readonly store: DataSource) {}

  all(): Promise<ServiceRow[]> {
    return this.store.manager.find(serviceTable);
  }

  async note(url: string, row: Partial<Omit<ServiceRow, 'url'>>): Promise<void> {
    await this.store.manager.upsert(serviceTable, { url, ...row }, ['url']);
  }

  async hosts(): Promise<string[]> {
    return (await this.store.manager.find(allowedHostTable)).map((r) => r.host);
  }

  async allow(host: string): Promise<void> {
    await this.store.manager.upsert(allowedHostTable, { host }, ['host']);
  }

  async disallow(host: string): Promise<void> {
    await this.store.manager.delete(allowedHostTable, { host });
  }
}
