import { ProblemError, type OnProgress } from '@rootmap/core';
import { basename } from '../../disk/native-path.js';
import { rmSync } from '../../disk/files.js';
import { openGeopackage } from '../../geopackage/open-geopackage.js';
import { mustBeAsBefore, type ContainerState } from '../container-state.js';
import { copyTable } from './copy-table.js';
import { dropTable } from './drop-table.js';
import { rowCounts } from './registry.js';
import { renameTable } from './rename-table.js';
import { repair } from './repair.js';
import { rescue } from './rescue.js';
import { copyWhole, openStaged } from './staged-database.js';

/** One step of what is done to a copy of a container. */
export type TableOperation =
  | { readonly kind: 'rename'; readonly table: string; readonly name: string }
  | { readonly kind: 'drop'; readonly table: string }
  /** From another container, or from this one as it was. */
  | { readonly kind: 'copy'; readonly from: string; readonly table: string; readonly name: string }
  | { readonly kind: 'repair' };

/** How the new content of one container is made. */
export interface StagedContainer {
  /** Where it will stand. */
  readonly target: string;
  /** The container that it is made from. */
  readonly from: string;
  readonly work: 'edit' | 'compact' | 'rescue';
  readonly operations: readonly TableOperation[];
  /** All containers that the change reads, as they were when it was planned: none may change until all are staged. */
  readonly planned: readonly ContainerState[];
}

/**
 * Makes the new content of a container beside it, checks it, and gives sentences for the person: what was done and, where it is not
 * all, what is left.
 */
export function stageContainer(order: StagedContainer, staged: string, onProgress: OnProgress): readonly string[] {
  if (order.work === 'rescue')
    return rescue(order.from, staged, onProgress).map((r) => `${r.table}: ${r.rows} records read${r.why === null ? '' : `; ${r.why}`}`);
  try {
    if (order.work === 'compact') compact(order.from, staged);
    else edit(order, staged, onProgress);
    mustBeAsBefore(order.planned);
    return [];
  } catch (error) {
    rmSync(staged);
    throw error;
  }
}

/** Written anew without free pages; every table must have as many rows as before. */
function compact(from: string, staged: string): void {
  const source = openGeopackage(from);
  try {
    source.db.prepare('VACUUM INTO ?').run(staged);
    verify(staged, rowCounts(source.db));
  } finally {
    source.close();
  }
}

function edit({ from, operations }: StagedContainer, staged: string, onProgress: OnProgress): void {
  copyWhole(from, staged);
  const db = openStaged(staged);
  let expected: Map<string, number>;
  try {
    expected = rowCounts(db);
    db.exec('BEGIN');
    for (const o of operations) {
      if (o.kind === 'repair') repair(db, (item) => onProgress({ done: 0, of: 0, unit: 'records', item }));
      else if (o.kind === 'rename') {
        renameTable(db, o.table, o.name);
        expected.set(o.name, expected.get(o.table)!);
        expected.delete(o.table);
      } else if (o.kind === 'drop') {
        dropTable(db, o.table);
        expected.delete(o.table);
      } else {
        expected.set(
          o.name,
          copyTable(db, o.from, o.table, o.name, (done) => onProgress({ done, of: 0, unit: 'records', item: o.name })),
        );
      }
    }
    db.exec('COMMIT');
  } finally {
    db.close();
  }
  verify(staged, expected);
}

/** Reads the new file: its pages are sound and every table has the rows that it must have. */
function verify(staged: string, expected: ReadonlyMap<string, number>): void {
  const opened = openGeopackage(staged);
  try {
    const pages = String(opened.db.pragma('quick_check(1)', { simple: true }));
    const counts = rowCounts(opened.db);
    const wrong = [...expected].find(([table, rows]) => counts.get(table) !== rows)?.[0];
    if (pages === 'ok' && wrong === undefined && counts.size === expected.size) return;
    const why = pages === 'ok' ? `${wrong ?? 'a table'} has not the records that it must have` : pages;
    throw new ProblemError({ code: 'failed', what: `Writing ${basename(staged)}`, why });
  } finally {
    opened.close();
  }
}
