import { createHash } from 'node:crypto';
import {
  compareEditions,
  ProblemError,
  takeOver,
  type EditionRow,
  type Before,
  type Manifest,
  type OnProgress,
  type TakeOverOrder,
} from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { createReadStream } from '../disk/files.js';
import { missingFolders } from '../changes/missing-folders.js';
import type { PlannedStep } from '../changes/change.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { isStagedName } from '../changes/staged-name.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { manifestOf } from './look-into.js';
import { openBag, structureOf, verifyBag, type BagFinding } from './verify.js';

/** SHA-256 of every file of a root that a bundle would hold, by path. */
export async function manifestHere(scope: RootedScope, progress: OnProgress = () => undefined): Promise<Manifest> {
  const { root, places } = scope;
  const files = listFiles(root, { confinedTo: confinementOf(root, places) }).files.filter(
    (f) => !isStagedName(f.path) && !basename(f.path).startsWith('.') && !/-shm$/i.test(f.path),
  );
  const of = files.reduce((sum, f) => sum + f.bytes, 0);
  const found = new Map<string, string>();
  let done = 0;
  for (const { path, bytes } of files) {
    progress({ done, of, unit: 'bytes', item: path });
    const hash = createHash('sha256');
    for await (const piece of createReadStream(join(root, path), { highWaterMark: 1 << 18 })) hash.update(piece as Buffer);
    found.set(path, hash.digest('hex'));
    done += bytes;
  }
  return found;
}

export interface EditionCompared {
  readonly rows: readonly EditionRow[];
  readonly incoming: Manifest;
}

/** A bundle of a project that is here, file by file. Throws where it cannot be compared. */
export async function compareWithBundle(
  scope: RootedScope,
  bundle: string,
  before: Before | null,
  progress?: OnProgress,
): Promise<EditionCompared> {
  const bag = await openBag(bundle);
  try {
    const incoming = await manifestOf(bag);
    if (incoming.size === 0)
      throw new ProblemError({
        code: 'bad-bag',
        path: bundle,
        why: 'it has no SHA-256 manifest, so it cannot be compared with what is here',
      });
    return { rows: compareEditions(await manifestHere(scope, progress), incoming, before), incoming };
  } finally {
    bag.close();
  }
}

export interface TakenOver {
  readonly put: number;
  readonly removed: number;
  readonly left: number;
  readonly bytes: number;
  readonly findings: readonly BagFinding[];
  readonly incoming: Manifest;
}

/**
 * A newer edition takes the place of the one that is here, as one change: what it replaces or no longer has goes to the
 * trash, what was changed here alone stays. Of a bundle that is not valid nothing is taken.
 */
export async function takeOverEdition(
  scope: RootedScope,
  bundle: string,
  before: Before | null,
  order: TakeOverOrder,
  who: string,
  options: RunOptions,
  progress: OnProgress = () => undefined,
  signal?: AbortSignal,
): Promise<TakenOver> {
  const { rows, incoming } = await compareWithBundle(scope, bundle, before);
  const acts = rows.map((row) => ({ path: row.path, act: takeOver(row, incoming.has(row.path), order) }));
  const here = pathsHere(scope);
  const put = acts.filter((a) => a.act === 'put').map((a) => a.path);
  const removed = acts.filter((a) => a.act === 'remove').map((a) => a.path);
  const at = (path: string): string => join(scope.root, path);
  const folders = missingFolders(put.map((p) => dirname(at(p))));
  const steps: PlannedStep[] = [
    ...folders.map((path) => ({ kind: 'folder' as const, path })),
    ...[...removed, ...put].filter((p) => here.has(p)).map((p) => ({ kind: 'trash' as const, path: at(p), hash: null })),
    ...put.map((p) => ({ kind: 'install' as const, path: at(p) })),
  ];
  const bag = await openBag(bundle);
  let findings: readonly BagFinding[] = [];
  let bytes = 0;
  try {
    const structure = await structureOf(bag);
    if (structure.findings.length > 0) return { put: 0, removed: 0, left: rows.length, bytes: 0, findings: structure.findings, incoming };
    const wanted = new Set(put);
    const stageAll = async (installs: readonly { readonly staged: string; readonly target: string }[]): Promise<void> => {
      const staged = new Map(installs.map((i) => [i.target, i.staged]));
      const targetOf = (path: string): string | null => {
        const inner = path.startsWith('data/') ? path.slice('data/'.length) : null;
        return inner !== null && wanted.has(inner) ? staged.get(at(inner))! : null;
      };
      const check = await verifyBag(bag, { structure, signal, progress, targetOf });
      findings = check.findings;
      if (!check.valid) throw new ProblemError({ code: 'bad-bag', path: bundle, why: `${findings[0]!.path}: ${findings[0]!.problem}` });
      bytes = put.reduce((sum, p) => sum + (bag.sizes.get(`data/${p}`) ?? 0), 0);
    };
    if (steps.length > 0)
      await runChange(
        { title: `Take over ${basename(bundle)}`, kind: 'receive', root: scope.root, who, steps },
        { ...options, stageAll, signal },
      );
  } catch (error) {
    if (findings.length === 0) throw error;
    return { put: 0, removed: 0, left: rows.length, bytes: 0, findings, incoming };
  } finally {
    bag.close();
  }
  return { put: put.length, removed: removed.length, left: rows.length - put.length - removed.length, bytes, findings: [], incoming };
}

const pathsHere = ({ root, places }: RootedScope): ReadonlySet<string> =>
  new Set(listFiles(root, { confinedTo: confinementOf(root, places) }).files.map((f) => f.path));
