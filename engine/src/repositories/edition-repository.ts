import type { DataSource } from 'typeorm';
import type { Manifest } from '@rootmap/core';
import { editionTable } from '../store/remembered.js';

export interface KnownEdition {
  readonly ms: number;
  readonly bundle: string;
  readonly manifest: Manifest;
}

/** What each project held when it was sent or received last: what a newer edition is compared with. */
export class EditionRepository {
  constructor(private readonly store: DataSource) {}

  async of(root: string): Promise<KnownEdition | null> {
    const row = await this.store.manager.findOneBy(editionTable, { root });
    return row
      ? { ms: row.ms, bundle: row.bundle, manifest: new Map(Object.entries(JSON.parse(row.manifest) as Record<string, string>)) }
      : null;
  }

  async keep(root: string, bundle: string, manifest: Manifest): Promise<void> {
    await this.store.manager.upsert(
      editionTable,
      { root, bundle, ms: Date.now(), manifest: JSON.stringify(Object.fromEntries(manifest)) },
      ['root'],
    );
  }
}
