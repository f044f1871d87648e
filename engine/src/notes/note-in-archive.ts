import { statSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { ProblemError, type Note } from '@rootmap/core';
import { openArchive } from '../archive/open-archive.js';
import { createWriteStream, rmSync } from '../disk/files.js';
import { basename, join } from '../disk/native-path.js';
import { newScratch } from '../disk/scratch.js';
import { listFiles } from '../survey/list-files.js';
import { readNote } from './read-note.js';

/** A note that is still in its archive, or among dropped files. Throws `not-found`, and what reading it throws. */
export async function noteInArchive(source: string, path: string): Promise<Note> {
  const missing = (): ProblemError => new ProblemError({ code: 'not-found', what: 'note', id: path });
  if (statSync(source).isDirectory()) {
    if (!listFiles(source, { confinedTo: source }).files.some((f) => f.path === path)) throw missing();
    return readNote(join(source, path));
  }
  const archive = await openArchive(source);
  const folder = newScratch('note');
  try {
    const file = join(folder, basename(path));
    let isThere = false;
    await archive.read(new Set([path]), async (_, content) => {
      await pipeline(content, createWriteStream(file));
      isThere = true;
    });
    if (!isThere) throw missing();
    return readNote(file);
  } finally {
    rmSync(folder);
    archive.close();
  }
}
