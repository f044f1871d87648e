import { existsSync } from 'node:fs';
import { arcsLost, countArcs, splitName, fileName, type Loss } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { crsKey, keyName } from '../crs/definitions.js';
import type { PlannedChange } from '../changes/change.js';
import { doubtOf } from '../crs/doubt.js';
import { keeperOf, originsAlong } from '../folders/origins.js';
import type { RootedScope } from '../project/scope.js';
import { platformBelow } from '../survey/platform.js';
import { dataAt, findDataset, type DataAt, type FoundDataset } from '../project/find-dataset.js';
import { missingFolders } from '../changes/missing-folders.js';

interface PlannedCopyOf {
  readonly id: string;
  readonly target: string;
  readonly table: string;
  readonly from: string;
  /** Null: exact. */
  readonly doubt: string | null;
  readonly records: number;
  /** What only counting its shapes tells. */
  readonly losses: readonly Loss[];
}
export interface CopiesPlan {
  readonly copies: readonly PlannedCopyOf[];
  /** What stays as it is, and why. */
  readonly left: readonly { readonly id: string; readonly why: string }[];
  readonly change: PlannedChange | null;
}

function arcsOf({ folder, dataset }: FoundDataset): number {
  const platform = platformBelow(folder);
  try {
    return countArcs(dataset, platform);
  } finally {
    platform.close();
  }
}

/** Which copies would be made of a selection, under names that are free. Nothing is written. */
export function planCopies(scope: RootedScope, ids: readonly string[], crs: string, into: string, who: string): CopiesPlan {
  const copies: PlannedCopyOf[] = [];
  const left: { id: string; why: string }[] = [];
  const taken = new Set<string>();
  const along: { from: DataAt; to: DataAt }[] = [];
  for (const id of ids) {
    const found = findDataset(scope, id);
    const { dataset } = found;
    const own = crsKey(dataset.crs);
    const why =
      dataset.kind !== 'vector'
        ? dataset.kind === 'raster'
          ? 'a raster: computing it anew costs quality, so it stays in its own CRS'
          : 'it has no shapes'
        : own === null
          ? 'nobody knows which CRS it is in'
          : own === crs
            ? `it is in ${crs} already`
            : null;
    if (why !== null) {
      left.push({ id, why });
      continue;
    }
    const name = dataset.table ?? splitName(basename(dataset.group.path)).stem;
    const stem = `${name.replace(/[^\p{L}\p{N}_]+/gu, '_')}_${crs.slice('EPSG:'.length)}`;
    const table = freeName(stem, (n) => taken.has(n) || existsSync(join(into, fileName(n, '.gpkg'))));
    taken.add(table);
    along.push({ from: dataAt(found), to: { path: join(into, fileName(table, '.gpkg')), table } });
    copies.push({
      id,
      target: join(into, fileName(table, '.gpkg')),
      table,
      from: keyName(own!),
      doubt: doubtOf(own!, crs).why,
      records: dataset.featureCount ?? 0,
      losses: arcsLost(arcsOf(found)),
    });
  }
  const title = copies.length === 1 ? `Copy ${basename(copies[0]!.target, '.gpkg')} in ${crs}` : `Copy ${copies.length} datasets in ${crs}`;
  const steps = [
    ...missingFolders([into]).map((path) => ({ kind: 'folder', path }) as const),
    ...copies.map(({ target }) => ({ kind: 'install', path: target }) as const),
    ...originsAlong(along, keeperOf(scope)).writes,
  ];
  return { copies, left, change: copies.length > 0 ? { title, kind: 'copy', root: scope.root, who, steps } : null };
}

function freeName(stem: string, isTaken: (name: string) => boolean): string {
  let name = stem;
  for (let n = 2; isTaken(name); n++) name = `${stem}_${n}`;
  return name;
}
