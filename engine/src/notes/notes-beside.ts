import { statSync } from 'node:fs';
import { noteKindOf, ProblemError } from '@rootmap/core';
import type { NoteFile } from '@rootmap/core/contract';
import { onDisk } from '../disk/disk-problem.js';
import { readdirSync } from '../disk/files.js';
import { dirname, isInside, join, relative } from '../disk/native-path.js';
import { dataAt, type FoundDataset } from '../project/find-dataset.js';

const MOST_NOTES = 100;

/**
 * Notes that lie beside a dataset: in its folder, and in the folders above it up to the project's or the link's, whose notes are of all
 * that is below. The nearest come first.
 */
export function notesBeside(found: FoundDataset): NoteFile[] {
  const from = dirname(dataAt(found).path);
  const notes: NoteFile[] = [];
  for (let folder = from; isInside(found.folder, folder); folder = dirname(folder)) {
    for (const entry of onDisk(folder, () => readdirSync(folder, { withFileTypes: true }))) {
      const kind = entry.isFile() && !entry.name.startsWith('.') ? noteKindOf(entry.name) : null;
      if (kind !== null && notes.length < MOST_NOTES) {
        const path = join(folder, entry.name);
        notes.push({ path: relative(from, path), kind, bytes: statSync(path).size });
      }
    }
    if (dirname(folder) === folder) break;
  }
  return notes.sort((a, b) => depth(a.path) - depth(b.path) || a.path.localeCompare(b.path, 'en'));
}
const depth = (path: string): number => path.split('../').length;

/** The real path of a note of a dataset. Throws `not-found` where it is none of those beside it. */
export function noteOf(found: FoundDataset, note: string): string {
  if (!notesBeside(found).some((n) => n.path === note)) throw new ProblemError({ code: 'not-found', what: 'note', id: note });
  return join(dirname(dataAt(found).path), note);
}
