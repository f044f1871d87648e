import { existsSync } from 'node:fs';
import { fieldFamily, type Dataset, type Origin } from '@rootmap/core';
import type { NewerDataset } from '@rootmap/core/contract';
import { basename, dirname, join } from '../disk/native-path.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { sha256Of } from '../bundle/sha256-of.js';
import { findDataset, type FoundDataset } from '../project/find-dataset.js';
import { amongOriginals, type RootedScope } from '../project/scope.js';
import { cameFor, cameIn, endingAfter, factsOf, filesOf, recordsOf, stemOf, type PutThere } from './came-in.js';

/** A file of the old edition and of the new one; `from` null: the new one has none of this ending. */
export interface Replaced {
  readonly to: string;
  readonly from: string;
  readonly isOriginal: boolean;
}
export interface TakenEdition {
  readonly change: PlannedChange | null;
  readonly copies: readonly Replaced[];
  readonly datasets: readonly NewerDataset[];
}

/**
 * What would become of datasets when what was fetched takes their place: the same names, so that every reference holds. Their
 * old files go to the trash. Nothing is written.
 * @param folder real path of what came, unpacked
 */
export async function planTakeEdition(
  scope: RootedScope,
  wanted: readonly { readonly id: string; readonly origin: Origin; readonly usedBy: number }[],
  folder: string,
  origin: Pick<Origin, 'fetched' | 'edition'>,
  who: string,
): Promise<TakenEdition> {
  const came = cameIn(folder);
  const copies: Replaced[] = [];
  const steps: PlannedStep[] = [];
  const put: PutThere[] = [];
  const datasets: NewerDataset[] = [];
  for (const { id, origin: before, usedBy } of wanted) {
    const old = findDataset(scope, id);
    const now = cameFor({ stem: stemOf(old), format: old.dataset.group.format }, came, wanted.length === 1);
    const common = { id, name: basename(old.dataset.group.path), before: factsOf(old), usedBy };
    if (!now) {
      datasets.push({ ...common, now: null, fields: NO_FIELDS, isSame: false });
      continue;
    }
    const pairs = pairsOf(old, now);
    const hashes = new Map<string, string>();
    for (const { from } of pairs) if (from !== null) hashes.set(from, await sha256Of(from));
    const isSame = await areSame(pairs, hashes);
    if (!isSame) {
      const isOriginal = amongOriginals(scope, pairs[0]!.to);
      for (const { to } of pairs) if (existsSync(to)) steps.push({ kind: 'trash', path: to, hash: null });
      const coming = pairs.flatMap((p) => (p.from === null ? [] : [{ to: p.to, from: p.from, isOriginal }]));
      for (const { to } of coming) steps.push({ kind: 'install', path: to });
      copies.push(...coming);
      const path = join(old.folder, old.dataset.group.path);
      const files = coming.map((c) => ({ path: basename(c.to), hash: `sha256:${hashes.get(c.from) ?? ''}` }));
      put.push({ path, table: old.dataset.table, origin: { ...before, ...origin }, files });
    }
    datasets.push({ ...common, now: factsOf(now), fields: fieldChanges(old.dataset, now.dataset), isSame });
  }
  const things = put.length === 1 ? basename(put[0]!.path) : `${put.length} datasets`;
  const change: PlannedChange | null =
    copies.length > 0
      ? {
          title: `Take over the new edition of ${things}`,
          kind: 'intake',
          root: scope.root,
          who,
          steps: [...recordsOf(put, scope), ...steps],
        }
      : null;
  return { change, copies, datasets };
}

/** Old names keep their place; a companion that is new gets the old stem. */
function pairsOf(old: FoundDataset, now: FoundDataset): { to: string; from: string | null }[] {
  const stem = stemOf(old);
  const folder = dirname(join(old.folder, old.dataset.group.path));
  const pairs = new Map<string, string | null>(filesOf(old).map((f) => [join(old.folder, f.path), null]));
  const nowStem = stemOf(now);
  for (const f of filesOf(now)) {
    const ending = endingAfter(nowStem, f.path);
    const known = [...pairs.keys()].find((p) => basename(p).toLowerCase() === `${stem}${ending}`.toLowerCase());
    pairs.set(known ?? join(folder, `${stem}${ending}`), join(now.folder, f.path));
  }
  return [...pairs].map(([to, from]) => ({ to, from }));
}

async function areSame(pairs: readonly { to: string; from: string | null }[], hashes: ReadonlyMap<string, string>): Promise<boolean> {
  for (const { to, from } of pairs) if (from === null || !existsSync(to) || (await sha256Of(to)) !== hashes.get(from)) return false;
  return true;
}

const NO_FIELDS = { added: [], gone: [], changed: [] };

/** The size of a geodatabase is not that of one table in it. */
const withoutSize = (found: FoundDataset) => ({ ...factsOf(found), bytes: null });

/** One dataset against the one that would take its place. */
export const comparedWith = (old: FoundDataset, now: FoundDataset, id: string, usedBy: number): NewerDataset => ({
  id,
  name: old.dataset.table ?? basename(old.dataset.group.path),
  before: withoutSize(old),
  now: withoutSize(now),
  fields: fieldChanges(old.dataset, now.dataset),
  usedBy,
  isSame: false,
});

function fieldChanges(before: Dataset, now: Dataset): NewerDataset['fields'] {
  const old = new Map((before.fields ?? []).map((f) => [f.name, f.type]));
  const fresh = new Map((now.fields ?? []).map((f) => [f.name, f.type]));
  return {
    added: [...fresh.keys()].filter((n) => !old.has(n)),
    gone: [...old.keys()].filter((n) => !fresh.has(n)),
    changed: [...fresh].flatMap(([n, type]) => (old.has(n) && fieldFamily(old.get(n)!) !== fieldFamily(type) ? [n] : [])),
  };
}
