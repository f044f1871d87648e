import { existsSync, statSync } from 'node:fs';
import { ProblemError, tableNameFault } from '@rootmap/core';
import type { TableEdit } from '@rootmap/core/contract';
import { basename, dirname } from '../../disk/native-path.js';
import type { PlannedStep } from '../../changes/change.js';
import { isSqliteError, NotADatabase, openGeopackage } from '../../geopackage/open-geopackage.js';
import { keeperOf, Origins, originsCopied, planOriginsOf, type Keeper, type Told } from '../../folders/origins.js';
import { knownProjects } from '../../move/known-maps.js';
import { type ReferenceRow } from '../../move/plan-move.js';
import type { RootedScope } from '../../project/scope.js';
import { stateOf } from '../container-state.js';
import { refuseHeld } from '../holders.js';
import { replaceContainer } from '../replace-container.js';
import type { StagedContainer, TableOperation } from './stage-tables.js';
import { followTables, nameTheOnly, tableReferences, type TableAt, type TableReference } from './table-references.js';
import { missingFolders } from '../../changes/missing-folders.js';

export interface TableEditPlan {
  readonly title: string;
  readonly steps: readonly PlannedStep[];
  /** How the content of each install is made. */
  readonly containers: readonly StagedContainer[];
  readonly references: readonly ReferenceRow[];
  /** Layers that use a table which goes. */
  readonly usedBy: readonly TableReference[];
  /** Bytes of containers that are replaced. */
  readonly bytes: number;
}

type Resolve = (at: { readonly place: string; readonly path: string }, mayBeNew: boolean) => string;

/** Plans what is done to tables of geodatabases, with every reference to them in the maps of all known projects. Nothing is written. */
export function planTableEdit(scope: RootedScope, edit: TableEdit, roots: readonly string[], resolve: Resolve): TableEditPlan {
  const path = resolve(edit.geodatabase, false);
  const keeper = keeperOf(scope);
  if (edit.action === 'rescue') return planRescue(path, resolve(edit.into, true), keeper);
  refuseHeld(path);
  const planned = [stateOf(path)]; // before anything is read of it
  const inside = namesIn(path);
  const file = basename(path);
  const references = tableReferences(knownProjects([scope.root, ...roots], scope.places), scope.places);
  const isTo = (r: TableReference, table: string): boolean =>
    r.path === path && (r.table === table || (r.table === null && inside.tables.length === 1 && inside.tables[0] === table));
  const has = (table: string): void => {
    if (!inside.tables.includes(table)) throw new ProblemError({ code: 'not-found', what: 'table', id: `${file}#${table}` });
  };
  const plan = (
    title: string,
    made: readonly Omit<StagedContainer, 'planned'>[],
    to: (r: TableReference) => TableAt | null,
    origins: readonly Told[] = [],
  ): TableEditPlan => {
    const containers = made.map((c): StagedContainer => ({ ...c, planned }));
    const { writes, rows } = followTables(references, to, scope.places);
    return {
      title,
      steps: [
        ...writes,
        ...planOriginsOf(origins, keeper).writes,
        ...containers.flatMap((c) => folderSteps(c.target)),
        ...containers.flatMap((c) => replaceContainer(c.target)),
      ],
      containers,
      references: rows,
      usedBy: [],
      bytes: containers.reduce((sum, c) => sum + statSync(c.from).size, 0),
    };
  };
  const stays = (): null => null;
  const known = new Origins(keeper);
  /** What is written down of a table by itself goes with it, and goes away where it goes. */
  const originMoves = (table: string, now: TableAt | null, isCopy: boolean): Told[] => {
    const own = known.allOf(path).find((o) => o.table === table);
    const origin = own?.origin ?? (now !== null && now.path !== path ? known.of(path, table) : null);
    return [
      ...(own && !isCopy ? [{ path, table, origin: null }] : []),
      ...(origin && now ? [{ path: now.path, table: now.table, origin }] : []),
    ];
  };

  switch (edit.action) {
    case 'rename': {
      has(edit.table);
      checkName(edit.name, inside, edit.table);
      const rename: TableOperation = { kind: 'rename', table: edit.table, name: edit.name };
      const now = { path, table: edit.name };
      return plan(
        `Rename the table ${edit.table} to ${edit.name}`,
        [edited(path, [rename])],
        (r) => (isTo(r, edit.table) ? now : null),
        originMoves(edit.table, now, false),
      );
    }
    case 'copy': {
      has(edit.table);
      const into = resolve(edit.into, false);
      if (into !== path) {
        refuseHeld(into);
        planned.push(stateOf(into));
      }
      const there = into === path ? inside : namesIn(into);
      checkName(edit.name, there, null);
      const copy: TableOperation = { kind: 'copy', from: path, table: edit.table, name: edit.name };
      const named = nameTheOnly(into, there.tables);
      const now = { path: into, table: edit.name };
      const origins = originMoves(edit.table, now, !edit.isMove);
      if (!edit.isMove) return plan(`Copy the table ${edit.table} to ${basename(into)}`, [edited(into, [copy])], named, origins);
      if (into === path) throw new ProblemError({ code: 'wrong-use', message: `${edit.table} is in ${file} already. Rename it instead.` });
      const drop: TableOperation = { kind: 'drop', table: edit.table };
      return plan(
        `Move the table ${edit.table} to ${basename(into)}`,
        [edited(into, [copy]), edited(path, [drop])],
        (r) => (isTo(r, edit.table) ? now : named(r)),
        origins,
      );
    }
    case 'drop': {
      edit.tables.forEach(has);
      const what = edit.tables.length === 1 ? `the table ${edit.tables[0]}` : `${edit.tables.length} tables`;
      const drops = edit.tables.map((table): TableOperation => ({ kind: 'drop', table }));
      const usedBy = references.filter((r) => edit.tables.some((table) => isTo(r, table)));
      const gone = edit.tables.flatMap((table) => originMoves(table, null, false));
      return { ...plan(`Delete ${what} from ${file}`, [edited(path, drops)], stays, gone), usedBy };
    }
    case 'compact':
      return plan(`Give back free room of ${file}`, [{ target: path, from: path, work: 'compact', operations: [] }], stays);
    case 'repair':
      return plan(`Repair ${file}`, [edited(path, [{ kind: 'repair' }])], stays);
  }
}

const edited = (path: string, operations: readonly TableOperation[]): Omit<StagedContainer, 'planned'> => ({
  target: path,
  from: path,
  work: 'edit',
  operations,
});

const folderSteps = (path: string): PlannedStep[] => missingFolders([dirname(path)]).map((folder) => ({ kind: 'folder', path: folder }));

/** Into a new file: the damaged one stays as it is. */
function planRescue(path: string, into: string, keeper: Keeper): TableEditPlan {
  if (!/\.gpkg$/i.test(into)) throw new ProblemError({ code: 'bad-name', name: basename(into), why: 'a geodatabase ends in .gpkg' });
  if (existsSync(into)) throw new ProblemError({ code: 'exists', path: into });
  return {
    title: `Rescue ${basename(path)} into ${basename(into)}`,
    steps: [...folderSteps(into), { kind: 'install', path: into }, ...originsCopied([{ from: path, to: into }], keeper).writes],
    containers: [{ target: into, from: path, work: 'rescue', operations: [], planned: [] }],
    references: [],
    usedBy: [],
    bytes: 0, // nothing is replaced
  };
}

interface Names {
  /** As the table of contents has them. */
  readonly tables: readonly string[];
  /** Everything in the file, in lower case: SQLite tells no case apart. */
  readonly all: ReadonlySet<string>;
}

/** Names in a geodatabase. Throws where it cannot be read. */
export function namesIn(path: string): Names {
  try {
    const opened = openGeopackage(path);
    try {
      const all = opened.db.prepare<[], string>('SELECT name FROM sqlite_master').pluck(true).all();
      const tables = opened.db.prepare<[], string>('SELECT table_name FROM gpkg_contents ORDER BY table_name').pluck(true).all();
      return { tables, all: new Set(all.map((n) => n.toLowerCase())) };
    } finally {
      opened.close();
    }
  } catch (error) {
    if (!(error instanceof NotADatabase) && !isSqliteError(error)) throw error;
    throw new ProblemError({
      code: 'failed',
      what: `Reading ${basename(path)}`,
      why: `${error.message}. Rescue what can be read into a new one`,
    });
  }
}

function checkName(name: string, { all }: Names, before: string | null): void {
  const why =
    tableNameFault(name) ??
    (all.has(name.toLowerCase()) && name.toLowerCase() !== before?.toLowerCase() ? 'a table of that name is there already' : null);
  if (why !== null) throw new ProblemError({ code: 'bad-name', name, why });
}
