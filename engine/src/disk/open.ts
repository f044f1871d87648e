import fs, { constants, type Stats } from 'node:fs';
import { realPath } from './real-path.js';
import { basename, dirname, join } from './native-path.js';
import { assertWithin, isFree, systemError } from './bounds.js';

/*
 * The one way to open. What a path names may be changed by others between a look and the opening, so nothing is believed of
 * a path: a descriptor is opened, the system is asked where it really is, and only then is it used. What is made, renamed or
 * removed is named by the descriptor of its folder, which no link that is swapped in meanwhile can lead elsewhere.
 */

/** Pipes would be waited for, terminals taken. Windows knows none of the flags. */
const {
  O_RDONLY,
  O_NONBLOCK = 0,
  O_NOCTTY = 0,
  O_DIRECTORY = 0,
  O_NOFOLLOW = 0,
} = constants as Partial<typeof constants> & typeof constants;
const DESCRIPTORS = '/proc/self/fd';
const hasDescriptors = fs.existsSync(DESCRIPTORS);

/** Where an open descriptor is now. Where the system cannot be asked, the path is looked up again and must lead to the same file. */
function placeOf(fd: number, path: string): string {
  if (hasDescriptors) return fs.readlinkSync(`${DESCRIPTORS}/${fd}`);
  const real = realPath(path);
  const [now, opened] = [fs.statSync(real, { bigint: true }), fs.fstatSync(fd, { bigint: true })];
  if (now.ino !== opened.ino || now.dev !== opened.dev) throw systemError('EOUTSIDE', 'open', path);
  return real;
}

/** Neither a file nor a folder: a pipe, a socket, a device. Folders give what reading them would give. */
function refuseOthers(stat: Stats, path: string): void {
  if (stat.isDirectory()) throw systemError('EISDIR', 'read', path);
  if (!stat.isFile()) throw systemError('ENXIO', 'open', path);
}

/** Throws where it is no file, before it is opened. */
export const assertFile = (path: string): void => refuseOthers(fs.statSync(path), path);

/**
 * A descriptor of a file to read from. What kind it is is known before it is opened, so that nothing waits for a pipe and no
 * device is touched. Throws as the system does; `ENXIO` for what is no file, `EOUTSIDE` for what stands outside the bounds.
 *
 * @param isKnownFile a listing has told a moment ago that it is a file
 */
export function openToRead(path: string, isKnownFile = false): number {
  if (!isKnownFile) assertFile(path);
  const fd = fs.openSync(path, O_RDONLY | O_NONBLOCK | O_NOCTTY);
  if (isFree(path)) return fd;
  try {
    if (!isKnownFile) refuseOthers(fs.fstatSync(fd), path);
    assertWithin(placeOf(fd, path), path);
    return fd;
  } catch (error) {
    fs.closeSync(fd);
    throw error;
  }
}

function openFolder(path: string): number {
  const fd = fs.openSync(path, O_RDONLY | O_DIRECTORY | O_NONBLOCK);
  try {
    assertWithin(placeOf(fd, path), path);
    return fd;
  } catch (error) {
    fs.closeSync(fd);
    throw error;
  }
}

/** What failed is told by the path that was asked for. */
const named = (error: unknown, path: string): unknown =>
  error instanceof Error || isErrno(error) ? Object.assign(error as object, { path }) : error;
const isErrno = (error: unknown): boolean => typeof (error as { syscall?: unknown } | null)?.syscall === 'string';

/** Runs something on a folder that is held open; `use` gets a path that leads to it and to nothing else. */
export function inFolder<T>(folder: string, use: (held: string) => T): T {
  if (isFree(folder)) return use(folder);
  const fd = openFolder(folder);
  try {
    return use(hasDescriptors ? `${DESCRIPTORS}/${fd}` : folder);
  } catch (error) {
    throw named(error, folder);
  } finally {
    fs.closeSync(fd);
  }
}

/** Runs something on an entry of a folder that is held open: what `use` names stands there, or nowhere. */
export function asEntry<T>(path: string, use: (held: string) => T): T {
  if (isFree(path)) return use(path);
  try {
    return inFolder(dirname(path), (folder) => use(join(folder, basename(path))));
  } catch (error) {
    throw named(error, path);
  }
}

/** As `inFolder`, for work that takes a while: the folder is held open until it is done. */
export async function inFolderLater<T>(folder: string, use: (held: string) => Promise<T>): Promise<T> {
  if (isFree(folder)) return use(folder);
  const fd = openFolder(folder);
  try {
    return await use(hasDescriptors ? `${DESCRIPTORS}/${fd}` : folder);
  } catch (error) {
    throw named(error, folder);
  } finally {
    fs.closeSync(fd);
  }
}

/** As `asEntry`, for work that takes a while. */
export async function asEntryLater<T>(path: string, use: (held: string) => Promise<T>): Promise<T> {
  if (isFree(path)) return use(path);
  try {
    return await inFolderLater(dirname(path), (folder) => use(join(folder, basename(path))));
  } catch (error) {
    throw named(error, path);
  }
}

/** Runs something that opens a path by itself (a library) on the file that is meant, and on no other. */
export async function withFile<T>(path: string, use: (held: string) => Promise<T>): Promise<T> {
  const fd = openToRead(path);
  try {
    return await use(hasDescriptors ? `${DESCRIPTORS}/${fd}` : path);
  } finally {
    fs.closeSync(fd);
  }
}

/** As `withFile`, without waiting. */
export function withFileNow<T>(path: string, use: (held: string, fd: number) => T): T {
  const fd = openToRead(path);
  try {
    return use(hasDescriptors ? `${DESCRIPTORS}/${fd}` : path, fd);
  } finally {
    fs.closeSync(fd);
  }
}

/** A descriptor of a file to write to; a link that stands there is not followed. `wx`: nothing may stand there. */
export function openToWrite(path: string, how: 'w' | 'wx' | 'a', mode = 0o666): number {
  const { O_WRONLY, O_CREAT, O_EXCL, O_TRUNC, O_APPEND } = constants;
  const flags = { w: O_TRUNC, wx: O_EXCL, a: O_APPEND }[how];
  return asEntry(path, (held) => fs.openSync(held, O_WRONLY | O_CREAT | O_NOFOLLOW | O_NONBLOCK | flags, mode));
}
