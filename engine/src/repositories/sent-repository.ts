import type { DataSource } from 'typeorm';
import type { SendRequest } from '@rootmap/core/contract';
import { sentTable } from '../store/remembered.js';

/** What was chosen last for a bundle of each project, so that sending again is one click. */
export class SentRepository {
  constructor(private readonly store: DataSource) {}

  async of(root: string): Promise<SendRequest | null> {
    const row = await this.store.manager.findOneBy(sentTable, { root });
    return row ? (JSON.parse(row.choices) as SendRequest) : null;
  }

  async keep(root: string, choices: SendRequest): Promise<void> {
    await this.store.manager.upsert(sentTable, { root, choices: JSON.stringify(choices) }, ['root']);
  }
}
