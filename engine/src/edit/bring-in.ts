import { existsSync, lstatSync } from 'node:fs';
import { DEFAULT_NAMING, EMPTY_ORIGIN, ProblemError, proposeName } from '@rootmap/core';
import { basename, dirname, join, isBelow } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { Origins, planOriginsOf, keeperOf, type Told } from '../folders/origins.js';
import { guardedMode } from '../move/guard-originals.js';
import { amongOriginals, presentLinks, type RootedScope } from '../project/scope.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { missingFolders } from '../changes/missing-folders.js';

interface BroughtFile {
  readonly from: string;
  readonly to: string;
  readonly bytes: number;
}
export interface Brought {
  readonly steps: readonly PlannedStep[];
  readonly files: readonly BroughtFile[];
  /** Where each main file goes, by where it is. */
  readonly places: ReadonlyMap<string, string>;
}

/**
 * Datasets from outside are copied into the project's folder for originals, with all their companions, below a folder that is
 * called like the one they come from; their origin comes along, or says at least where they were copied from.
 * @param paths real paths of main files
 */
export function planBrought(scope: RootedScope, paths: readonly string[]): Brought {
  const files: BroughtFile[] = [];
  const places = new Map<string, string>();
  const origins: Told[] = [];
  const known = new Origins(keeperOf(scope));
  const taken = new Set<string>();
  for (const path of new Set(paths)) {
    const [found] = datasetsOfFile(path);
    if (!found) throw new ProblemError({ code: 'not-found', what: 'dataset', id: path });
    const { group } = found.dataset;
    const folder = targetFolder(scope, path);
    const own = [group.main, ...group.companions, ...group.borrowed].map((f) => join(found.folder, f.path));
    const rename = freeStem(own, folder, basename(path).replace(/\.[^.]*$/, ''), taken);
    for (const file of own) {
      const to = join(folder, rename(basename(file)));
      taken.add(to);
      files.push({ from: file, to, bytes: lstatSync(file).size });
      if (file === path) places.set(path, to);
    }
    const told = known.allOf(path);
    const untold = { table: null, origin: { ...EMPTY_ORIGIN, isReobtainable: false, notes: `Copied from ${path}` } };
    for (const one of told.length > 0 ? told : [untold]) origins.push({ path: places.get(path)!, ...one });
  }
  const modes = files.flatMap(({ from, to }): PlannedStep[] => {
    const mode = guardedMode(lstatSync(from).mode, amongOriginals(scope, to));
    return mode === null ? [] : [{ kind: 'mode', path: to, mode }];
  });
  return {
    files,
    places,
    steps: [
      ...missingFolders(files.map((f) => dirname(f.to))).map((folder) => ({ kind: 'folder', path: folder }) as const),
      ...files.map(({ from, to }) => ({ kind: 'copy', from, path: to }) as const),
      ...modes,
      ...planOriginsOf(origins, keeperOf(scope)).writes,
    ],
  };
}

/** In the folder for originals: below the name of the link that it came through, or of the folder that it stands in. */
function targetFolder(scope: RootedScope, path: string): string {
  const folders = scope.project?.folders ?? {};
  const originals = Object.entries(folders).find(([, role]) => role === 'originals')?.[0] ?? 'received';
  const link = presentLinks(scope).find((l) => isBelow(l.folder, path));
  return join(
    scope.root,
    originals,
    proposeName(link?.name ?? basename(dirname(path)), scope.project?.naming ?? DEFAULT_NAMING) || 'brought',
  );
}

/** Names that are free, all files of a dataset alike. */
function freeStem(files: readonly string[], folder: string, stem: string, taken: ReadonlySet<string>): (name: string) => string {
  for (let n = 1; ; n++) {
    const rename = (name: string): string => (n === 1 ? name : `${stem}_${n}${name.slice(stem.length)}`);
    if (files.every((f) => !existsSync(join(folder, rename(basename(f)))) && !taken.has(join(folder, rename(basename(f)))))) return rename;
  }
}
