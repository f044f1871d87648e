import { statSync } from 'node:fs';
import { explain, isLitter, likelyPassages, noteKindOf, ProblemError, type Note, type Passage } from '@rootmap/core';
import { ARCHIVE_ENDING } from '../archive/archive.js';
import { openArchive } from '../archive/open-archive.js';
import { join } from '../disk/native-path.js';
import { listFiles } from '../survey/list-files.js';
import { noteInArchive } from './note-in-archive.js';
import { readNote } from './read-note.js';

/** A note of a folder or an archive, and what it looks to tell. */
export interface FoundNote {
  /** From the folder, or as it stands in the archive; '' where one file was named. */
  readonly path: string;
  readonly note: Note | null;
  readonly likely: readonly Passage[];
  /** A sentence: why it cannot be read; null: it was read. */
  readonly problem: string | null;
}

const MOST_NOTES = 200;

/** All notes of a file, a folder or an archive that is not unpacked. One that cannot be read is told, and the others are read. */
export async function notesIn(path: string): Promise<FoundNote[]> {
  const isFolder = statSync(path).isDirectory();
  const isArchive = !isFolder && ARCHIVE_ENDING.test(path);
  if (!isFolder && !isArchive) return [await readInto('', () => readNote(path))];
  const names = (isFolder ? listFiles(path, { confinedTo: path }).files.map((f) => f.path) : await namesIn(path)).filter(
    (name) => noteKindOf(name) !== null && !isLitter(name),
  );
  const found: FoundNote[] = [];
  for (const name of names.slice(0, MOST_NOTES))
    found.push(await readInto(name, () => (isFolder ? readNote(join(path, name)) : noteInArchive(path, name))));
  return found;
}

async function namesIn(path: string): Promise<string[]> {
  const archive = await openArchive(path);
  try {
    return archive.entries.map((e) => e.path);
  } finally {
    archive.close();
  }
}

async function readInto(path: string, read: () => Note | Promise<Note>): Promise<FoundNote> {
  try {
    const note = await read();
    return { path, note, likely: likelyPassages(note), problem: null };
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    return { path, note: null, likely: [], problem: explain(error.problem) };
  }
}
