import { closeSync, openSync, readSync } from 'node:fs';
import { basename, join } from 'node:path';
import { groupFiles, isMapFile, isProjectFile, splitName } from '@rootmap/core';
import { diskSentence } from '../disk/disk-problem.js';
import { listFiles } from '../survey/list-files.js';
import { ZipReader } from '../zip/zip-reader.js';
import type { MovedEntry } from './expand.js';
import { RECORDS } from './records.js';

const PIECE_BYTES = 1 << 20;
const OVERLAP_BYTES = 512;
/** Members of an archive are looked through up to this size, unpacked; larger ones are data, not notes. */
const MOST_MEMBER_BYTES = 64 << 20;
const ZIP_ENDING = /\.(zip|kmz|docx|xlsx|pptx|odt|ods)$/i;
const LEAST_STEM = 4;

/**
 * Files that we cannot read but that mention what moves: other programs' project files, documents, scripts, members of zip
 * files. A search for bytes: what is found is told, never rewritten. The result is by code point.
 */
export async function findMentions(entries: readonly MovedEntry[], roots: readonly string[]): Promise<string[]> {
  const pattern = patternFor(entries);
  if (!pattern) return [];
  const moved = new Set(entries.map((e) => e.from));
  const found: string[] = [];
  for (const root of roots) for (const path of otherFiles(root)) if (!moved.has(path) && (await mentions(path, pattern))) found.push(path);
  return [...new Set(found)].sort();
}

/** Names with their ending; stems alone where they are long enough to mean something. As UTF-8 bytes, one character a byte. */
function patternFor(entries: readonly MovedEntry[]): RegExp | null {
  const words = new Set<string>();
  for (const e of entries) {
    const name = basename(e.from);
    words.add(name);
    const { stem } = splitName(name);
    if (!e.isFolder && stem.length >= LEAST_STEM && !stem.includes('.')) words.add(stem);
  }
  if (words.size === 0) return null;
  const escaped = [...words].map((w) =>
    Buffer.from(w, 'utf8')
      .toString('latin1')
      .replace(/[.*+?^${}()|[\]\\]/g, '\\$&'),
  );
  return new RegExp(`(?<![A-Za-z0-9_])(?:${escaped.join('|')})(?![A-Za-z0-9_])`, 'i');
}

/** Everything that is neither data, nor a map, nor ours. */
function otherFiles(root: string): string[] {
  const { files } = listFiles(root, { confinedTo: root });
  const data = new Set<string>();
  for (const g of groupFiles(files).groups)
    if (g.format !== 'document' && g.format !== 'opaque') for (const f of [g.main, ...g.companions]) data.add(f.path);
  return files
    .filter((f) => !data.has(f.path) && !isMapFile(f.path) && !isProjectFile(f.path) && basename(f.path) !== RECORDS)
    .map((f) => join(root, f.path));
}

async function mentions(path: string, pattern: RegExp): Promise<boolean> {
  try {
    return bytesMention(path, pattern) || (ZIP_ENDING.test(path) && (await membersMention(path, pattern)));
  } catch (error) {
    if (diskSentence(error) === null) throw error;
    return false; // it cannot be opened, or is no zip after all: nothing can be told of it
  }
}

/** Two-byte text has a NUL beside each letter: it is looked at without them, too. */
const isIn = (text: string, pattern: RegExp): boolean =>
  pattern.test(text) || (text.includes('\0') && pattern.test(text.replaceAll('\0', '')));

function bytesMention(path: string, pattern: RegExp): boolean {
  const fd = openSync(path, 'r');
  try {
    const piece = Buffer.alloc(PIECE_BYTES);
    let rest = '';
    for (;;) {
      const read = readSync(fd, piece, 0, PIECE_BYTES, null);
      if (read === 0) return false;
      const text = rest + piece.toString('latin1', 0, read);
      if (isIn(text, pattern)) return true;
      rest = text.slice(-OVERLAP_BYTES);
    }
  } finally {
    closeSync(fd);
  }
}

async function membersMention(path: string, pattern: RegExp): Promise<boolean> {
  const zip = await ZipReader.open(path);
  try {
    for (const entry of zip.entries) {
      if (entry.isFolder || entry.bytes > MOST_MEMBER_BYTES) continue;
      const pieces: Buffer[] = [];
      for await (const piece of await zip.stream(entry.name)) pieces.push(piece as Buffer);
      if (isIn(Buffer.concat(pieces).toString('latin1'), pattern)) return true;
    }
    return false;
  } finally {
    zip.close();
  }
}
