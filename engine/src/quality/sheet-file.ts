import { existsSync } from 'node:fs';
import { parseSheets, SHEET_ENDING, writeSheets, type DataSeen, type Dataset, type Problem, type QualitySheet } from '@rootmap/core';
import type { PlannedWrite } from '../changes/change.js';
import { onDisk } from '../disk/disk-problem.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import { join } from '../disk/native-path.js';
import { readWhole } from '../fingerprint/full-fingerprint.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** Where the sheets of a dataset's file stand. */
export const sheetPath = ({ folder, dataset: { group } }: FoundDataset): string => join(folder, group.path + SHEET_ENDING);

interface SheetFile {
  readonly sheets: readonly QualitySheet[];
  /** It is there and cannot be read: it is told, and never overwritten. */
  readonly problem: Problem | null;
  readonly before: Buffer | null;
}

export function readSheetFile(path: string): SheetFile {
  if (!existsSync(path)) return { sheets: [], problem: null, before: null };
  const text = onDisk(path, () => readFileSync(path, 'utf8', MOST_NOTE_BYTES));
  const before = Buffer.from(text, 'utf8');
  const parsed = parseSheets(path, text);
  return parsed.ok ? { sheets: parsed.value, problem: null, before } : { sheets: [], problem: parsed.problem, before };
}

export const sheetIn = ({ sheets }: Pick<SheetFile, 'sheets'>, table: string | null): QualitySheet | null =>
  sheets.find((s) => s.table === table) ?? null;

/** A write of the sheets of one file, each in the place of the one before it; all others stay. */
export function planSheets(path: string, { sheets, before }: SheetFile, changed: readonly QualitySheet[]): PlannedWrite {
  const kept = sheets.filter((s) => !changed.some((c) => c.table === s.table));
  const all = [...kept, ...changed].sort((a, b) => ((a.table ?? '') < (b.table ?? '') ? -1 : 1));
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
  const hash = isAsBefore ? before.hash : (readWhole(found.folder, found.dataset).fingerprint.hash ?? '');
  return { hash, ...now };
}
