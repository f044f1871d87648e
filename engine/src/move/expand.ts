import { lstatSync, statSync } from 'node:fs';
import {
  groupFiles,
  isMapFile,
  isProjectFile,
  ProblemError,
  splitName,
  unportableName,
  type FileEntry,
  type FileGroup,
  fileName,
} from '@rootmap/core';
import { basename, dirname, join, isBelow } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { onDisk } from '../disk/disk-problem.js';

/** What a person asks to be moved or renamed: a dataset by one of its files, a map, another file, or a folder. Absolute paths. */
export interface MoveRequest {
  readonly from: string;
  /** The path that it is to have, not the folder to put it into. */
  readonly to: string;
}

/** One entry of a folder that goes from one path to another. */
export interface MovedEntry {
  readonly from: string;
  readonly to: string;
  readonly isFolder: boolean;
  /** A side file that another dataset needs, too: it is copied, and stays. */
  readonly isShared: boolean;
}

/** What a request means on disk: companions go with their main file and take its name. Throws what cannot be done. */
export function expandMove(request: MoveRequest, groups = new FolderGroups()): MovedEntry[] {
  const { from, to } = request;
  const stat = onDisk(from, () => lstatSync(from));
  if (isProjectFile(basename(from)))
    throw new ProblemError({ code: 'wrong-use', message: `${from} is what makes its folder a project. Move the whole folder instead.` });
  if (basename(from) !== basename(to)) checkName(to);
  if (to === from) throw new ProblemError({ code: 'wrong-use', message: `${from} is there already. Choose another folder or name.` });
  if (isBelow(from, to))
    throw new ProblemError({ code: 'wrong-use', message: `${from} cannot be moved into itself. Choose a folder outside it.` });
  if (stat.isDirectory()) return [{ from, to, isFolder: true, isShared: false }];
  if (isMapFile(basename(from))) return [asFile(from, withEnding(from, to))];
  const group = groups.of(from);
  if (!group) return [asFile(from, withEnding(from, to))];
  return expandDataset(from, to, group);
}

const asFile = (from: string, to: string): MovedEntry => ({ from, to, isFolder: false, isShared: false });

function checkName(to: string): void {
  const why = unportableName(basename(to));
  if (why) throw new ProblemError({ code: 'bad-name', name: basename(to), why });
}

/** The ending tells what a file is: a rename keeps it, and a name without it gets it. */
function withEnding(from: string, to: string): string {
  const ending = splitName(basename(from)).ending;
  return ending === '' || to.toLowerCase().endsWith(ending.toLowerCase()) ? to : to + ending;
}

/** The datasets of a folder by the names of their files; each folder is looked at once for all that is asked. */
export class FolderGroups {
  private readonly known = new Map<string, ReadonlyMap<string, FileGroup>>();

  of(path: string): FileGroup | null {
    const folder = dirname(path);
    let groups = this.known.get(folder);
    if (!groups) this.known.set(folder, (groups = groupsIn(folder)));
    return groups.get(basename(path)) ?? null;
  }
}

function groupsIn(folder: string): Map<string, FileGroup> {
  const entries: FileEntry[] = [];
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (entry.isDirectory()) continue;
    const s = statSync(join(folder, entry.name), { throwIfNoEntry: false });
    if (s?.isFile()) entries.push({ path: entry.name, bytes: s.size, modifiedMs: s.mtimeMs });
  }
  const groups = new Map<string, FileGroup>();
  for (const group of groupFiles(entries).groups) {
    groups.set(group.path, group);
    for (const companion of group.companions) groups.set(companion.path, group);
  }
  return groups;
}

/** Whichever of its files was named, all of a dataset goes. */
function expandDataset(from: string, to: string, group: FileGroup): MovedEntry[] {
  if (group.format === 'opaque') {
    const target = basename(from) === basename(to) ? dirname(to) : to;
    return [{ from: dirname(from), to: target, isFolder: true, isShared: false }];
  }
  const folder = dirname(from);
  const main = group.path;
  const asked = withEnding(from, to);
  const newMain = basename(from) === main ? basename(asked) : fileName(splitName(basename(asked)).stem, splitName(main).ending);
  const moved = (name: string, isShared: boolean): MovedEntry => ({
    from: join(folder, name),
    to: join(dirname(to), renamed(name, main, newMain)),
    isFolder: false,
    isShared,
  });
  return [moved(main, false), ...group.companions.map((c) => moved(c.path, false)), ...group.borrowed.map((c) => moved(c.path, true))];
}

/** A companion's new name: what follows the main file's name, or its stem, stays. */
function renamed(name: string, main: string, newMain: string): string {
  if (name.toLowerCase().startsWith(main.toLowerCase())) return newMain + name.slice(main.length);
  const { stem } = splitName(main);
  return fileName(splitName(newMain).stem, name.slice(stem.length));
}
