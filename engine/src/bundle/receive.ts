import { existsSync, statfsSync, statSync } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { isUnsafePath, ProblemError, type Place, type OnProgress, partsOf } from '@rootmap/core';
import { basename, dirname, join, resolve } from '../disk/native-path.js';
import { createWriteStream, mkdirSync, readdirSync, utimesSync } from '../disk/files.js';
import { runChange, type RunOptions } from '../changes/run-change.js';
import { layerRow, type LayerRow } from '../project/layer-row.js';
import { readMaps } from '../project/read-maps.js';
import { findScope } from '../project/scope.js';
import { openBag, verifyBag, type OpenBag } from './verify.js';
import { missingFolders } from '../changes/missing-folders.js';

export interface ReceiveResult extends Arrived {
  readonly root: string;
  readonly files: number;
  readonly bytes: number;
}

/** How the layers are, once the root stands: read from disk. */
export interface Arrived {
  readonly projectFile: string | null;
  readonly layers: readonly LayerRow[];
  readonly findings: readonly { readonly path: string; readonly problem: string }[];
}

export function lookAtArrival(root: string, places: readonly Place[]): Arrived {
  const scope = findScope(root, { places, root });
  const seen = readMaps(scope);
  return {
    projectFile: scope.projectFile,
    layers: seen.maps.flatMap((m) => m.layers.map((l) => layerRow(m, l))),
    findings: seen.damaged.map((d) => ({ path: d.path, problem: d.message })),
  };
}

/** Only an empty or new folder can become a root. */
export function checkTarget(into: string): void {
  if (existsSync(into) && (!statSync(into).isDirectory() || readdirSync(into).length > 0))
    throw new ProblemError({ code: 'exists', path: into });
}

/**
 * The arrival check, then the payload unpacked beside its place and put there by one rename. A bundle that is not valid is
 * not unpacked; what is wrong is given back.
 */
export async function receive(
  file: string,
  into: string,
  who: string,
  places: readonly Place[],
  options: RunOptions,
  progress: OnProgress = () => undefined,
  signal?: AbortSignal,
  look: (root: string, places: readonly Place[]) => Arrived | Promise<Arrived> = lookAtArrival,
): Promise<ReceiveResult> {
  const target = resolve(into);
  checkTarget(target);
  const bag = await openBag(file);
  try {
    const check = await verifyBag(bag, signal);
    if (!check.valid) return { root: target, projectFile: null, files: 0, bytes: 0, layers: [], findings: check.findings };
    const above = missingFolders([dirname(target)]);
    checkSpace(above.length ? dirname(above[0]!) : dirname(target), check.bytes);
    const stage = async (staged: string): Promise<void> => {
      await unpack(bag, staged, check.bytes, progress, signal);
      makePlanFolders(staged, places); // part of the change, so that all of it appears or nothing
    };
    await runChange(
      {
        title: `Receive ${basename(file)} into ${basename(target)}`,
        kind: 'receive',
        root: target,
        who,
        steps: [...above.map((path) => ({ kind: 'folder' as const, path })), { kind: 'install', path: target }],
      },
      { ...options, stage },
    );
    return { root: target, files: check.files, bytes: check.bytes, ...(await look(target, places)) };
  } finally {
    bag.close();
  }
}

function checkSpace(folder: string, bytes: number): void {
  const disk = statfsSync(folder);
  if (disk.bavail * disk.bsize < bytes) throw new ProblemError({ code: 'no-space', path: folder });
}

async function unpack(bag: OpenBag, staged: string, of: number, progress: OnProgress, signal?: AbortSignal): Promise<void> {
  mkdirSync(staged);
  let bytes = 0;
  for (const [path, size] of bag.sizes) {
    if (!path.startsWith('data/') || path.endsWith('/')) continue;
    signal?.throwIfAborted();
    progress({ done: bytes, of, unit: 'bytes', item: path });
    const file = join(staged, path.slice('data/'.length));
    mkdirSync(dirname(file), { recursive: true });
    await pipeline(Readable.from(await bag.stream(path)), createWriteStream(file, { flags: 'wx' }));
    const seconds = bag.modifiedMs(path) / 1000;
    utimesSync(file, seconds, seconds);
    bytes += size;
  }
}

/** Empty folders of the plan wait in the project file; no bag holds them. */
function makePlanFolders(root: string, places: readonly Place[]): void {
  const folders = Object.keys(findScope(root, { places, root }).project?.folders ?? {});
  for (const folder of folders)
    if (!isUnsafePath(folder) && !partsOf(folder).some((s) => s.startsWith('.'))) mkdirSync(join(root, folder), { recursive: true });
}
