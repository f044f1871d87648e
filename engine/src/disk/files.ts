import fs, { constants, type Dirent, type ReadStream, type WriteStream } from 'node:fs';
import { chmod, lstat, open, readdir, rmdir, unlink, type FileHandle } from 'node:fs/promises';
import { promisify } from 'node:util';
import { ProblemError } from '@rootmap/core';
import { dirname, FLAVOUR, join } from './native-path.js';

import { isFree, systemError } from './bounds.js';
import { asEntry, asEntryLater, inFolder, inFolderLater, openToRead, openToWrite, withFileNow } from './open.js';

/*
 * What the engine does to files, under the names that it has in Node, each through the one way to open (`open.ts`). Nothing
 * else in the engine opens, lists, makes, renames or removes; a lint rule says so.
 */

/** Held whole in memory at most; what is larger is read piece by piece, or not at all. */
const MOST_HELD_BYTES = 64 << 20;
/** Project files and records of origin: far beyond any that people have. */
export const MOST_NOTE_BYTES = 4 << 20;

/** @param mostBytes throws `too-large` where the file has more */
export function readFileSync(path: string): Buffer;
export function readFileSync(path: string, encoding: 'utf8', mostBytes?: number): string;
export function readFileSync(path: string, encoding: null, mostBytes: number): Buffer;
export function readFileSync(path: string, encoding: 'utf8' | null = null, mostBytes = MOST_HELD_BYTES): Buffer | string {
  const fd = openToRead(path);
  try {
    const bytes = isFree(path) ? 0 : fs.fstatSync(fd).size;
    if (bytes > mostBytes) throw new ProblemError({ code: 'too-large', file: path, bytes, limitBytes: mostBytes });
    return encoding ? fs.readFileSync(fd, encoding) : fs.readFileSync(fd);
  } finally {
    fs.closeSync(fd);
  }
}

/** The whole content, without holding up whoever waits for something else meanwhile. */
export async function readWhole(path: string): Promise<Buffer> {
  const fd = openToRead(path);
  try {
    const { size } = fs.fstatSync(fd);
    if (size === 0 || size > SMALL_BYTES) return await promisify<number, Buffer>(fs.readFile)(fd);
    const bytes = Buffer.allocUnsafeSlow(size); // one call for a small file: of thousands, each more takes as long as the reading
    let end = 0;
    for (let got = -1; end < size && got !== 0; end += got) ({ bytesRead: got } = await readInto(fd, bytes, end, size - end, end));
    return bytes.subarray(0, end);
  } finally {
    fs.closeSync(fd);
  }
}
const SMALL_BYTES = 64 << 10;
const readInto = promisify(fs.read);

/** Brings a folder's entries to the disk, where the system has a way to ask for it: on Windows it sees to that by itself. */
export const syncFolder = (path: string): Promise<void> =>
  FLAVOUR === 'win32' ? Promise.resolve() : inFolderLater(path, (held) => syncHeld(held));

/** Brings a file's bytes, or a folder's entries with all that is in it, to the disk; links have nothing of their own. */
export const syncTree = (path: string): Promise<void> => asEntryLater(path, (held) => syncBelow(held));

/** So many at once share what the disk does for each. */
const SYNCED_AT_ONCE = 16;

async function syncBelow(held: string): Promise<void> {
  const stat = await lstat(held);
  if (stat.isSymbolicLink()) return;
  if (stat.isDirectory()) {
    const names = await readdir(held);
    for (let i = 0; i < names.length; i += SYNCED_AT_ONCE)
      await Promise.all(names.slice(i, i + SYNCED_AT_ONCE).map((name) => syncBelow(join(held, name))));
  }
  if (FLAVOUR !== 'win32') await syncHeld(held);
  else if (stat.isFile()) await syncWritable(held, stat.mode);
}

async function syncHeld(held: string, flags: number = O_RDONLY | O_NONBLOCK): Promise<void> {
  const entry = await open(held, flags);
  try {
    await entry.sync();
  } finally {
    await entry.close();
  }
}

/** Windows brings to the disk only what is open for writing (Microsoft, FlushFileBuffers), which a read-only file cannot be. */
async function syncWritable(held: string, mode: number): Promise<void> {
  const isReadOnly = (mode & 0o200) === 0;
  if (isReadOnly) await chmod(held, mode | 0o200);
  await syncHeld(held, O_RDWR);
  if (isReadOnly) await chmod(held, mode);
}

/** Runs something that follows links on an entry that is none. */
export const withEntry = <T>(path: string, use: (held: string) => Promise<T>): Promise<T> =>
  asEntryLater(path, async (held) => {
    if ((await lstat(held)).isSymbolicLink()) throw systemError('ELOOP', 'open', path);
    return use(held);
  });

export const openSync = (path: string, how: 'r' | 'w' | 'a'): number => (how === 'r' ? openToRead(path) : openToWrite(path, how));
export const { closeSync, fstatSync, ftruncateSync, futimesSync, readSync, writeSync } = fs;

export const createReadStream = (path: string, options: { highWaterMark?: number; start?: number; end?: number } = {}): ReadStream =>
  fs.createReadStream('', { ...options, fd: openToRead(path) });

export const createWriteStream = (
  path: string,
  options: { flags?: 'w' | 'wx' | 'a'; mode?: number; highWaterMark?: number } = {},
): WriteStream =>
  fs.createWriteStream('', {
    fd: openToWrite(path, options.flags ?? 'w', options.mode),
    ...(options.highWaterMark === undefined ? {} : { highWaterMark: options.highWaterMark }),
  });

export type { FileHandle } from 'node:fs/promises';
/** A new file to write to piece by piece; nothing may stand there. */
export const openNew = (path: string, mode = 0o666): Promise<FileHandle> => asEntryLater(path, (held) => open(held, 'wx', mode));

export function writeFileSync(path: string, content: string | Uint8Array): void {
  const fd = openToWrite(path, 'w');
  try {
    fs.writeFileSync(fd, content);
  } finally {
    fs.closeSync(fd);
  }
}

/** `mode` of Node's `copyFile`; the copy shares its blocks where the disk can and is asked to. */
export const copyFileSync = (from: string, to: string, mode = 0): void =>
  withFileNow(from, (held) => asEntry(to, (target) => refuseLink(target, () => fs.copyFileSync(held, target, mode))));

/** Node follows a link that stands where it copies to. */
function refuseLink(target: string, use: () => void): void {
  const there = fs.lstatSync(target, { throwIfNoEntry: false });
  if (there?.isSymbolicLink()) fs.unlinkSync(target);
  use();
}

export function readdirSync(folder: string): string[];
export function readdirSync(folder: string, options: { withFileTypes: true }): Dirent[];
export function readdirSync(folder: string, options?: { withFileTypes: true }): string[] | Dirent[] {
  return inFolder<string[] | Dirent[]>(folder, (held) => (options ? fs.readdirSync(held, options) : fs.readdirSync(held)));
}

export function mkdirSync(path: string, options: { recursive?: boolean } = {}): void {
  if (!options.recursive) return asEntry(path, (held) => fs.mkdirSync(held));
  if (fs.statSync(path, { throwIfNoEntry: false })?.isDirectory()) return;
  if (dirname(path) !== path) mkdirSync(dirname(path), options);
  try {
    asEntry(path, (held) => fs.mkdirSync(held));
  } catch (error) {
    if ((error as { code?: string }).code !== 'EEXIST' || !fs.statSync(path).isDirectory()) throw error;
  }
}

export const renameSync = (from: string, to: string): void =>
  asEntry(from, (source) => asEntry(to, (target) => fs.renameSync(source, target)));

/** Removes a file or a link, of the program's own also a folder with all that is in it. What is not there is no failure. */
export function rmSync(path: string, { maxRetries = 0 } = {}): void {
  if (isFree(path)) return fs.rmSync(path, { recursive: true, force: true, maxRetries });
  unlessMissing(() => asEntry(path, (held) => fs.unlinkSync(held)));
}

function unlessMissing(remove: () => void): void {
  try {
    remove();
  } catch (error) {
    if ((error as { code?: string }).code !== 'ENOENT') throw error;
  }
}

const { O_RDONLY, O_RDWR, O_NONBLOCK = 0, O_DIRECTORY = 0, O_NOFOLLOW = 0 } = constants as Partial<typeof constants> & typeof constants;

/** Removes a file, a link, or a folder with all that is in it; links in it are not followed. What is not there is no failure. */
export async function remove(path: string): Promise<void> {
  try {
    await asEntryLater(path, removeEntry);
  } catch (error) {
    if ((error as { code?: string }).code !== 'ENOENT') throw error;
  }
}

async function removeEntry(held: string): Promise<void> {
  if (!(await lstat(held)).isDirectory()) return unlink(held);
  const folder = await open(held, O_RDONLY | O_DIRECTORY | O_NOFOLLOW); // one that has become a link meanwhile is not entered
  try {
    const inside = held.startsWith('/proc/self/fd/') ? `/proc/self/fd/${folder.fd}` : held;
    for (const name of await readdir(inside)) await removeEntry(join(inside, name));
  } finally {
    await folder.close();
  }
  await rmdir(held);
}

/** Times in seconds since 1970; a link's own, where one stands there. */
export const utimesSync = (path: string, atime: number | Date, mtime: number | Date): void =>
  asEntry(path, (held) => fs.lutimesSync(held, atime, mtime));
