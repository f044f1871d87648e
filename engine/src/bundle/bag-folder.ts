import { statSync } from 'node:fs';
import { joined } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';

/** Every file of an unpacked bag, dot files too; links are refused, since what they show is not in the bag. */
export function listBagFolder(folder: string) {
  const files: { path: string; bytes: number; modifiedMs: number }[] = [];
  const refused: { path: string; problem: string }[] = [];
  const visit = (below: string): void => {
    for (const entry of readdirSync(join(folder, below), { withFileTypes: true })) {
      const path = below === '' ? entry.name : joined([below, entry.name]);
      if (entry.isDirectory()) {
        if (path === 'data') files.push({ path: 'data/', bytes: 0, modifiedMs: 0 });
        visit(path);
      } else if (entry.isFile()) {
        const stat = statSync(join(folder, path));
        files.push({ path, bytes: stat.size, modifiedMs: stat.mtimeMs });
      } else refused.push({ path, problem: 'it is a link or a device, which no bundle holds' });
    }
  };
  visit('');
  return { files, refused };
}
