import type { DataSource } from 'typeorm';
import { sameJson, type MendMemory } from '@rootmap/core';
import { settingTable } from '../store/tables.js';

/** As it is kept: plain lists. */
export interface KeptMemory {
  readonly rejected: readonly string[];
  /** `change`: the mend that accepted it; what is undone is not accepted any longer. */
  readonly accepted: readonly (Move & { readonly change: string })[];
}
type Move = MendMemory['accepted'][number];
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

  async accept(moves: readonly Move[], change: string): Promise<void> {
    const { rejected, accepted } = await this.read();
    const isOther = ({ from, to }: Move): boolean => !moves.some((m) => sameJson(m, { from, to }));
    const next = [...moves.map((m) => ({ ...m, change })), ...accepted.filter(isOther)];
    await this.write({ rejected, accepted: next.slice(0, MOST_ACCEPTED) });
  }

  /** A mend was undone: what it accepted was not right. */
  async takeBack(change: string): Promise<void> {
    const { rejected, accepted } = await this.read();
    const left = accepted.filter((m) => m.change !== change);
    if (left.length < accepted.length) await this.write({ rejected, accepted: left });
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
