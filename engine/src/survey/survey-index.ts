import { dataFiles, groupFiles, isMapFile, READING_EDITION, type Dataset, type FileEntry, folderOf, nameOf } from '@rootmap/core';
import { realPath } from '../disk/real-path.js';
import { describeBelow } from './list-datasets.js';
import { listFiles, nothingTaken, type Listing, type ListPart } from './list-files.js';

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
  /** Paths of the map files, relative to the root. */
  readonly maps: readonly string[];
  readonly files: number;
  readonly bytes: number;
}

/** What the index knows of each folder, without its content. */
export type Signatures = ReadonlyMap<string, string>;

/** A folder as one share found it: its content (as JSON where it comes from another thread), or null: as the index has it. */
interface FolderRow {
  readonly folder: string;
  readonly signature: string;
  readonly content: FolderContent | string | null;
}

/** One thread's share of a survey. Plain data, so that it crosses threads. */
export interface SurveyShare extends Pick<Listing, 'nested' | 'skipped'> {
  readonly rows: readonly FolderRow[];
  readonly maps: readonly string[];
  readonly files: number;
  readonly bytes: number;
}

/** Surveys another share in another thread. */
export type SurveyHelper = (root: string, confinedTo: string, part: ListPart, known: Signatures) => Promise<SurveyShare>;

interface FolderContent {
  readonly datasets: Dataset[];
  readonly leftBehind: readonly string[];
  /** The texts of registered CRSs, each once, and which dataset has which (index of the dataset, index of the text). */
  readonly wkts: readonly string[];
  readonly wktOf: readonly (readonly [number, number])[];
}

/** What makes a folder's datasets the same as last time: name, size and time of every file in it. */
function signatureOf(files: readonly FileEntry[]): string {
  let signature = `${READING_EDITION}\0`;
  for (const f of files) signature += `${nameOf(f.path)}\0${f.bytes}\0${f.modifiedMs}${f.isPlaceholder ? '?' : ''}\0`;
  return signature;
}

/** One share: listed, and headers read where a folder is not as the index has it. */
export function surveyShare(
  root: string,
  known: Signatures,
  confinedTo: string,
  part?: ListPart,
  onFolder?: (path: string, files: number) => void,
): SurveyShare {
  const listing = listFiles(root, { confinedTo, closely: dataFiles, ...(part ? { part } : {}), ...(onFolder ? { onFolder } : {}) });
  const byFolder = new Map<string, FileEntry[]>();
  const maps: string[] = [];
  let bytes = 0;
  for (const f of listing.files) {
    if (isMapFile(f.path)) maps.push(f.path);
    bytes += f.bytes;
    const folder = folderOf(f.path);
    const list = byFolder.get(folder);
    if (list) list.push(f);
    else byFolder.set(folder, [f]);
  }
  const rows = [...byFolder].map(([folder, files]) => {
    const signature = signatureOf(files);
    return { folder, signature, content: known.get(folder) === signature ? null : readFolder(root, files) };
  });
  return { rows, maps, files: listing.files.length + listing.others, bytes, nested: listing.nested, skipped: listing.skipped };
}

function readFolder(root: string, files: readonly FileEntry[]): FolderContent {
  const { groups, leftBehind } = groupFiles(files);
  const datasets = groups.flatMap((g) => describeBelow(root, g));
  const wktOf = datasets.flatMap((d, i) => (isKnown(d) ? [[i, d.crs!.wkt!] as const] : []));
  const wkts = [...new Set(wktOf.map(([, wkt]) => wkt))];
  return {
    datasets: datasets.map((d) => (isKnown(d) ? withWkt(d, null) : d)),
    leftBehind,
    wkts,
    wktOf: wktOf.map(([i, wkt]) => [i, wkts.indexOf(wkt)]),
  };
}

/** A registered CRS is known by its code: its text, long and full of quotes, is not kept thousands of times. */
const isKnown = (d: Dataset): boolean => !!d.crs?.code && d.crs.wkt !== null;
const withWkt = (d: Dataset, wkt: string | null): Dataset => ({ ...d, crs: { ...d.crs!, wkt } });

/** Datasets as they were read, texts of registered CRSs included. */
function withTexts({ datasets, wkts, wktOf }: FolderContent): Dataset[] {
  const whole = [...datasets];
  for (const [i, text] of wktOf) whole[i] = withWkt(whole[i]!, wkts[text]!);
  return whole;
}

const packed = (content: FolderContent | string): string => (typeof content === 'string' ? content : JSON.stringify(content));
const unpacked = (content: FolderContent | string): FolderContent =>
  typeof content === 'string' ? (JSON.parse(content) as FolderContent) : content;

/** Every dataset that the index has of a root. */
export const knownDatasets = (rows: IndexRows): Dataset[] => [...rows.values()].flatMap((row) => unpacked(row.packed).datasets);

/** A share that is to cross threads: as JSON, which is quicker to send than objects are. */
export const packShare = (share: SurveyShare): SurveyShare => ({
  ...share,
  rows: share.rows.map((r) => ({ ...r, content: r.content && packed(r.content) })),
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
    /** Gives the texts of registered CRSs, too, which their codes stand for otherwise. */
    readonly withTexts?: boolean;
  } = {},
): Promise<IndexedSurvey> {
  const confinedTo = options.confinedTo ?? realPath(root);
  const known = index.load(root);
  const signatures = new Map([...known].map(([folder, row]) => [folder, row.signature]));
  const taken = nothingTaken();
  const other = options.helper?.(root, confinedTo, { share: 2, taken }, signatures);
  const own = surveyShare(root, signatures, confinedTo, other && { share: 1, taken }, options.onFolder);
  const shares = other ? [own, await other] : [own];
  const rows = shares.flatMap((s) => s.rows);
  const seen = new Set(rows.map((r) => r.folder));
  const gone = [...known.keys()].filter((folder) => !seen.has(folder));
  const save = (): void => {
    const changed = rows.flatMap((r) => (r.content === null ? [] : [{ ...r, packed: packed(r.content) }]));
    index.save(root, changed, gone);
  };
  if (options.later) options.later(save);
  else save();
  const contents = rows.map((r) => unpacked(r.content ?? known.get(r.folder)!.packed));
  const sum = (of: (s: SurveyShare) => number): number => shares.reduce((total, s) => total + of(s), 0);
  return {
    datasets: contents.flatMap((c) => (options.withTexts ? withTexts(c) : c.datasets)),
    leftBehind: contents.flatMap((c) => c.leftBehind),
    maps: shares.flatMap((s) => s.maps),
    files: sum((s) => s.files),
    bytes: sum((s) => s.bytes),
    nested: shares.flatMap((s) => s.nested),
    skipped: shares.flatMap((s) => s.skipped),
  };
}
