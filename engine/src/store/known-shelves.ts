import { ProblemError } from '@rootmap/core';
import type { KeptLook, PageLayout, ShelvesView } from '@rootmap/core/contract';
import type { DataSource } from 'typeorm';
import { shelfTable } from './shelves.js';

interface Shelved {
  readonly layouts: PageLayout;
  readonly looks: KeptLook;
}
type Shelf = keyof Shelved;

const MOST = 500;
const WHAT: Readonly<Record<Shelf, string>> = { layouts: 'layout', looks: 'look' };

/** What people keep for all maps: layouts of pages and looks of layers, each by its name. */
export class KnownShelves {
  constructor(private readonly store: DataSource) {}

  async all(): Promise<ShelvesView> {
    return { layouts: await this.list('layouts'), looks: await this.list('looks') };
  }

  /** By name, as a person would look for it. */
  private async list<K extends Shelf>(shelf: K): Promise<Shelved[K][]> {
    const rows = await this.store.manager.findBy(shelfTable, { shelf });
    return rows.sort((a, b) => a.name.localeCompare(b.name)).map(({ body }) => JSON.parse(body) as Shelved[K]);
  }

  /** One of the same name is replaced. */
  async keep<K extends Shelf>(shelf: K, item: Shelved[K]): Promise<ShelvesView> {
    const { name } = item;
    const isNew = !(await this.store.manager.existsBy(shelfTable, { shelf, name }));
    if (isNew && (await this.store.manager.countBy(shelfTable, { shelf })) >= MOST)
      throw new ProblemError({ code: 'wrong-use', message: `${MOST} of them are kept, which is the most. Drop one that nobody needs.` });
    await this.store.manager.upsert(shelfTable, { shelf, name, body: JSON.stringify(item) }, ['shelf', 'name']);
    return this.all();
  }

  async drop(shelf: Shelf, name: string): Promise<ShelvesView> {
    const { affected } = await this.store.manager.delete(shelfTable, { shelf, name });
    if (affected === 0) throw new ProblemError({ code: 'not-found', what: WHAT[shelf], id: name });
    return this.all();
  }
}
