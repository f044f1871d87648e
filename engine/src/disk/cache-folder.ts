import { createHash } from 'node:crypto';
import { statSync } from 'node:fs';
import { READING_EDITION, type Dataset } from '@rootmap/core';
import { join } from './native-path.js';
import { mkdirSync, readdirSync, rmSync, utimesSync } from './files.js';

const MOST_BYTES = 2 * 2 ** 30;

/** What a picture of a dataset is kept under: another name as soon as one of its files changes, or it is wanted otherwise. */
export function versionOf(
  { folder, dataset }: { readonly folder: string; readonly dataset: Dataset },
  ...more: readonly (string | null)[]
): string {
  const hash = createHash('sha256');
  for (const f of [dataset.group.main, ...dataset.group.companions, ...dataset.group.borrowed])
    hash.update(`${join(folder, f.path)}\0${f.bytes}\0${f.modifiedMs}\n`);
  return hash
    .update(JSON.stringify([READING_EDITION, dataset.table, ...more]))
    .digest('hex')
    .slice(0, 32);
}

/** Makes room in a folder of files that can all be made again: those written longest ago go when there is too much of them. */
export function trimFiles(folder: string, mostBytes: number): void {
  const all = readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    const found = statSync(path, { throwIfNoEntry: false });
    return found ? [{ path, bytes: found.size, writtenMs: found.mtimeMs }] : []; // somebody else made room
  });
  let total = all.reduce((sum, f) => sum + f.bytes, 0);
  for (const { path, bytes } of all.sort((a, b) => a.writtenMs - b.writtenMs)) {
    if (total <= mostBytes) return;
    rmSync(path);
    total -= bytes;
  }
}

/** Folders of pictures below the data folder, which can all be made again. Those used longest ago go when there are too many. */
export class CacheFolder {
  constructor(readonly folder: string) {
    mkdirSync(folder, { recursive: true });
  }

  /** The folder of one version, made if it is missing. */
  of(version: string): string {
    const path = join(this.folder, version);
    mkdirSync(path, { recursive: true });
    return path;
  }

  /** Marks a version as used now. */
  touch(version: string): void {
    const now = new Date();
    utimesSync(join(this.folder, version), now, now);
  }

  /** Makes room: call it after something was added. */
  trim(mostBytes = MOST_BYTES): void {
    const all = readdirSync(this.folder).map((name) => {
      const path = join(this.folder, name);
      const bytes = readdirSync(path).reduce((sum, f) => sum + (statSync(join(path, f), { throwIfNoEntry: false })?.size ?? 0), 0);
      return { path, bytes, usedMs: statSync(path).mtimeMs };
    });
    let total = all.reduce((sum, v) => sum + v.bytes, 0);
    for (const { path, bytes } of all.sort((a, b) => a.usedMs - b.usedMs)) {
      if (total <= mostBytes) return;
      rmSync(path);
      total -= bytes;
    }
  }
}
