import { existsSync } from 'node:fs';
import { arcsLost, countArcs, splitName, fileName, type Dataset, type Loss } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { crsKey, keyName } from '../crs/definitions.js';
import type { PlannedChange } from '../changes/change.js';
import { doubtOf } from '../crs/doubt.js';
import { keeperOf, originsAlong } from '../folders/origins.js';
import type { RootedScope } from '../project/scope.js';
import { planRasterCopy, type RasterCopyPlan, type RasterWish } from './raster-copy.js';
import { platformBelow } from '../survey/platform.js';
import { dataAt, findDataset, type DataAt, type FoundDataset } from '../project/find-dataset.js';
import { missingFolders } from '../changes/missing-folders.js';

interface PlannedCopyOf {
  readonly id: string;
  readonly target: string;
  /** Name of the copy, and of its table where it has one. */
  readonly table: string;
  readonly from: string;
  /** Null: exact. */
  readonly doubt: string | null;
  /** Records, or pixels. */
  readonly records: number;
  readonly raster: RasterCopyPlan | null;
  /** What only counting its shapes tells. */
  readonly losses: readonly Loss[];
}
export interface CopiesPlan {
  readonly copies: readonly PlannedCopyOf[];
  /** What stays as it is, and why. */
  readonly left: readonly { readonly id: string; readonly why: string }[];
  readonly change: PlannedChange | null;
}
/** What is to be copied, and how. */
export interface CopiesWish extends RasterWish {
  readonly ids: readonly string[];
  /** `EPSG:n`. */
  readonly crs: string;
  /** Folder. */
  readonly into: string;
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
export function planCopies(scope: RootedScope, wish: CopiesWish, who: string): CopiesPlan {
  const { ids, crs, into } = wish;
  const copies: PlannedCopyOf[] = [];
  const left: { id: string; why: string }[] = [];
  const taken = new Set<string>();
  const along: { from: DataAt; to: DataAt }[] = [];
  for (const id of ids) {
    const found = findDataset(scope, id);
    const { dataset } = found;
    const own = crsKey(dataset.crs);
    const why = staysFor(dataset, own, crs);
    const raster = why === null && dataset.kind === 'raster' ? planRasterCopy(found, crs, wish) : null;
    if (typeof raster === 'string') left.push({ id, why: raster });
    if (why !== null) left.push({ id, why });
    if (why !== null || typeof raster === 'string') continue;
    const ending = raster ? '.tif' : '.gpkg';
    const name = dataset.table ?? splitName(basename(dataset.group.path)).stem;
    const stem = `${name.replace(/[^\p{L}\p{N}_]+/gu, '_')}_${crs.slice('EPSG:'.length)}`;
    const table = freeName(stem, (n) => taken.has(n + ending) || existsSync(join(into, fileName(n, ending))));
    const target = join(into, fileName(table, ending));
    taken.add(table + ending);
    along.push({ from: dataAt(found), to: { path: target, table: raster ? null : table } });
    copies.push({
      id,
      target,
      table,
      from: keyName(own!),
      doubt: doubtOf(own!, crs).why,
      records: raster ? raster.grid.width * raster.grid.height : (dataset.featureCount ?? 0),
      raster,
      losses: raster ? raster.losses : arcsLost(arcsOf(found)),
    });
  }
  const title = copies.length === 1 ? `Copy ${copies[0]!.table} in ${crs}` : `Copy ${copies.length} datasets in ${crs}`;
  const steps = [
    ...missingFolders([into]).map((path) => ({ kind: 'folder', path }) as const),
    ...copies.map(({ target }) => ({ kind: 'install', path: target }) as const),
    ...originsAlong(along, keeperOf(scope)).writes,
  ];
  return { copies, left, change: copies.length > 0 ? { title, kind: 'copy', root: scope.root, who, steps } : null };
}

/** Why a dataset cannot be copied into a CRS; null: nothing is known against it. */
function staysFor({ kind }: Dataset, own: string | null, crs: string): string | null {
  if (kind !== 'vector' && kind !== 'raster') return 'it has no shapes';
  if (own === null) return 'nobody knows which CRS it is in';
  return own === crs ? `it is in ${crs} already` : null;
}

function freeName(stem: string, isTaken: (name: string) => boolean): string {
  let name = stem;
  for (let n = 2; isTaken(name); n++) name = `${stem}_${n}`;
  return name;
}
