import type { DataSource } from 'typeorm';
import type { Before, Manifest } from '@rootmap/core';
import { editionTable } from './remembered.js';

export interface KnownEdition {
  readonly ms: number;
  readonly bundle: string;
  readonly before: Before;
}

/** What each project held when it was sent or received last: what a newer edition is compared with. */
export class KnownEditions {
  constructor(private readonly store: DataSource) {}

  async of(root: string): Promise<KnownEdition | null> {
    const row = await this.store.manager.findOneBy(editionTable, { root });
    return row ? { ms: row.ms, bundle: row.bundle, before: { here: manifestIn(row.here), bundle: manifestIn(row.sent) } } : null;
  }

  async keep(root: string, bundle: string, { here, bundle: sent }: Before): Promise<void> {
    await this.store.manager.upsert(editionTable, { root, bundle, ms: Date.now(), here: textOf(here), sent: textOf(sent) }, ['root']);
  }
}

const textOf = (manifest: Manifest): string => JSON.stringify(Object.fromEntries(manifest));
const manifestIn = (text: string): Manifest => new Map(Object.entries(JSON.parse(text) as Record<string, string>));
