import { lstatSync } from 'node:fs';
import {
  byCodePoint,
  DEFAULT_NAMING,
  endingOf,
  groupFiles,
  isMapFile,
  isProjectFile,
  placeNamed,
  ProblemError,
  roleOf,
  type FileEntry,
  type FileGroup,
  folderOf,
} from '@rootmap/core';
import type { FolderNodeView, FoldersView, LinkedFolderView, TamperedView, ThingView } from '@rootmap/core/contract';
import { basename, join, pathFrom, isInside } from '../disk/native-path.js';
import { guardedMode } from '../move/guard-originals.js';
import { knownProjects } from '../move/known-maps.js';
import { checkProjectNames, longestRoot } from '../names/check-project-names.js';
import { confinementOf, locationOf, presentLinks, type RootedScope } from '../project/scope.js';
import { listFiles, type Listing } from '../survey/list-files.js';
import { trashBytes } from './trash.js';
import { usedPaths } from './used-paths.js';

const ARCHIVE = /\.(zip|7z|rar|tar|gz|tgz|bz2|xz)$/i;

/** Everything that stands in a project's folders: each thing once, with its files, and what maps make of it. */
export function viewFolders(scope: RootedScope, roots: readonly string[], tampered: readonly TamperedView[]): FoldersView {
  const root = scope.root;
  const listing = listFiles(root, { confinedTo: confinementOf(root, scope.places) });
  const used = usedPaths(knownProjects([root, ...roots], scope.places), scope.places);
  const things = thingsOf(listing.files, (path) => used.get(join(root, path)) ?? 0);
  return {
    folders: sizesOf(listing, things),
    things,
    nested: listing.nested,
    skipped: listing.skipped,
    findings: checkProjectNames(scope, undefined, listing).findings,
    roles: scope.project?.folders ?? {},
    naming: scope.project?.naming ?? DEFAULT_NAMING,
    isProject: scope.project !== null,
    readOnly: placeNamed(scope.places, locationOf(root, scope.places).place)?.readOnly ?? false,
    status: scope.project?.status ?? 'open',
    title: scope.project?.title ?? basename(root),
    trashBytes: trashBytes(root),
    rootLength: longestRoot(root, scope.places),
    tampered,
    unprotected: unprotectedIn(scope, listing),
  };
}

/** What stands in a folder that the project links, with how many layers of all known projects draw on each. */
export function viewLinkedFolder(scope: RootedScope, roots: readonly string[], name: string): LinkedFolderView {
  const folder = presentLinks(scope).find((l) => l.name === name)?.folder;
  if (folder === undefined) throw new ProblemError({ code: 'not-found', what: 'linked folder', id: name });
  const listing = listFiles(folder, { confinedTo: confinementOf(folder, scope.places) });
  const used = usedPaths(knownProjects([scope.root, ...roots], scope.places), scope.places);
  const things = thingsOf(listing.files, (path) => used.get(join(folder, path)) ?? 0);
  return { folders: sizesOf(listing, things), things, skipped: listing.skipped };
}

/** Originals are read-only; files that came by another way than the app may not be. */
function unprotectedIn(scope: RootedScope, listing: Listing): number {
  const folders = scope.project?.folders ?? {};
  if (!Object.values(folders).includes('originals')) return 0;
  return listing.files.filter((f) => {
    if (roleOf(f.path, folders) !== 'originals' || isMapFile(f.path)) return false;
    const stat = lstatSync(join(scope.root, f.path), { throwIfNoEntry: false });
    return stat?.isFile() === true && guardedMode(stat.mode, true) !== null;
  }).length;
}

/** One row for each thing that a person would call one, by code point of its path. */
export function thingsOf(files: readonly FileEntry[], usedBy: (path: string) => number): ThingView[] {
  const { groups, leftBehind } = groupFiles(files);
  const inGroups = new Set(groups.flatMap((g) => [g.main.path, ...g.companions.map((c) => c.path)]));
  const orphans = new Set(leftBehind);
  const alone = files.filter((f) => !inGroups.has(f.path) && !isProjectFile(f.path));
  return [...groups.map((g) => groupThing(g, usedBy)), ...alone.map((f) => fileThing(f, orphans.has(f.path)))].sort((a, b) =>
    byCodePoint(a.path, b.path),
  );
}

function groupThing(g: FileGroup, usedBy: (path: string) => number): ThingView {
  const own = g.format === 'opaque' ? g.companions : [g.main, ...g.companions];
  const isArchive = ARCHIVE.test(g.path);
  return {
    path: g.path,
    kind: g.format === 'opaque' ? 'container' : isArchive ? 'archive' : g.format === 'document' ? 'document' : 'dataset',
    format: g.format === 'document' ? endingOf(g.path) : g.format,
    bytes: own.reduce((sum, f) => sum + f.bytes, 0),
    modifiedMs: Math.max(0, ...own.map((f) => f.modifiedMs)),
    files: own.map((f) => (g.format === 'opaque' ? pathFrom(g.path, f.path) : basename(f.path))),
    usedBy: g.format === 'opaque' ? 0 : usedBy(g.path),
  };
}

function fileThing(f: FileEntry, isLeftBehind: boolean): ThingView {
  const kind = isMapFile(f.path) ? 'map' : isLeftBehind ? 'left-behind' : ARCHIVE.test(f.path) ? 'archive' : 'other';
  const name = basename(f.path);
  const format = kind === 'map' ? 'map' : endingOf(name);
  return { path: f.path, kind, format, bytes: f.bytes, modifiedMs: f.modifiedMs, files: [name], usedBy: 0 };
}

/** Every folder with all that is below it; the inside of other programs' containers is one thing, not folders. */
function sizesOf(listing: Listing, things: readonly ThingView[]): FolderNodeView[] {
  const containers = things.filter((t) => t.kind === 'container').map((t) => t.path);
  const isHidden = (folder: string): boolean => containers.some((c) => isInside(c, folder));
  const sizes = new Map<string, { bytes: number; files: number }>([['', { bytes: 0, files: 0 }]]);
  for (const folder of listing.folders) if (!isHidden(folder)) sizes.set(folder, { bytes: 0, files: 0 });
  for (const thing of things)
    for (let at = thing.path; at !== '';) {
      at = folderOf(at);
      const size = sizes.get(at);
      if (!size) continue;
      size.bytes += thing.bytes;
      size.files += thing.files.length;
    }
  return [...sizes].map(([path, size]) => ({ path, ...size })).sort((a, b) => byCodePoint(a.path, b.path));
}
