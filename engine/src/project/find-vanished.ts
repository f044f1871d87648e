import { existsSync, type Dirent } from 'node:fs';
import { isProjectFile, parseProjectFile } from '@rootmap/core';
import { dirname, join } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readdirSync, readFileSync } from '../disk/files.js';
import { diskSentence } from '../disk/disk-problem.js';

const MOST_FOLDERS = 4000;
const DEPTH = 3;
const LEVELS_UP = 2;

/**
 * Looks for a project whose root is gone, by its id: from the nearest folder that is left, two levels up and three down.
 * @param limit folder that is not left
 * @returns roots with that id, of which more than one cannot be told apart
 */
export function findVanished(root: string, id: string, limit: string): string[] {
  let start = dirname(root);
  while (!existsSync(start) && start !== limit && start !== dirname(start)) start = dirname(start);
  for (let level = 0; ; level++) {
    const found = rootsBelow(start, id);
    if (found.length > 0 || level === LEVELS_UP || start === limit || start === dirname(start)) return found;
    start = dirname(start);
  }
}

function rootsBelow(start: string, id: string): string[] {
  const found: string[] = [];
  let folders: string[] = [start];
  let looked = 0;
  for (let depth = 0; depth <= DEPTH && looked < MOST_FOLDERS; depth++) {
    const next: string[] = [];
    for (const folder of folders) {
      if (++looked > MOST_FOLDERS) break;
      const entries = entriesOf(folder);
      if (entries.some((e) => isProjectFile(e.name) && idOf(join(folder, e.name)) === id)) found.push(folder);
      for (const e of entries) if (e.isDirectory() && !e.name.startsWith('.')) next.push(join(folder, e.name));
    }
    folders = next;
  }
  return found;
}

/** What cannot be read cannot be the one. */
function entriesOf(folder: string): Dirent[] {
  try {
    return readdirSync(folder, { withFileTypes: true });
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return [];
  }
}

function idOf(file: string): string | null {
  try {
    const read = parseProjectFile(file, readFileSync(file, 'utf8', MOST_NOTE_BYTES));
    return read.ok ? read.value.id : null;
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return null;
  }
}
