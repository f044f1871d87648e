import { realpathSync } from 'node:fs';
import { groupFiles, type Dataset, type FileEntry } from '@rootmap/core';
import { describeBelow, type Survey } from './list-datasets.js';
import { listFiles } from './list-files.js';

/** Rows of the index: one packed row a folder. Rebuildable at any time. */
export interface IndexStore {
  load(root: string): Map<string, { signature: string; packed: string }>;
  save(root: string, changed: readonly { folder: string; signature: string; packed: string }[], gone: readonly string[]): void;
}

const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** What makes a folder's datasets the same as last time: name, size and time of every file in it. */
function signatureOf(files: readonly FileEntry[]): string {
  let signature = '';
  for (const f of files) signature += `${f.path.slice(f.path.lastIndexOf('/') + 1)}\0${f.bytes}\0${f.modifiedMs}\0`;
  return signature;
}

/** Surveys a folder; headers are read only where a folder is not as the index has it. A cancelled survey changes nothing. */
export function surveyWithIndex(
  root: string,
  index: IndexStore,
  confinedTo = realpathSync(root),
  onFolder?: (path: string, files: number) => void,
): Survey {
  const listing = listFiles(root, { confinedTo, ...(onFolder ? { onFolder } : {}) });
  const known = index.load(root);
  const byFolder = new Map<string, FileEntry[]>();
  for (const f of listing.files) {
    const folder = folderOf(f.path);
    const list = byFolder.get(folder);
    if (list) list.push(f);
    else byFolder.set(folder, [f]);
  }
  const datasets: Dataset[] = [];
  const leftBehind: string[] = [];
  const changed: { folder: string; signature: string; packed: string }[] = [];
  for (const [folder, files] of byFolder) {
    const signature = signatureOf(files);
    const row = known.get(folder);
    known.delete(folder);
    const content = row?.signature === signature ? (JSON.parse(row.packed) as FolderContent) : readFolder(root, files);
    if (row?.signature !== signature) changed.push({ folder, signature, packed: JSON.stringify(content) });
    datasets.push(...content.datasets);
    leftBehind.push(...content.leftBehind);
  }
  index.save(root, changed, [...known.keys()]);
  return { listing, datasets, leftBehind };
}

interface FolderContent {
  readonly datasets: Dataset[];
  readonly leftBehind: readonly string[];
}

function readFolder(root: string, files: readonly FileEntry[]): FolderContent {
  const { groups, leftBehind } = groupFiles(files);
  return { datasets: groups.flatMap((g) => describeBelow(root, g)), leftBehind };
}
