import { cpSync, mkdirSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { writeProjectFile } from '@rootmap/core';
import type { ImportItem } from '@rootmap/core/contract';
import type { ChangeRecord } from '../src/changes/change.js';
import type { ChangeDisk } from '../src/changes/disk.js';
import { runChange } from '../src/changes/run-change.js';
import { bringIn } from '../src/geodatabase/bring-in.js';
import { planImport } from '../src/geodatabase/plan-import.js';
import { writeImport } from '../src/geodatabase/write-import.js';
import { findDataset, type FoundDataset } from '../src/project/find-dataset.js';
import { rooted, findScope, type RootedScope } from '../src/project/scope.js';
import { openStore } from '../src/store/open-store.js';
import { SqlJournal } from '../src/store/sql-journal.js';
import { TestFolder } from './test-project.js';

/** A file below the project, and how it is wanted. */
type Wanted = { readonly name: string } & Partial<Omit<ImportItem, 'dataset'>>;

/** A project with open shapefiles and a table, and a queue that brings data into its geodatabases. */
export class ImportWorld {
  private constructor(
    readonly t: TestFolder,
    readonly store: DataSource,
  ) {}

  static async open(): Promise<ImportWorld> {
    const t = new TestFolder();
    mkdirSync(t.at('p'));
    writeFileSync(
      t.at('p/p.rootmap.json'),
      writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: 'EPSG:32624', folders: {} }),
    );
    cpSync('testdata/open/spdata/shapes', t.at('p/shapes'), { recursive: true });
    writeFileSync(t.at('p/visits.csv'), 'site,n,day,fid\nÆ,3,2026-03-01,7\nB,,2026-03-02,8\n');
    return new ImportWorld(t, await openStore(t.at('data')));
  }

  async close(): Promise<void> {
    await this.store.destroy();
    this.t.remove();
  }

  readonly scope = (): RootedScope => rooted(findScope(this.t.at('p'), { places: this.t.places, root: this.t.at('p') }));
  readonly find = (id: string): FoundDataset => findDataset(this.scope(), id);
  readonly journal = (): SqlJournal => new SqlJournal(this.store);
  readonly items = (...names: (string | Wanted)[]): ImportItem[] =>
    names.map((n) => {
      const { name, ...how } = typeof n === 'string' ? { name: n } : n;
      return { dataset: this.t.at('p', name), part: null, table: '', ...how };
    });

  async bringIn(path: string, names: readonly (string | Wanted)[], crs: string | null = null, disk?: ChangeDisk) {
    const target = this.t.at('p', path);
    let done: ChangeRecord | null = null;
    const brought = await bringIn(this.items(...names), {
      plan: (items) => planImport(this.scope(), this.find, target, items, crs, 'test'),
      write: (wanted, staged) => writeImport(this.find, wanted, target, staged, () => undefined),
      apply: async (change, _, stage) => {
        done = await runChange(change, { journal: this.journal(), program: 'test', stage, ...(disk ? { disk } : {}) });
      },
    });
    return { ...brought, done: done as unknown as ChangeRecord };
  }
}
