import type { DataSource } from 'typeorm';
import { sameJson, type MendMemory, type Trail } from '@rootmap/core';
import { settingTable } from '../store/tables.js';

/** As it is kept: plain lists. */
export interface KeptMemory {
  readonly rejected: readonly string[];
  readonly accepted: readonly { readonly from: Trail; readonly to: Trail }[];
}
export const memoryOf = ({ rejected, accepted }: KeptMemory): MendMemory => ({ rejected: new Set(rejected), accepted });

const KEY = 'mend.memory';
const MOST_ACCEPTED = 500;
const MOST_REJECTED = 5000;

/** What people accepted and turned down while mending, for all maps and projects. */
export class MendMemoryBook {
  constructor(private readonly store: DataSource) {}

  async read(): Promise<KeptMemory> {
    const row = await this.store.manager.findOneBy(settingTable, { key: KEY });
    return row ? (JSON.parse(row.value) as KeptMemory) : { rejected: [], accepted: [] };
  }

  async accept(moves: KeptMemory['accepted']): Promise<void> {
    const { rejected, accepted } = await this.read();
    const isNew = (m: KeptMemory['accepted'][number]): boolean => !moves.some((other) => sameJson(other, m));
    await this.write({ rejected, accepted: [...moves, ...accepted.filter(isNew)].slice(0, MOST_ACCEPTED) });
  }

  /** 'Not this one': a layer is never offered that dataset again. */
  async reject(entry: string): Promise<void> {
    const { rejected, accepted } = await this.read();
    await this.write({ rejected: [entry, ...rejected.filter((r) => r !== entry)].slice(0, MOST_REJECTED), accepted });
  }

  /** All that was turned down for these layers is offered again. Gives how many that were. */
  async forgive(layers: readonly string[]): Promise<number> {
    const { rejected, accepted } = await this.read();
    const left = rejected.filter((r) => !layers.some((key) => r.startsWith(`${key}\n`)));
    if (left.length < rejected.length) await this.write({ rejected: left, accepted });
    return rejected.length - left.length;
  }

  private async write(memory: KeptMemory): Promise<void> {
    await this.store.manager.upsert(settingTable, { key: KEY, value: JSON.stringify(memory) }, ['key']);
  }
}
