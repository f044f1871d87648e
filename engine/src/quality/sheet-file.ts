import { existsSync } from 'node:fs';
import {
  isSameSubject,
  LINKED_SHEETS,
  parseSheets,
  SHEET_ENDING,
  sortedBy,
  writeSheets,
  type DataSeen,
  type Dataset,
  type Problem,
  type QualitySheet,
} from '@rootmap/core';
import type { PlannedWrite } from '../changes/change.js';
import { onDisk } from '../disk/disk-problem.js';
import { readFileSync } from '../disk/files.js';
import { isInside, join, pathFrom } from '../disk/native-path.js';
import { contentHash } from '../fingerprint/full-fingerprint.js';
import { presentLinks, type RootedScope } from '../project/scope.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** Where the sheet of a dataset stands, and which it is in that file. */
export interface SheetPlace {
  readonly path: string;
  readonly subject: Pick<QualitySheet, 'table' | 'linked'>;
}

/** Beside the data; of linked folders, where nothing is written, in the project. */
export function sheetPlace(scope: RootedScope, { folder, dataset: { group, table } }: FoundDataset): SheetPlace {
  const path = join(folder, group.path);
  const link = isInside(scope.root, path)
    ? undefined
    : presentLinks(scope)
        .filter((l) => isInside(l.folder, path))
        .sort((a, b) => b.folder.length - a.folder.length)[0];
  return link
    ? { path: join(scope.root, LINKED_SHEETS), subject: { table, linked: { link: link.name, path: pathFrom(link.folder, path) } } }
    : { path: path + SHEET_ENDING, subject: { table, linked: null } };
}

/** Of one file: the tables of a geodatabase share it. */
const MOST_SHEETS_BYTES = 128 << 20;

interface SheetFile {
  readonly sheets: readonly QualitySheet[];
  /** It is there and cannot be read: it is told, and never overwritten. */
  readonly problem: Problem | null;
  readonly before: Buffer | null;
}

export function readSheetFile(path: string): SheetFile {
  if (!existsSync(path)) return { sheets: [], problem: null, before: null };
  const text = onDisk(path, () => readFileSync(path, 'utf8', MOST_SHEETS_BYTES));
  const before = Buffer.from(text, 'utf8');
  const parsed = parseSheets(path, text);
  return parsed.ok ? { sheets: parsed.value, problem: null, before } : { sheets: [], problem: parsed.problem, before };
}

/** Files of sheets, each read once: the tables of a geodatabase share one. */
export class SheetFiles {
  private readonly known = new Map<string, SheetFile>();

  read(path: string): SheetFile {
    let file = this.known.get(path);
    if (!file) this.known.set(path, (file = readSheetFile(path)));
    return file;
  }
}

export const sheetIn = ({ sheets }: Pick<SheetFile, 'sheets'>, subject: SheetPlace['subject']): QualitySheet | null =>
  sheets.find((s) => isSameSubject(s, subject)) ?? null;

/** A write of the sheets of one file, each in the place of the one before it; all others stay. */
export function planSheets(path: string, { sheets, before }: SheetFile, changed: readonly QualitySheet[]): PlannedWrite {
  const kept = sheets.filter((s) => !changed.some((c) => isSameSubject(c, s)));
  const key = ({ linked, table }: QualitySheet): string => `${linked?.link ?? ''}/${linked?.path ?? ''}#${table ?? ''}`;
  const all = sortedBy([...kept, ...changed], key);
  return { kind: 'write', path, before, after: Buffer.from(writeSheets(all), 'utf8') };
}

/** The files of a dataset, without its sheet. */
export function filesOf({ group }: Pick<Dataset, 'group'>): Pick<DataSeen, 'bytes' | 'modifiedMs'> {
  const files = [group.main, ...group.companions.filter((f) => !f.path.endsWith(SHEET_ENDING))];
  return {
    bytes: files.reduce((sum, f) => sum + f.bytes, 0),
    modifiedMs: Math.floor(Math.max(...files.map((f) => f.modifiedMs))),
  };
}

/** What a dataset's files hold now. While size and time are as they were seen, it is not read again. */
export function seenNow(found: FoundDataset, before: DataSeen | null): DataSeen {
  const now = filesOf(found.dataset);
  const isAsBefore = before?.bytes === now.bytes && before.modifiedMs === now.modifiedMs;
  const hash = isAsBefore ? before.hash : contentHash(found.folder, found.dataset);
  return { hash, ...now };
}
