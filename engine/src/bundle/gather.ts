import { datasetId, lossWords, parseReference } from '@rootmap/core';
import type { ImportPlanItem } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { scratch } from '../disk/scratch.js';
import { planImport } from '../geodatabase/plan-import.js';
import { datasetsOfFile, type FoundDataset } from '../project/find-dataset.js';
import type { MapSeen } from '../project/read-maps.js';
import type { RootedScope } from '../project/scope.js';
import type { LeftOut } from './bundle-file.js';
import { realOrNull, type OutsideThing } from './needs-of-maps.js';

/** A table of a geodatabase that is made for the bundle, and the dataset that it is made of. */
export interface GatheredTable {
  readonly name: string;
  /** Real path of the dataset's main file, and its table where that has several. */
  readonly main: string;
  readonly table: string | null;
}

/** Tables and shapes from outside the root that go along in one geodatabase. It can be cloned to a thread. */
export interface Gathering {
  readonly items: readonly ImportPlanItem[];
  readonly tables: readonly GatheredTable[];
  /** Of all that it is made of. */
  readonly bytes: number;
  readonly modifiedMs: number;
  /** What cannot be kept, told before. */
  readonly losses: readonly LeftOut[];
}

const idOf = ({ folder, dataset: { group, table } }: FoundDataset): string => datasetId(join(folder, group.path), table);

/**
 * Which of the things that come along can be tables of one geodatabase, under which names. Null: none can. The others come as
 * the files that they are.
 */
export function planGathering(things: readonly OutsideThing[], maps: readonly MapSeen[], scope: RootedScope): Gathering | null {
  const used = tablesUsed(maps);
  const found = new Map<string, FoundDataset>();
  for (const { main, kind } of things)
    if (kind === 'data')
      for (const one of datasetsOfFile(main)) {
        const isUsed =
          one.dataset.table === null || (used.get(main)?.has(one.dataset.table) ?? false) || (used.get(main)?.has(null) ?? false);
        if (isUsed) found.set(idOf(one), one);
      }
  if (found.size === 0) return null;
  const alone = { ...scope, root: null, project: null, projectFile: null };
  const asked = [...found.keys()].map((dataset) => ({ dataset, part: null, table: '', band: null }));
  const plan = planImport(alone, (id) => found.get(id)!, join(scratch(), 'gathered.gpkg'), asked, null, '');
  const mainOf = (id: string): string => join(found.get(id)!.folder, found.get(id)!.dataset.group.path);
  const isTable = (id: string): boolean => ['vector', 'table'].includes(found.get(id)!.dataset.kind);
  // A file of which one table that is used cannot be gathered comes as it is, so that no layer loses its data.
  const whole = new Set(plan.items.filter((i) => i.why !== null || !isTable(i.dataset)).map((i) => mainOf(i.dataset)));
  const items = plan.items.filter((i) => !whole.has(mainOf(i.dataset)));
  const tables = items.map((i) => ({ name: i.table, main: mainOf(i.dataset), table: found.get(i.dataset)!.dataset.table }));
  const files = things.filter((t) => tables.some((x) => x.main === t.main)).flatMap((t) => t.files);
  if (tables.length === 0) return null;
  return {
    items,
    tables,
    bytes: files.reduce((sum, f) => sum + f.bytes, 0),
    modifiedMs: Math.max(...files.map((f) => f.modifiedMs)),
    losses: items.flatMap((i) => i.losses.map((l) => ({ path: mainOf(i.dataset), why: `as a table: ${lossWords(l)}` }))),
  };
}

/** By the real path of the file, the tables that layers name; null: the only one. */
function tablesUsed(maps: readonly MapSeen[]): Map<string, Set<string | null>> {
  const used = new Map<string, Set<string | null>>();
  for (const { layers } of maps)
    for (const { judgement: j } of layers) {
      const real = j.resolved === null || j.location === null ? null : realOrNull(j.resolved);
      if (real !== null) used.set(real, (used.get(real) ?? new Set()).add(j.table));
    }
  return used;
}

/** The table that a reference to a gathered file means; null: none of them. */
export function tableFor(gathering: Gathering, main: string, href: string): string | null {
  const own = gathering.tables.filter((t) => t.main === main);
  const parsed = parseReference(href);
  const fragment = parsed.ok && parsed.value.kind !== 'service' ? parsed.value.fragment : null;
  const table = own.find((t) => t.table === fragment) ?? (fragment === null && own.length === 1 ? own[0] : undefined);
  return table?.name ?? null;
}
