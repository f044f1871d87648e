import { existsSync } from 'node:fs';
import { byCodePoint } from '@rootmap/core';
import { dirname } from '../disk/native-path.js';

/** Of these folders and those above them, the ones that are not there, the upper first. */
export function missingFolders(paths: readonly string[]): string[] {
  const missing = new Set<string>();
  for (const path of paths)
    for (let folder = path; !missing.has(folder) && !existsSync(folder); folder = dirname(folder)) missing.add(folder);
  return [...missing].sort((a, b) => a.length - b.length || byCodePoint(a, b));
}
