import { existsSync, statSync } from 'node:fs';
import type { ThumbnailView } from '@rootmap/core/contract';
import { ProblemError } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from '../disk/files.js';
import type { RootedScope } from '../project/scope.js';
import { findDataset, type FoundDataset } from '../project/find-dataset.js';
import { versionOf } from '../disk/cache-folder.js';
import { thumbnailOf } from './thumbnail.js';

const MOST_KEPT = 20_000;

/** A thumbnail, made once for each state of the files; null where a dataset has no shape, or is gone. */
export async function keptThumbnail(scope: RootedScope, id: string, dataFolder: string): Promise<ThumbnailView | null> {
  const found = lookFor(scope, id);
  if (!found) return null;
  const folder = join(dataFolder, 'cache', 'thumbnails');
  const path = join(folder, `${versionOf(found)}.json`);
  if (existsSync(path)) return JSON.parse(readFileSync(path, 'utf8')) as ThumbnailView | null;
  const made = await thumbnailOf(found);
  mkdirSync(folder, { recursive: true });
  writeFileSync(path, JSON.stringify(made));
  if (Math.random() < 1 / 500) dropOldest(folder);
  return made;
}

function lookFor(scope: RootedScope, id: string): FoundDataset | null {
  try {
    return findDataset(scope, id);
  } catch (error) {
    if (error instanceof ProblemError) return null; // the table still has a row that the disk has not: it goes with the next look
    throw error;
  }
}

function dropOldest(folder: string): void {
  const all = readdirSync(folder).map((name) => ({ name, at: statSync(join(folder, name)).mtimeMs }));
  for (const { name } of all.sort((a, b) => b.at - a.at).slice(MOST_KEPT)) rmSync(join(folder, name));
}
