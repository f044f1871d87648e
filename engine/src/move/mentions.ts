import { statSync } from 'node:fs';
import { byCodePoint, groupFiles, isMapFile, isProjectFile, splitName } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { closeSync, openSync, readSync } from '../disk/files.js';
import { diskSentence } from '../disk/disk-problem.js';
import { listFiles } from '../survey/list-files.js';
import { ZipReader } from '../zip/zip-reader.js';
import type { MovedEntry } from './expand.js';
import { RECORDS } from './records.js';

const PIECE_BYTES = 256 << 10;
/** One for all files: a new one for each takes longer to be made than most files to be read. */
const piece = Buffer.allocUnsafe(PIECE_BYTES);
const OVERLAP_BYTES = 512;
/** Members of an archive are looked through up to this size, unpacked; larger ones are data, not notes. */
const MOST_MEMBER_BYTES = 64 << 20;
const ZIP_ENDING = /\.(zip|kmz|docx|xlsx|pptx|odt|ods)$/i;
const LEAST_STEM = 4;

export interface Mention {
  readonly path: string;
  /** Which of the names it mentions, in lower case. */
  readonly words: ReadonlySet<string>;
}

/**
 * Files that we cannot read but that mention what moves: other programs' project files, documents, scripts, members of zip
 * files. A search for bytes: what is found is told, never rewritten. The result is by code point.
 */
export async function findMentions(entries: readonly MovedEntry[], roots: readonly string[]): Promise<Mention[]> {
  const pattern = patternFor(entries);
  if (!pattern) return [];
  const found = new Map<string, Mention>();
  for (const root of roots.filter(isThere))
    for (const { path, bytes } of otherFiles(root)) {
      if (found.has(path)) continue;
      const words = await mentioned(path, bytes < PIECE_BYTES, pattern);
      for (const own of wordsFor(basename(path), false)) words.delete(own.toLowerCase());
      if (words.size > 0) found.set(path, { path, words });
    }
  return [...found.values()].sort((a, b) => byCodePoint(a.path, b.path));
}

/** A root that was deleted, or whose place is away, has nothing that could be told. */
const isThere = (root: string): boolean => statSync(root, { throwIfNoEntry: false })?.isDirectory() === true;

/** What a thing may be called by: its name with the ending, and the stem alone where it is long enough to mean something. */
export function wordsFor(name: string, isFolder: boolean): string[] {
  const { stem } = splitName(name);
  return !isFolder && stem.length >= LEAST_STEM && !stem.includes('.') ? [name, stem] : [name];
}

/** Names as UTF-8 bytes, one character a byte; the longer ones first, so that a name is found before its stem. */
function patternFor(entries: readonly MovedEntry[]): RegExp | null {
  const words = [...new Set(entries.flatMap((e) => wordsFor(basename(e.from), e.isFolder)))].sort((a, b) => b.length - a.length);
  if (words.length === 0) return null;
  const escaped = words.map((w) => asBytes(w).replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  return new RegExp(`(?<![A-Za-z0-9_])(?:${escaped.join('|')})(?![A-Za-z0-9_])`, 'gi');
}

const asBytes = (text: string): string => Buffer.from(text, 'utf8').toString('latin1');
const asText = (bytes: string): string => Buffer.from(bytes, 'latin1').toString('utf8');

/** Everything that is neither data, nor a map, nor ours. */
function otherFiles(root: string): { readonly path: string; readonly bytes: number }[] {
  const { files } = listFiles(root, { confinedTo: root });
  const data = new Set<string>();
  for (const g of groupFiles(files).groups)
    if (g.format !== 'document' && g.format !== 'opaque') for (const f of [g.main, ...g.companions]) data.add(f.path);
  return files
    .filter((f) => !data.has(f.path) && !isMapFile(f.path) && !isProjectFile(f.path) && basename(f.path) !== RECORDS)
    .map((f) => ({ path: join(root, f.path), bytes: f.bytes }));
}

async function mentioned(path: string, isSmall: boolean, pattern: RegExp): Promise<Set<string>> {
  const words = new Set<string>();
  try {
    searchBytes(path, isSmall, pattern, words);
    if (ZIP_ENDING.test(path)) await searchMembers(path, pattern, words);
  } catch (error) {
    if (diskSentence(error) === null && (error as { problem?: unknown }).problem === undefined) throw error;
    // It cannot be opened, or is no zip after all: nothing more can be told of it.
  }
  return words;
}

/** Two-byte text has a NUL beside each letter: it is looked at without them, too. */
function search(text: string, pattern: RegExp, words: Set<string>): void {
  for (const form of text.includes('\0') ? [text, text.replaceAll('\0', '')] : [text])
    for (const [word] of form.matchAll(pattern)) words.add(asText(word).toLowerCase());
}

/** @param isSmall a listing has told that it fits into one piece */
function searchBytes(path: string, isSmall: boolean, pattern: RegExp, words: Set<string>): void {
  const fd = openSync(path, 'r');
  try {
    let rest = '';
    for (;;) {
      const read = readSync(fd, piece, 0, PIECE_BYTES, null);
      if (read === 0) return;
      const text = rest + piece.toString('latin1', 0, read);
      search(text, pattern, words);
      if (read < PIECE_BYTES && isSmall) return;
      rest = text.slice(-OVERLAP_BYTES);
    }
  } finally {
    closeSync(fd);
  }
}

async function searchMembers(path: string, pattern: RegExp, words: Set<string>): Promise<void> {
  const zip = await ZipReader.open(path);
  try {
    for (const entry of zip.entries) {
      if (entry.isFolder || entry.bytes > MOST_MEMBER_BYTES) continue;
      const pieces: Buffer[] = [];
      for await (const piece of await zip.stream(entry.name)) pieces.push(piece as Buffer);
      search(Buffer.concat(pieces).toString('latin1'), pattern, words);
    }
  } finally {
    zip.close();
  }
}
