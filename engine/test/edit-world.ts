import { mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { must, parseProjectFile, writeProjectFile, type ProjectFile } from '@rootmap/core';
import type { EditRequest } from '@rootmap/core/contract';
import { join } from '../src/disk/native-path.js';
import { runChange } from '../src/changes/run-change.js';
import { planEdit } from '../src/edit/plan-edit.js';
import { findScope, rooted, type RootedScope } from '../src/project/scope.js';
import { openStore } from '../src/store/open-store.js';
import { SqlJournal } from '../src/store/sql-journal.js';
import { ledFrom } from './resolve.js';
import { TestFolder } from './test-project.js';

/** A project in which edits are planned and carried out. */
export class EditWorld {
  private constructor(
    readonly t: TestFolder,
    private readonly store: DataSource,
  ) {}

  static async open(): Promise<EditWorld> {
    const t = new TestFolder();
    return new EditWorld(t, await openStore(t.at('data')));
  }

  async close(): Promise<void> {
    await this.store.destroy();
    this.t.remove();
  }

  readonly run = () => ({ journal: new SqlJournal(this.store), program: 'test' });
  readonly at = (path: string) => this.t.asked(path);
  readonly scope = (): RootedScope => rooted(findScope(this.t.at('p'), { places: this.t.places, root: this.t.at('p') }));
  readonly plan = (edit: EditRequest) =>
    planEdit(this.scope(), edit, { roots: [this.t.at('p')], who: 'test', isQuick: false, missed: [], resolve: this.t.resolve });

  async carryOut(edit: EditRequest) {
    const { change, preview } = await this.plan(edit);
    return { preview, done: await runChange(change!, this.run()) };
  }

  /** Every file below, with its bits. */
  readonly allBelow = (folder: string): string[] =>
    readdirSync(this.t.at(folder), { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && !e.parentPath.includes('.rootmap'))
      .map((e) => join(e.parentPath, e.name))
      .map((path) => `${path.slice(this.t.at(folder).length)} ${(statSync(path).mode & 0o777).toString(8)}`)
      .sort();

  /** Where layers lead to nothing, told without any code of the product. */
  readonly broken = (): string[] =>
    ledFrom(this.t.at('p'))
      .filter((l) => !l.isThere)
      .map((l) => l.path);

  readonly projectFile = (): ProjectFile => must(parseProjectFile('x', readFileSync(this.t.at('p/p.rootmap.json'), 'utf8')));

  project(folders: Record<string, string>): void {
    mkdirSync(this.t.at('p'), { recursive: true });
    for (const f of Object.keys(folders)) mkdirSync(this.t.at('p', f), { recursive: true });
    writeFileSync(
      this.t.at('p/p.rootmap.json'),
      writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders }),
    );
  }

  readonly writable = (path: string): boolean => (statSync(this.t.at(path)).mode & 0o222) !== 0;
}
