import { statSync } from 'node:fs';
import { join } from 'node:path';
import { readdirSync, remove } from '../disk/files.js';
import { isMissing } from '../disk/disk-problem.js';

const trashOf = (root: string): string => join(root, '.rootmap', 'trash');

/** Bytes in the trash of a root. */
export const trashBytes = (root: string): number => bytesBelow(trashOf(root));

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
