import { existsSync } from 'node:fs';
import { formatOf, splitName, type Origin } from '@rootmap/core';
import type { PutBackRow } from '@rootmap/core/contract';
import { basename, dirname, join, pathFrom } from '../disk/native-path.js';
import type { PlannedChange, PlannedStep } from '../changes/change.js';
import { sha256Of } from '../bundle/sha256-of.js';
import type { StayedOut } from '../folders/stayed-out.js';
import { amongOriginals, type RootedScope } from '../project/scope.js';
import { cameFor, cameIn, endingAfter, filesOf, recordsOf, stemOf, type PutThere } from './came-in.js';
import type { Replaced } from './take-edition.js';

export interface PutBack {
  readonly change: PlannedChange | null;
  readonly copies: readonly Replaced[];
  readonly rows: readonly PutBackRow[];
}

/**
 * What would be put where it belongs of what came from one address. What is not as it was is left alone, unless it is wanted too.
 * Nothing is written.
 * @param folder real path of what came, unpacked
 */
export async function planPutBack(
  scope: RootedScope,
  wanted: readonly StayedOut[],
  folder: string,
  origin: Pick<Origin, 'fetched' | 'edition'>,
  { takesOther, who }: { readonly takesOther: boolean; readonly who: string },
): Promise<PutBack> {
  const came = cameIn(folder);
  const copies: Replaced[] = [];
  const put: PutThere[] = [];
  const rows: PutBackRow[] = [];
  for (const { path, address, origin: before, files } of wanted) {
    const row = { path: pathFrom(scope.root, path), address };
    const { stem } = splitName(basename(path));
    const now = cameFor({ stem, format: formatOf(basename(path)) ?? '' }, came, wanted.length === 1);
    if (!now) {
      rows.push({ ...row, state: 'not-in-it', why: null, missing: [] });
      continue;
    }
    const coming: { name: string; from: string; hash: string }[] = [];
    for (const f of filesOf(now)) {
      const from = join(now.folder, f.path);
      coming.push({ name: `${stem}${endingAfter(stemOf(now), f.path)}`, from, hash: `sha256:${await sha256Of(from)}` });
    }
    const state = stateOf(basename(path), files, coming);
    const missing = files.map((f) => f.path).filter((name) => !coming.some((c) => c.name === name));
    const isPut = state !== 'other' || takesOther;
    rows.push({ ...row, state: isPut ? state : 'left', why: null, missing });
    if (!isPut) continue;
    const isOriginal = amongOriginals(scope, path);
    copies.push(...coming.map((c) => ({ to: join(dirname(path), c.name), from: c.from, isOriginal })));
    put.push({ path, table: null, origin: { ...before, ...origin }, files: coming.map((c) => ({ path: c.name, hash: c.hash })) });
  }
  const title = put.length === 1 ? basename(put[0]!.path) : `${put.length} datasets`;
  // A companion that stands there alone gives way to the one that came with its data.
  const installs = copies.flatMap((c): PlannedStep[] => [
    ...(existsSync(c.to) ? [{ kind: 'trash' as const, path: c.to, hash: null }] : []),
    { kind: 'install', path: c.to },
  ]);
  const change: PlannedChange | null =
    copies.length === 0
      ? null
      : { title: `Fetch ${title} again`, kind: 'intake', root: scope.root, who, steps: [...recordsOf(put, scope), ...installs] };
  return { change, copies, rows };
}

/** Only checksums tell: each file that came is held against its own, and one that nobody wrote down did not stand there. */
function stateOf(
  main: string,
  files: StayedOut['files'],
  coming: readonly { readonly name: string; readonly hash: string }[],
): 'as-it-was' | 'other' | 'not-told' {
  const told = new Map(files.map((f) => [f.path, f.hash]));
  if (!told.has(main)) return 'not-told';
  return coming.every((c) => told.get(c.name) === c.hash) && coming.some((c) => c.name === main) ? 'as-it-was' : 'other';
}
