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
import { missingFolders } from '../changes/missing-folders.js';
import type { PlannedStep } from '../changes/change.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { isStagedName } from '../changes/staged-name.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { manifestOf } from './look-into.js';
import { sha256Of } from './sha256-of.js';
import { openBag, PAYLOAD, structureOf, verifyBag, type BagFinding } from './verify.js';

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
    found.set(path, await sha256Of(join(root, path)));
    done += bytes;
  }
  return found;
}

/** What remembers the editions of roots between two runs. */
export interface EditionMemory {
  of(root: string): Promise<{ readonly before: Before } | null>;
  keep(root: string, bundle: string, before: Before): Promise<void>;
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

/** What taking over would do; it can be cloned to another process. */
export interface TakeOverPlan {
  /** Paths that are put there, and which of them something stands at now. */
  readonly put: readonly string[];
  readonly replaced: readonly string[];
  /** Paths that go into the trash. */
  readonly removed: readonly string[];
  readonly left: number;
  /** Folders that have to be made: real paths. */
  readonly folders: readonly string[];
  readonly incoming: Manifest;
}

export async function planTakeOver(
  scope: RootedScope,
  bundle: string,
  before: Before | null,
  order: TakeOverOrder,
  progress?: OnProgress,
): Promise<TakeOverPlan> {
  const { rows, incoming } = await compareWithBundle(scope, bundle, before, progress);
  const acts = rows.map((row) => ({ path: row.path, act: takeOver(row, incoming.has(row.path), order) }));
  const { root, places } = scope;
  const here = new Set(listFiles(root, { confinedTo: confinementOf(root, places) }).files.map((f) => f.path));
  const put = acts.filter((a) => a.act === 'put').map((a) => a.path);
  const removed = acts.filter((a) => a.act === 'remove').map((a) => a.path);
  return {
    put,
    replaced: put.filter((p) => here.has(p)),
    removed,
    left: rows.length - put.length - removed.length,
    folders: missingFolders(put.map((p) => dirname(join(root, p)))),
    incoming,
  };
}

export interface TakenOver {
  readonly put: number;
  readonly bytes: number;
  readonly findings: readonly BagFinding[];
}

/**
 * A newer edition takes the place of the one that is here, as one change: what it replaces or no longer has goes to the
 * trash, what was changed here alone stays. Of a bundle that is not valid nothing is taken.
 */
export async function takeOverEdition(
  root: string,
  bundle: string,
  plan: TakeOverPlan,
  who: string,
  options: RunOptions,
  progress: OnProgress = () => undefined,
  signal?: AbortSignal,
): Promise<TakenOver> {
  const at = (path: string): string => join(root, path);
  const steps: PlannedStep[] = [
    ...plan.folders.map((path) => ({ kind: 'folder' as const, path })),
    ...[...plan.removed, ...plan.replaced].map((p) => ({ kind: 'trash' as const, path: at(p), hash: null })),
    ...plan.put.map((p) => ({ kind: 'install' as const, path: at(p) })),
  ];
  if (steps.length === 0) return { put: 0, bytes: 0, findings: [] };
  const bag = await openBag(bundle);
  let findings: readonly BagFinding[] = [];
  try {
    const structure = await structureOf(bag);
    if (structure.findings.length > 0) return { put: 0, bytes: 0, findings: structure.findings };
    const wanted = new Set(plan.put);
    const stageAll = async (installs: readonly { readonly staged: string; readonly target: string }[]): Promise<void> => {
      const staged = new Map(installs.map((i) => [i.target, i.staged]));
      const targetOf = (path: string): string | null => {
        const inner = path.startsWith(PAYLOAD) ? path.slice(PAYLOAD.length) : null;
        return inner !== null && wanted.has(inner) ? staged.get(at(inner))! : null;
      };
      const check = await verifyBag(bag, { structure, signal, progress, targetOf });
      findings = check.findings;
      if (!check.valid) throw new ProblemError({ code: 'bad-bag', path: bundle, why: `${findings[0]!.path}: ${findings[0]!.problem}` });
    };
    await runChange({ title: `Take over ${basename(bundle)}`, kind: 'receive', root, who, steps }, { ...options, stageAll, signal });
    return { put: plan.put.length, bytes: plan.put.reduce((sum, p) => sum + (bag.sizes.get(PAYLOAD + p) ?? 0), 0), findings: [] };
  } catch (error) {
    if (findings.length === 0) throw error;
    return { put: 0, bytes: 0, findings };
  } finally {
    bag.close();
  }
}
