import { existsSync, statSync } from 'node:fs';
import {
  datasetId,
  groupFiles,
  locateHere,
  placeNamed,
  ProblemError,
  type Dataset,
  type FileEntry,
  type FileGroup,
  joined,
} from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { basename, dirname, join, isBelow, toAddress, isInside, below } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { onDisk } from '../disk/disk-problem.js';
import { confine } from '../places/confine.js';
import { confinementOf, linkFolders, type RootedScope } from './scope.js';
import { describeBelow } from '../survey/list-datasets.js';
import { entryOf } from '../survey/list-files.js';

/** A dataset with the folder that its paths start from. */
export interface FoundDataset {
  readonly folder: string;
  readonly dataset: Dataset;
}

/** A dataset by the real path of its main file and the name of its table. */
export interface DataAt {
  readonly path: string;
  readonly table: string | null;
}
export const dataAt = ({ folder, dataset: { group, table } }: FoundDataset): DataAt => ({ path: join(folder, group.path), table });

/**
 * A dataset of a project or its linked folders by its id: real path, and `#table`. Only the files of its name are looked at,
 * so that it is quick in a folder of any size, and as the disk is now. Throws `not-found`.
 */
export function findDataset(scope: RootedScope, id: string): FoundDataset {
  const folders = [scope.root, ...linkFolders(scope)].filter((f) => isBelow(f, id));
  const path = pathIn(id);
  const folder = folders.sort((a, b) => b.length - a.length)[0];
  const dataset = folder !== undefined && path !== null ? datasetAt(folder, path, id, scope) : undefined;
  if (folder === undefined || !dataset) throw new ProblemError({ code: 'not-found', what: 'dataset', id });
  return { folder, dataset };
}

/** A dataset of a project, or of any place: layers may show what is outside. Throws `not-found`. */
export function findAnyDataset(scope: RootedScope, id: string): FoundDataset {
  if ([scope.root, ...linkFolders(scope)].some((f) => isBelow(f, id))) return findDataset(scope, id);
  const path = pathIn(id);
  const at = path === null ? null : locateHere(toAddress(path), scope.places);
  const place = at && placeNamed(scope.places, at.place);
  const real = at && place ? confine(place, joined(at.segments)) : null;
  const found = real === null ? undefined : datasetsOfFile(real).find((d) => datasetId(real, d.dataset.table) === id);
  if (!found) throw new ProblemError({ code: 'not-found', what: 'dataset', id });
  return found;
}

/** The file that an id means: a name may have `#` in it, and so may a table. */
function pathIn(id: string): string | null {
  for (let at = id.length; at > 0; at = id.lastIndexOf('#', at - 1)) if (existsSync(id.slice(0, at))) return id.slice(0, at);
  return null;
}

/** All datasets of one file, wherever it stands: its tables, where it has several. */
export function datasetsOfFile(path: string): FoundDataset[] {
  const folder = dirname(path);
  const group = groupAt(folder, path);
  return group ? describeBelow(folder, group).map((dataset) => ({ folder, dataset })) : [];
}

function datasetAt(folder: string, path: string, id: string, scope: RootedScope): Dataset | undefined {
  if (
    !isInside(
      confinementOf(folder, scope.places),
      onDisk(path, () => realPath(path)),
    )
  )
    return undefined;
  const group = groupAt(folder, path);
  return group && describeBelow(folder, group).find((d) => datasetId(join(folder, d.group.path), d.table) === id);
}

/** The file with those of its name beside it. Paths of the group start from the folder. */
export function groupAt(folder: string, path: string): FileGroup | undefined {
  const beside = dirname(path);
  const shown = below(folder, beside) ?? '';
  const stem = basename(path)
    .replace(/\.[^.]*$/, '')
    .toLowerCase();
  const files = onDisk(beside, () => readdirSync(beside))
    .filter((name) => name.toLowerCase().startsWith(stem))
    .flatMap((name): FileEntry[] => {
      const stat = statSync(join(beside, name), { throwIfNoEntry: false });
      return stat?.isFile() ? [entryOf(shown === '' ? name : joined([shown, name]), stat, join(beside, name))] : [];
    });
  return groupFiles(files).groups.find((g) => join(folder, g.path) === path);
}
