import { statSync } from 'node:fs';
import { DEFAULT_NAMING, groupFiles, parseDataPackage, proposeName, splitName, type Origin } from '@rootmap/core';
import type { DatasetFacts } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import type { PlannedWrite } from '../changes/change.js';
import { keeperOf, planOriginsOf } from '../folders/origins.js';
import { RECORDS } from '../move/records.js';
import { datasetsOfFile, type FoundDataset } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';

/** What was fetched and unpacked, as datasets; those of one file once. */
export function cameIn(folder: string): FoundDataset[] {
  const { files } = listFiles(folder, { confinedTo: folder });
  return groupFiles(files).groups.flatMap((g) =>
    g.format === 'document' || g.format === 'opaque' ? [] : datasetsOfFile(join(folder, g.main.path)).slice(0, 1),
  );
}

export const stemOf = ({ dataset }: FoundDataset): string => splitName(basename(dataset.group.path)).stem;
const safe = (stem: string): string => proposeName(stem, DEFAULT_NAMING, () => false).toLowerCase();

/** What came for a dataset: of its name, as it is or as names are made safe here; or the only one, where only one is looked for. */
export function cameFor(
  wanted: { readonly stem: string; readonly format: string },
  came: readonly FoundDataset[],
  isOnly: boolean,
): FoundDataset | null {
  const alike = came.filter((c) => c.dataset.group.format === wanted.format);
  const named = alike.find((c) => stemOf(c) === wanted.stem) ?? alike.find((c) => safe(stemOf(c)) === safe(wanted.stem));
  return named ?? (isOnly && alike.length === 1 ? alike[0]! : null);
}

export const filesOf = ({ dataset: { group } }: FoundDataset) => [group.main, ...group.companions];

/** What of a file's name follows the stem of its dataset. */
export function endingAfter(stem: string, path: string): string {
  const name = basename(path);
  return name.toLowerCase().startsWith(stem.toLowerCase()) ? name.slice(stem.length) : splitName(name).ending;
}

export const factsOf = (found: FoundDataset): DatasetFacts => ({
  records: found.dataset.featureCount,
  bytes: filesOf(found).reduce((sum, f) => sum + statSync(join(found.folder, f.path)).size, 0),
  bbox: found.dataset.bbox,
  crs: found.dataset.crs?.code ?? found.dataset.crs?.name ?? null,
});

/** A dataset whose files are put in place: its origin, and the hashes of those files. */
export interface PutThere {
  readonly path: string;
  readonly table: string | null;
  readonly origin: Origin;
  readonly files: readonly { readonly path: string; readonly hash: string }[];
}

/** The records of origin, with the hashes of the files that are there then. */
export function recordsOf(put: readonly PutThere[], scope: RootedScope): PlannedWrite[] {
  const written = new Map(put.map((p) => [p.path, p.files]));
  return planOriginsOf(put, keeperOf(scope)).writes.map((w) =>
    basename(w.path) === RECORDS && w.after ? { ...w, after: withFiles(Buffer.from(w.after), dirname(w.path), written) } : w,
  );
}

function withFiles(after: Buffer, folder: string, written: ReadonlyMap<string, PutThere['files']>): Buffer {
  const record = parseDataPackage(after.toString('utf8'));
  if (!record) return after;
  const resources = record.resources.map((r) => {
    const files = typeof r['path'] === 'string' ? written.get(join(folder, r['path'])) : undefined;
    if (!files) return r;
    const { bytes: _, ...rest } = r;
    return { ...rest, 'rootmap:files': files };
  });
  return Buffer.from(`${JSON.stringify({ ...record, resources }, null, 2)}\n`, 'utf8');
}
