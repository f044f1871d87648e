import { existsSync } from 'node:fs';
import { locateHere, placeNamed, ProblemError, type Manifest, type OnProgress } from '@rootmap/core';
import { basename, below, dirname, join, resolve, toAddress } from '../disk/native-path.js';
import { writeFileSync } from '../disk/files.js';
import { missingFolders } from '../changes/missing-folders.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { pathOf } from '../places/places.js';
import type { LayerRow } from '../project/layer-row.js';
import type { RootedScope } from '../project/scope.js';
import { carriersFor, type Carrier } from './carriers.js';
import { assertSheets } from './checks.js';
import type { PackPlan } from './pack-plan.js';
import { receiptOf } from './receipt.js';
import { verifyBundle, type VerifyResult } from './verify.js';
import { withSums } from './with-sums.js';
import { withTables } from './with-tables.js';
import { writeBag, writeFolder } from './write-bag.js';

export interface PackResult {
  readonly file: string;
  readonly bytes: number;
  readonly payload: { readonly files: number; readonly bytes: number };
  /** SHA-256 of each file of the payload, as it was read back. */
  readonly manifest: Manifest;
  /** What came along from outside the root: real paths, and paths in the bundle. */
  readonly brought: readonly { readonly from: string; readonly to: string }[];
  readonly leftOut: PackPlan['leftOut'];
  readonly services: PackPlan['services'];
  readonly layers: readonly LayerRow[];
  readonly carriers: readonly Carrier[];
  /** The receipt that stands beside the zip; null: there is none. */
  readonly receipt: string | null;
}

/** Makes a bundle of a plan at a path. Throws where a file changed meanwhile. */
type Make = (
  plan: PackPlan,
  out: string,
  who: string,
  options: RunOptions,
  progress?: OnProgress,
  signal?: AbortSignal,
) => Promise<PackResult>;

const made =
  (make: (plan: PackPlan, out: string, who: string, options: RunOptions, progress: OnProgress) => Promise<PackResult>): Make =>
  async (plan, out, who, options, progress = () => undefined, signal) => {
    assertSheets(plan.findings);
    return withTables(await withSums(plan), (ready) => make(ready, resolve(out), who, { ...options, signal }, progress), signal);
  };

/** Writes the bundle as a change, reads it back, and only then puts it in its place. */
export const pack = made(async (plan, file, who, options, progress) => {
  const receipt = freeReceipt(file);
  let bytes = 0;
  let manifest: Manifest = new Map();
  const half = halves(progress);
  const stageAll = async (installs: readonly { readonly staged: string; readonly target: string }[]): Promise<void> => {
    const staged = (target: string): string => installs.find((i) => i.target === target)!.staged;
    bytes = await writeBag(plan, staged(file), half.first, options.signal);
    const check = await readBack(staged(file), half.second, options.signal);
    manifest = check.manifest;
    writeFileSync(staged(receipt), await receiptOf(plan, { file, staged: staged(file), bytes, who, check }));
  };
  await runChange(
    {
      title: `Bundle ${basename(file)}`,
      kind: 'pack',
      root: file,
      who,
      steps: [
        { kind: 'install', path: file },
        { kind: 'install', path: receipt },
      ],
    },
    { ...options, stageAll },
  );
  return resultOf(plan, file, bytes, manifest, receipt);
});

/** The bag as a folder at a place: every file is copied, read back and verified before the folder gets its name. */
export const copyToPlace = made(async (plan, folder, who, options, progress) => {
  const half = halves(progress);
  const above = missingFolders([dirname(folder)]);
  let manifest: Manifest = new Map();
  const stage = async (staged: string): Promise<void> => {
    await writeFolder(plan, staged, half.first, options.signal);
    ({ manifest } = await readBack(staged, half.second, options.signal));
  };
  await runChange(
    {
      title: `Copy ${plan.scope.project?.name ?? basename(plan.scope.root)} to ${basename(folder)}`,
      kind: 'pack',
      root: folder,
      who,
      steps: [...above.map((path) => ({ kind: 'folder' as const, path })), { kind: 'install', path: folder }],
    },
    { ...options, stage },
  );
  return resultOf(plan, folder, plan.bytes, manifest, null);
});

/** Beside the bundle, under a name that nothing has. */
function freeReceipt(file: string): string {
  const stem = file.replace(/\.zip$/i, '');
  for (let n = 1; ; n++) {
    const path = n === 1 ? `${stem}.receipt.json` : `${stem}.receipt_${n}.json`;
    if (!existsSync(path)) return path;
  }
}

const resultOf = (plan: PackPlan, file: string, bytes: number, manifest: Manifest, receipt: string | null): PackResult => ({
  file,
  bytes,
  manifest,
  payload: { files: plan.payload.length, bytes: plan.bytes },
  brought: [
    ...plan.payload.flatMap((f) =>
      f.from === 'along' && f.source !== null && f.to !== plan.gathered?.path ? [{ from: f.source, to: f.to }] : [],
    ),
    ...(plan.gathered?.tables ?? []).map((t) => ({ from: t.main, to: `${plan.gathered!.path}#${t.name}` })),
  ],
  leftOut: plan.leftOut,
  services: plan.services,
  layers: plan.layers,
  carriers: carriersFor(bytes),
  receipt,
});

/** Writing and reading back are told as one: the first half, and the second. */
function halves(progress: OnProgress): { first: OnProgress; second: OnProgress } {
  return {
    first: (p) => progress({ ...p, of: 2 * p.of }),
    second: (p) => progress({ ...p, done: p.of + p.done, of: 2 * p.of }),
  };
}

async function readBack(staged: string, progress: OnProgress, signal?: AbortSignal): Promise<VerifyResult> {
  const check = await verifyBundle(staged, signal, progress);
  if (!check.valid)
    throw new ProblemError({
      code: 'failed',
      what: 'Reading the bundle back',
      why: check.findings.map((f) => `${f.path} ${f.problem}`).join('; '),
    });
  return check;
}

/** A free name beside the root; where nothing may be written there, in another place, or else in the root itself. */
export function suggestedBundle(scope: RootedScope): string {
  const isOpen = (folder: string): boolean => {
    const location = locateHere(toAddress(folder), scope.places);
    const place = location && placeNamed(scope.places, location.place);
    return !!place && place.present && !place.readOnly;
  };
  const others = scope.places.filter((p) => p.present && !p.readOnly).map(pathOf);
  const folder = [dirname(scope.root), ...others].find((f) => isOpen(f) && below(scope.root, f) === null && f !== scope.root) ?? scope.root;
  const stem = join(folder, scope.project?.name ?? basename(scope.root));
  for (let n = 1; ; n++) {
    const file = n === 1 ? `${stem}.zip` : `${stem}_${n}.zip`;
    if (!existsSync(file)) return file;
  }
}
