import type { DataSource } from 'typeorm';
import { allowedHostTable, serviceTable, type AllowedHostRow, type ServiceRow } from './remembered.js';

/** What is known of services: what came of asking them, and who asks, sealed. One statement a change. */
export class KnownServices {
  constructor(private readonly store: DataSource) {}

  all(): Promise<ServiceRow[]> {
    return this.store.manager.find(serviceTable);
  }

  async note(url: string, row: Partial<Omit<ServiceRow, 'url'>>): Promise<void> {
    await this.store.manager.upsert(serviceTable, { url, ...row }, ['url']);
  }

  hosts(): Promise<AllowedHostRow[]> {
    return this.store.manager.find(allowedHostTable, { order: { place: 'ASC', host: 'ASC' } });
  }

  async allow(allowed: AllowedHostRow): Promise<void> {
    await this.store.manager.upsert(allowedHostTable, { ...allowed }, ['place', 'host']);
  }

  async disallow({ place, host }: AllowedHostRow): Promise<void> {
    await this.store.manager.delete(allowedHostTable, { place, host });
  }

  async forgetPlace(place: string): Promise<void> {
    await this.store.manager.delete(allowedHostTable, { place });
  }
}
