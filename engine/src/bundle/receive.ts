import { existsSync, statfsSync, statSync } from 'node:fs';
import { isUnsafePath, ProblemError, type Manifest, type Place, type OnProgress, partsOf } from '@rootmap/core';
import { basename, dirname, join, resolve } from '../disk/native-path.js';
import { mkdirSync, readdirSync, rmSync } from '../disk/files.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { layerRow, type LayerRow } from '../project/layer-row.js';
import { readMaps } from '../project/read-maps.js';
import { stayedOut } from '../folders/stayed-out.js';
import { findScope, rooted } from '../project/scope.js';
import { openBag, PAYLOAD, structureOf, verifyBag, type VerifyResult } from './verify.js';
import { missingFolders } from '../changes/missing-folders.js';

export interface ReceiveResult extends Arrived {
  readonly root: string;
  readonly files: number;
  readonly bytes: number;
  /** SHA-256 of each file of the payload, as it was checked. */
  readonly manifest: Manifest;
}

/** How the layers are, once the root stands: read from disk. */
export interface Arrived {
  readonly projectFile: string | null;
  readonly layers: readonly LayerRow[];
  /** Datasets that are written down with an address and are not here: they can be fetched. */
  readonly stayedOut: number;
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}

export function lookAtArrival(root: string, places: readonly Place[]): Arrived {
  const scope = rooted(findScope(root, { places, root }));
  const seen = readMaps(scope);
  return {
    projectFile: scope.projectFile,
    layers: seen.maps.flatMap((m) => m.layers.map((l) => layerRow(m, l))),
    stayedOut: stayedOut(scope).length,
    findings: seen.damaged.map((d) => ({ path: d.path, problem: d.message })),
  };
}

/** Only an empty or new folder can become a root. */
export function checkTarget(into: string): void {
  if (existsSync(into) && (!statSync(into).isDirectory() || readdirSync(into).length > 0))
    throw new ProblemError({ code: 'exists', path: into });
}

export interface ReceiveOptions {
  readonly look?: (root: string, places: readonly Place[]) => Arrived | Promise<Arrived>;
  /** Files that are not right stay out, and are told by name; the others are received. */
  readonly setAside?: boolean;
}

/**
 * Each file of the payload is checked as it is unpacked beside its place, and all are put there by one rename. Of a bundle that
 * is not valid nothing stays, unless the rest is asked for; what is wrong is given back.
 */
export async function receive(
  file: string,
  into: string,
  who: string,
  places: readonly Place[],
  options: RunOptions,
  progress: OnProgress = () => undefined,
  signal?: AbortSignal,
  { look = lookAtArrival, setAside = false }: ReceiveOptions = {},
): Promise<ReceiveResult> {
  const target = resolve(into);
  checkTarget(target);
  const bag = await openBag(file);
  try {
    const structure = await structureOf(bag);
    const listed = [...bag.sizes.keys()].filter((p) => p.startsWith(PAYLOAD) && !p.endsWith('/'));
    const paths = setAside ? listed.filter((p) => structure.expected.has(p)) : listed;
    if (structure.findings.length > 0 && (!setAside || paths.length === 0)) return notReceived(target, structure.findings);
    const above = missingFolders([dirname(target)]);
    const bytes = paths.reduce((sum, p) => sum + bag.sizes.get(p)!, 0);
    checkSpace(above.length ? dirname(above[0]!) : dirname(target), bytes);
    let wrong: VerifyResult['findings'] = [];
    let manifest: Manifest = new Map();
    const stage = async (staged: string): Promise<void> => {
      const fileOf = (path: string): string => join(staged, path.slice(PAYLOAD.length));
      mkdirSync(staged);
      for (const folder of new Set(paths.map((p) => dirname(fileOf(p))))) mkdirSync(folder, { recursive: true });
      const isPayload = new Set(paths);
      const check = await verifyBag(bag, { structure, signal, progress, targetOf: (p) => (isPayload.has(p) ? fileOf(p) : null) });
      ({ findings: wrong, manifest } = check);
      if (setAside) for (const { path } of wrong) if (isPayload.has(path) && existsSync(fileOf(path))) rmSync(fileOf(path));
      if (!check.valid && !setAside)
        throw new ProblemError({ code: 'bad-bag', path: file, why: `${wrong[0]!.path}: ${wrong[0]!.problem}` });
      makePlanFolders(staged, places); // part of the change, so that all of it appears or nothing
    };
    try {
      await runChange(
        {
          title: `Receive ${basename(file)} into ${basename(target)}`,
          kind: 'receive',
          root: target,
          who,
          steps: [...above.map((path) => ({ kind: 'folder' as const, path })), { kind: 'install', path: target }],
        },
        { ...options, stage, signal },
      );
    } catch (error) {
      if (wrong.length === 0 || setAside) throw error;
      return notReceived(target, wrong); // taken back: nothing of it is left
    }
    const asides = paths.filter((p) => wrong.some((w) => w.path === p));
    const arrived = await look(target, places);
    return {
      root: target,
      manifest,
      files: paths.length - asides.length,
      bytes: bytes - asides.reduce((sum, p) => sum + bag.sizes.get(p)!, 0),
      ...arrived,
      findings: [...wrong, ...arrived.findings],
    };
  } finally {
    bag.close();
  }
}

const notReceived = (root: string, findings: VerifyResult['findings']): ReceiveResult => ({
  root,
  projectFile: null,
  manifest: new Map(),
  files: 0,
  bytes: 0,
  layers: [],
  stayedOut: 0,
  findings,
});

function checkSpace(folder: string, bytes: number): void {
  const disk = statfsSync(folder);
  if (disk.bavail * disk.bsize < bytes) throw new ProblemError({ code: 'no-space', path: folder });
}

/** Empty folders of the plan wait in the project file; no bag holds them. */
function makePlanFolders(root: string, places: readonly Place[]): void {
  const folders = Object.keys(findScope(root, { places, root }).project?.folders ?? {});
  for (const folder of folders)
    if (!isUnsafePath(folder) && !partsOf(folder).some((s) => s.startsWith('.'))) mkdirSync(join(root, folder), { recursive: true });
}
