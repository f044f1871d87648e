import { statSync } from 'node:fs';
import { join } from '../disk/native-path.js';
import { readdirSync, remove } from '../disk/files.js';
import { isMissing } from '../disk/disk-problem.js';

const trashOf = (root: string): string => join(root, '.rootmap', 'trash');

/** Bytes in the trash of a root. */
export const trashBytes = (root: string): number => bytesBelow(trashOf(root));

/** What a change put into the trash: a folder of its own for each of its steps. */
export interface Trashed {
  readonly change: string;
  readonly paths: readonly string[];
  readonly bytes: number;
}

/** All that is in the trash of a root, by the change that put it there. */
export function listTrash(root: string): Trashed[] {
  const at = (...parts: string[]): string => join(trashOf(root), ...parts);
  return namesIn(at()).flatMap((change) => {
    const paths = namesIn(at(change)).flatMap((step) => namesIn(at(change, step)).map((name) => at(change, step, name)));
    return paths.length === 0 ? [] : [{ change, paths, bytes: bytesBelow(at(change)) }];
  });
}

function namesIn(folder: string): string[] {
  try {
    return readdirSync(folder);
  } catch (error) {
    if (isMissing(error) || (error as { code?: string }).code === 'ENOTDIR') return [];
    throw error;
  }
}

/** Removes for good what was deleted, once a person says so. Deletions in the journal can then no longer be undone. */
export async function emptyTrash(root: string): Promise<number> {
  const bytes = trashBytes(root);
  await remove(trashOf(root));
  return bytes;
}

function bytesBelow(folder: string): number {
  try {
    return readdirSync(folder, { withFileTypes: true }).reduce((sum, entry) => {
      const path = join(folder, entry.name);
      return sum + (entry.isDirectory() ? bytesBelow(path) : (statSync(path, { throwIfNoEntry: false })?.size ?? 0));
    }, 0);
  } catch (error) {
    if (isMissing(error)) return 0;
    throw error;
  }
}
