import { folderOf } from '@rootmap/core';
import type { HousekeepingView, ThingView } from '@rootmap/core/contract';
import { basename, join } from '../disk/native-path.js';
import { diskSentence } from '../disk/disk-problem.js';
import { confinementOf, type RootedScope } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import { ZipReader } from '../zip/zip-reader.js';
import { Origins } from './origins.js';
import { thingsOf } from './view-folders.js';

/** Archives that were unpacked, and data that its publisher still has. */
export async function housekeep(scope: RootedScope): Promise<HousekeepingView> {
  const root = scope.root;
  const { files } = listFiles(root, { confinedTo: confinementOf(root, scope.places) });
  const things = thingsOf(files, () => 0);
  const sizes = new Map<string, Set<number>>();
  for (const f of files) {
    const name = basename(f.path).toLowerCase();
    sizes.set(name, (sizes.get(name) ?? new Set()).add(f.bytes));
  }
  const unpacked: HousekeepingView['unpacked'][number][] = [];
  for (const thing of things.filter((t) => /\.zip$/i.test(t.path))) {
    const where = await unpackedWhere(
      root,
      thing,
      files.map((f) => f.path),
      sizes,
    );
    if (where) unpacked.push({ path: thing.path, bytes: thing.bytes, ...where });
  }
  return {
    unpacked,
    fetchable: fetchable(root, things),
  };
}

/** The folder below which every file of an archive stands, by name and size; null: it is not, or not wholly, unpacked. */
async function unpackedWhere(
  root: string,
  archive: ThingView,
  paths: readonly string[],
  sizes: ReadonlyMap<string, ReadonlySet<number>>,
): Promise<{ where: string; files: number } | null> {
  let zip: ZipReader;
  try {
    zip = await ZipReader.open(join(root, archive.path));
  } catch (error) {
    if (diskSentence(error) === null && (error as { problem?: unknown }).problem === undefined) throw error;
    return null; // no zip that we can read: it stays
  }
  try {
    const members = zip.entries.filter((e) => !e.isFolder);
    if (members.length === 0 || zip.refused.length > 0) return null;
    if (!members.every((m) => sizes.get(basename(m.name).toLowerCase())?.has(m.bytes))) return null;
    const first = basename(members[0]!.name).toLowerCase();
    const there = paths.find((p) => basename(p).toLowerCase() === first && p !== archive.path);
    return { where: folderOf(there ?? ''), files: members.length };
  } finally {
    zip.close();
  }
}

/** Data whose origin record names the address that it came from and does not say that it is gone there. */
function fetchable(root: string, things: readonly ThingView[]): HousekeepingView['fetchable'] {
  const origins = new Origins();
  return things.flatMap((t) => {
    const origin = t.kind === 'dataset' ? origins.of(join(root, t.path)) : null;
    return origin?.isReobtainable && /^https?:/.test(origin.address) ? [{ path: t.path, bytes: t.bytes, address: origin.address }] : [];
  });
}
