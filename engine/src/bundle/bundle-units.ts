import { statSync } from 'node:fs';
import { standsIn, urlOf, type FileEntry, type FileGroup } from '@rootmap/core';
import { basename, below, dirname, join, resolve } from '../disk/native-path.js';
import type { Origins } from '../folders/origins.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import type { LeftOut } from './bundle-file.js';
import { roleIn, type chooseFiles } from './choose-files.js';
import type { OutsideThing } from './needs-of-maps.js';
import type { ToFetch } from './pack-plan.js';
import type { PackRequest } from './pack-request.js';
import { foldersAlong, ROLE_ALONG, unitAlong, type Unit } from './place-files.js';

/** Which files stay together in a bundle: those of the root, what comes along, what is added. What stays out is told to `leave`. */
export class BundleUnits {
  constructor(
    private readonly scope: RootedScope,
    private readonly request: PackRequest,
    private readonly origins: Origins,
    private readonly leave: (things: readonly LeftOut[]) => void,
  ) {}

  list(): FileEntry[] {
    const { root, places } = this.scope;
    const listing = listFiles(root, { confinedTo: confinementOf(root, places) });
    this.leave([
      ...listing.nested.map((path) => ({ path, why: 'it is a project of its own' })),
      ...listing.skipped.map(({ path, why }) => ({ path, why })),
    ]);
    const target = this.request.out === null ? null : resolve(this.request.out);
    return listing.files.filter((f) => join(root, f.path) !== target);
  }

  /** Datasets with all that belongs to them, and single files. */
  inside(chosen: ReturnType<typeof chooseFiles>['chosen'], groups: ReadonlyMap<string, FileGroup>): Unit[] {
    const units = new Map<string, Unit>();
    for (const { entry, role, uses } of chosen) {
      const group = groups.get(entry.path);
      const key = group?.path ?? entry.path;
      const file = { path: entry.path, source: join(this.scope.root, entry.path) };
      const known = units.get(key);
      const isMain = entry.path === key;
      const files = !known ? [file] : isMain ? [file, ...known.files] : [...known.files, file];
      units.set(key, { files, role, from: 'inside', uses: known?.uses.length ? known.uses : uses });
    }
    return [...units.values()];
  }

  /** What its publisher offers, and is recorded as such, may be fetched again instead of carried. */
  leaveFetchable(units: readonly Unit[]): { kept: Unit[]; fetchable: Unit[] } {
    if (!this.request.choices.leaveFetchable) return { kept: [...units], fetchable: [] };
    const kept: Unit[] = [];
    const fetchable: Unit[] = [];
    for (const unit of units) {
      const origin = this.origins.of(unit.files[0]!.source);
      if (!origin?.isReobtainable || urlOf(origin.address) === null) kept.push(unit);
      else {
        fetchable.push(unit);
        this.leave(unit.files.map((f) => ({ path: f.path, why: `it can be fetched again from ${origin.address}` })));
      }
    }
    return { kept, fetchable };
  }

  toFetch(unit: Unit, placed: ReadonlyMap<string, string>): ToFetch {
    const [main] = unit.files;
    const { address } = this.origins.of(main!.source)!;
    return {
      path: placed.get(main!.source)!,
      address,
      bytes: this.bytesOf(unit),
      files: unit.files.map((f) => f.source),
      sums: null,
    };
  }

  private bytesOf(unit: Unit): number {
    return unit.files.reduce((sum, f) => sum + statSync(f.source).size, 0);
  }

  comesAlong = (thing: OutsideThing): boolean => {
    const { along } = this.request.choices;
    return this.request.choices.layer !== null || along === 'all' || (along !== 'none' && along.includes(thing.main));
  };

  along(things: readonly OutsideThing[], taken: ReadonlySet<string>): Unit[] {
    const isTaken = (name: string): boolean => [...taken].some((p) => standsIn(name, p));
    const folders = foldersAlong(
      things.map((t) => dirname(t.files[0]!.path)),
      isTaken,
    );
    return things.map((t) => ({
      files: unitAlong(
        t.files.filter((f) => !/-shm$/i.test(f.path)).map((f) => f.path),
        folders,
      ),
      role: ROLE_ALONG,
      from: 'along',
      uses: t.uses,
    }));
  }

  private readonly added = new Map<string, FileEntry[]>();

  entriesAdded(path: string): FileEntry[] {
    let entries = this.added.get(path);
    if (!entries) {
      const folder = dirname(path);
      const listing = listFiles(folder, { confinedTo: confinementOf(folder, this.scope.places) });
      const name = basename(path);
      entries = listing.files.filter((f) => standsIn(name, f.path)).map((f) => ({ ...f, path: join(folder, f.path) }));
      if (entries.length === 0) this.leave([{ path, why: 'it was to be added, and nothing stands there that can be' }]);
      this.added.set(path, entries);
    }
    return entries;
  }

  addedUnits(): Unit[] {
    return this.request.added.flatMap((path) =>
      this.entriesAdded(path).map((f): Unit => {
        const inner = `added/${below(dirname(path), f.path)!}`;
        return { files: [{ path: inner, source: f.path }], role: roleIn(inner, {}), from: 'added', uses: [] };
      }),
    );
  }
}
