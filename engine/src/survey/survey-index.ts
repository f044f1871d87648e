import { realpathSync } from 'node:fs';
import { dataFiles, groupFiles, type Dataset, type FileEntry } from '@rootmap/core';
import { describeBelow } from './list-datasets.js';
import { listFiles, type Listing, type ListPart } from './list-files.js';

/** Rows of the index: one packed row a folder. Rebuildable at any time. */
export type IndexRows = ReadonlyMap<string, { readonly signature: string; readonly packed: string }>;
export interface IndexStore {
  load(root: string): IndexRows;
  save(root: string, changed: readonly { folder: string; signature: string; packed: string }[], gone: readonly string[]): void;
}

/** What a survey with the index gives: the datasets, and of the other files only how many there are. `bytes` are those of data, documents and maps. */
export interface IndexedSurvey extends Pick<Listing, 'nested' | 'skipped'> {
  readonly datasets: readonly Dataset[];
  readonly leftBehind: readonly string[];
  readonly files: number;
  readonly bytes: number;
}

/** A folder as one share found it: its content, or that as JSON where it comes from the index or from another thread. */
interface FolderRow {
  readonly folder: string;
  readonly signature: string;
  readonly isNew: boolean;
  readonly content: FolderContent | string;
}

/** One thread's share of a survey. Plain data, so that it crosses threads. */
export interface SurveyShare extends Pick<Listing, 'nested' | 'skipped'> {
  readonly rows: readonly FolderRow[];
  readonly files: number;
  readonly bytes: number;
}

/** Surveys another share in another thread. */
export type SurveyHelper = (root: string, confinedTo: string, part: ListPart) => Promise<SurveyShare>;

interface FolderContent {
  readonly datasets: Dataset[];
  readonly leftBehind: readonly string[];
}

const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));

/** What makes a folder's datasets the same as last time: name, size and time of every file in it. */
function signatureOf(files: readonly FileEntry[]): string {
  let signature = '';
  for (const f of files) signature += `${f.path.slice(f.path.lastIndexOf('/') + 1)}\0${f.bytes}\0${f.modifiedMs}\0`;
  return signature;
}

/** One share: listed, and headers read where a folder is not as the index has it. */
export function surveyShare(
  root: string,
  known: IndexRows,
  confinedTo: string,
  part?: ListPart,
  onFolder?: (path: string, files: number) => void,
): SurveyShare {
  const listing = listFiles(root, { confinedTo, closely: dataFiles, ...(part ? { part } : {}), ...(onFolder ? { onFolder } : {}) });
  const byFolder = new Map<string, FileEntry[]>();
  let bytes = 0;
  for (const f of listing.files) {
    bytes += f.bytes;
    const folder = folderOf(f.path);
    const list = byFolder.get(folder);
    if (list) list.push(f);
    else byFolder.set(folder, [f]);
  }
  const rows = [...byFolder].map(([folder, files]) => {
    const signature = signatureOf(files);
    const row = known.get(folder);
    const isNew = row?.signature !== signature;
    return { folder, signature, isNew, content: isNew ? readFolder(root, files) : row.packed };
  });
  return { rows, files: listing.files.length + listing.others, bytes, nested: listing.nested, skipped: listing.skipped };
}

function readFolder(root: string, files: readonly FileEntry[]): FolderContent {
  const { groups, leftBehind } = groupFiles(files);
  return { datasets: groups.flatMap((g) => describeBelow(root, g)).map(withoutKnownWkt), leftBehind };
}

/** A registered CRS is known by its code: its text, long and full of quotes, is not kept thousands of times. */
const withoutKnownWkt = (d: Dataset): Dataset => (d.crs?.code && d.crs.wkt !== null ? { ...d, crs: { ...d.crs, wkt: null } } : d);

/** The helper has to start and to send what it finds: it gets two heaps of five. */
const OWN_PART: ListPart = { isFirst: true, heaps: [0, 1, 2], of: 5 };
const HELPERS_PART: ListPart = { isFirst: false, heaps: [3, 4], of: 5 };

const packed = (content: FolderContent | string): string => (typeof content === 'string' ? content : JSON.stringify(content));

/** A share that is to cross threads: as JSON, which is quicker to send than objects are. */
export const packShare = (share: SurveyShare): SurveyShare => ({
  ...share,
  rows: share.rows.map((r) => ({ ...r, content: packed(r.content) })),
});

/**
 * Surveys a folder; with a helper, two threads share the work. The index is written once, at the end: a survey that is
 * cancelled leaves it whole.
 */
export async function surveyWithIndex(
  root: string,
  index: IndexStore,
  options: {
    readonly confinedTo?: string;
    readonly helper?: SurveyHelper | undefined;
    readonly onFolder?: ((path: string, files: number) => void) | undefined;
    /** Writes the index when it suits: whoever asked need not wait for the cache. */
    readonly later?: ((save: () => void) => void) | undefined;
  } = {},
): Promise<IndexedSurvey> {
  const confinedTo = options.confinedTo ?? realpathSync(root);
  const known = index.load(root);
  const other = options.helper?.(root, confinedTo, HELPERS_PART);
  const own = surveyShare(root, known, confinedTo, other ? OWN_PART : undefined, options.onFolder);
  const shares = other ? [own, await other] : [own];
  const rows = shares.flatMap((s) => s.rows);
  const seen = new Set(rows.map((r) => r.folder));
  const gone = [...known.keys()].filter((folder) => !seen.has(folder));
  const save = (): void => {
    const changed = rows.filter((r) => r.isNew).map((r) => ({ folder: r.folder, signature: r.signature, packed: packed(r.content) }));
    index.save(root, changed, gone);
  };
  if (options.later) options.later(save);
  else save();
  const contents = rows.map((r) => (typeof r.content === 'string' ? (JSON.parse(r.content) as FolderContent) : r.content));
  const sum = (of: (s: SurveyShare) => number): number => shares.reduce((total, s) => total + of(s), 0);
  return {
    datasets: contents.flatMap((c) => c.datasets),
    leftBehind: contents.flatMap((c) => c.leftBehind),
    files: sum((s) => s.files),
    bytes: sum((s) => s.bytes),
    nested: shares.flatMap((s) => s.nested),
    skipped: shares.flatMap((s) => s.skipped),
  };
}
