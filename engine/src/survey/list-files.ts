import { lstatSync, statSync, type Dirent, type Stats } from 'node:fs';
import {
  byCodePoint,
  explain,
  GEOJSON_HEAD_BYTES,
  geoJsonIn,
  isOpaqueFolder,
  isProjectFile,
  isUnclearJson,
  ProblemError,
  type FileEntry,
  type Format,
  partsOf,
} from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { isInside, startOf } from '../disk/native-path.js';
import { OpenFiles } from '../disk/file-source.js';
import { readdirSync } from '../disk/files.js';
import { isPlaceholder } from '../disk/placeholder.js';
import { diskSentence } from '../disk/disk-problem.js';

export interface Listing {
  readonly files: readonly FileEntry[];
  /** Files that were counted and not looked at closely. */
  readonly others: number;
  /** Folders below the root, by path, with the time they were last changed. */
  readonly folders: readonly string[];
  /** Folders that have a project file of their own: not entered. */
  readonly nested: readonly string[];
  /** What could not be looked at, and why. */
  readonly skipped: readonly { readonly path: string; readonly why: string }[];
}

/**
 * A share of the folders, for threads that list the same root at the same time: each takes the next folder two levels down that
 * no other has taken. What lies above belongs to the first share. Folders are told apart by a hash, so that threads agree
 * even where the disk changes between their looks; two folders of one hash go to the same thread.
 */
export interface ListPart {
  /** Number of this share, from 1. */
  readonly share: number;
  /** One cell a hash, in memory that all shares see: 0, or the number of the share that took it. */
  readonly taken: Int32Array<SharedArrayBuffer>;
}

const NOT_TEXT = 'its bytes are no text in UTF-8, so it cannot be named here';
const DEAL_DEPTH = 2;
const CELLS = 8192;

export const nothingTaken = (): ListPart['taken'] => new Int32Array(new SharedArrayBuffer(CELLS * Int32Array.BYTES_PER_ELEMENT));

function take(path: string, part: ListPart): boolean {
  let sum = 0;
  for (let i = 0; i < path.length; i++) sum = (Math.imul(sum, 31) + path.charCodeAt(i)) >>> 0;
  const before = Atomics.compareExchange(part.taken, sum % part.taken.length, 0, part.share);
  return before === 0 || before === part.share;
}

export interface ListOptions {
  readonly part?: ListPart;
  /** Names the files of a folder whose size and time are asked for; the others are counted only. Left out: all of them. */
  readonly closely?: (names: readonly string[]) => ReadonlySet<string>;
  /** Real folder that links must not lead out of. */
  readonly confinedTo: string;
  /** Called between folders; throwing from it ends the listing. */
  readonly onFolder?: (path: string, filesSoFar: number) => void;
}

/**
 * Lists a folder and all below it: no dot folders, no nested projects. Symbolic links are followed where they stay inside
 * `confinedTo` and lead to no folder already being listed. Synchronous: it runs in a worker or a command.
 */
export function listFiles(root: string, options: ListOptions): Listing {
  return new Lister(options).list(root);
}

class Lister {
  private readonly files: FileEntry[] = [];
  private readonly folders: string[] = [];
  private readonly nested: string[] = [];
  private readonly skipped: { path: string; why: string }[] = [];
  private readonly entered = new Set<string>();
  private others = 0;

  constructor(private readonly options: ListOptions) {}

  list(root: string): Listing {
    this.visit(root, '', false);
    const { files, others, folders, nested, skipped } = this;
    return { files, others, folders, nested, skipped };
  }

  private visit(folder: string, shown: string, viaLink: boolean): void {
    if (viaLink || shown === '') {
      const real = realPath(folder);
      if (this.entered.has(real)) return;
      this.entered.add(real);
    }
    this.options.onFolder?.(shown, this.files.length);
    let entries: Dirent[];
    try {
      entries = readdirSync(folder, { withFileTypes: true });
    } catch (error) {
      const why = diskSentence(error);
      if (why === null) throw error;
      this.skipped.push({ path: shown, why });
      return;
    }
    if (shown !== '' && entries.some((e) => isProjectFile(e.name))) {
      this.nested.push(shown);
      return;
    }
    const depth = shown === '' ? 0 : partsOf(shown).length;
    const part = this.options.part;
    const isOurs = !part || depth >= DEAL_DEPTH || part.share === 1;
    if (shown !== '' && isOurs) this.folders.push(shown);
    const below: [string, string, boolean][] = [];
    const start = startOf(folder);
    const closely = isOurs && this.options.closely ? closeLook(entries, this.options.closely) : null;
    for (const entry of entries) {
      const name = entry.name;
      const path = shown === '' ? name : `${shown}/${name}`;
      const full = start + name;
      if (name.startsWith('._')) continue; // what macOS keeps beside a file on disks that cannot (AppleDouble, RFC 1740)
      if (entry.isFile()) {
        if (closely && !closely.has(name)) this.others++;
        else if (isOurs) this.add(full, path);
      } else if (entry.isDirectory()) {
        if (!name.startsWith('.')) below.push([full, path, false]);
      } else if (entry.isSymbolicLink()) {
        if (isOurs) this.follow(full, path, name, below);
      } else if (isOurs) this.skipped.push({ path, why: explain({ code: 'not-a-file', path, what: 'a pipe, a socket or a device' }) });
    }
    below.sort((a, b) => byCodePoint(a[1], b[1]));
    const areDealt = part !== undefined && depth + 1 === DEAL_DEPTH;
    for (const [full, path, link] of below) if (!areDealt || take(path, part)) this.visit(full, path, link);
  }

  private add(full: string, path: string): void {
    const stat = this.statOrSkip(full, path);
    if (stat) this.files.push(entryOf(path, stat, full));
  }

  private statOrSkip(full: string, path: string): Stats | null {
    try {
      return lstatSync(full);
    } catch (error) {
      const why = path.includes('\ufffd') ? explain({ code: 'bad-name', name: path, why: NOT_TEXT }) : diskSentence(error);
      if (why === null) throw error;
      this.skipped.push({ path, why });
      return null;
    }
  }

  private follow(full: string, path: string, name: string, below: [string, string, boolean][]): void {
    try {
      const real = realPath(full);
      if (!isInside(this.options.confinedTo, real)) {
        this.skipped.push({ path, why: `${path} is a link that leads out of its place, so it is not followed.` });
        return;
      }
      const stat = statSync(real);
      if (stat.isFile()) this.files.push(entryOf(path, stat, real));
      else if (stat.isDirectory() && !name.startsWith('.')) below.push([full, path, true]);
      else if (!stat.isDirectory())
        this.skipped.push({ path, why: explain({ code: 'not-a-file', path, what: 'a pipe, a socket or a device' }) });
    } catch (error) {
      const why = diskSentence(error);
      if (why === null) throw error;
      this.skipped.push({ path, why });
    }
  }
}

/** What a listing tells of one file. @param full its path on the disk */
export function entryOf(path: string, stat: Stats, full: string): FileEntry {
  const entry = { path, bytes: stat.size, modifiedMs: stat.mtimeMs };
  if (isPlaceholder(stat)) return { ...entry, isPlaceholder: true };
  const content = isUnclearJson(path) ? contentOf(path, full) : null;
  return content ? { ...entry, content } : entry;
}

/** Null: it holds no features, or cannot be opened, which whoever reads it will say. */
function contentOf(path: string, full: string): Format | null {
  const files = new OpenFiles();
  try {
    return geoJsonIn(path, files.source(full).read(0, GEOJSON_HEAD_BYTES));
  } catch (error) {
    if (diskSentence(error) === null && !(error instanceof ProblemError)) throw error;
    return null;
  } finally {
    files.close();
  }
}

/** A folder that is another program's container is looked at whole, since its size is that of all its files. */
function closeLook(entries: readonly Dirent[], closely: NonNullable<ListOptions['closely']>): ReadonlySet<string> | null {
  const names = entries.filter((e) => e.isFile()).map((e) => e.name);
  return isOpaqueFolder(names) ? null : closely(names);
}
