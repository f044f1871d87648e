import { indexOfShapes, looseName, readDbfHeader, splitName, viewOf, type Fingerprint } from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { readdirSync } from '../disk/files.js';
import { OpenFiles } from '../disk/file-source.js';
import { confinementOf } from '../project/scope.js';
import { listFiles } from '../survey/list-files.js';
import type { MendWork } from './plan-mend.js';

/** A table that belongs to shapes which lost theirs, and why that is believed. */
export interface FoundCompanion {
  readonly path: string;
  readonly evidence: readonly string[];
}

const SHX_HEADER = 100;
const SHX_RECORD = 8;

/**
 * For layers whose shapes stand without their table: tables in the folders searched that fit them, by layer key. Offered is
 * what has the name and as many records, or the size and the fields that the map remembers as well; a table beside shapes of
 * its own belongs to those.
 */
export function findLostCompanions({ broken, view, scope }: MendWork): Map<string, FoundCompanion[]> {
  const wanted = broken.flatMap(({ broken: b, seen }) => {
    const { state, resolved } = seen.judgement;
    return state === 'incomplete' && resolved !== null && /\.shp$/i.test(resolved) && !tableBeside(resolved)
      ? [{ key: b.key, shapes: resolved, fingerprint: b.fingerprint }]
      : [];
  });
  if (wanted.length === 0) return new Map();
  const files = new OpenFiles();
  try {
    const tables = tablesIn(view.searched.folders, scope);
    const counts = new Map<string, number | null>();
    const count = (shapes: string): number | null => {
      if (!counts.has(shapes)) counts.set(shapes, recordsOf(shapes, files));
      return counts.get(shapes)!;
    };
    return new Map(wanted.map((w) => [w.key, tables.flatMap((path) => fitting(path, w.shapes, w.fingerprint, files, count))]));
  } finally {
    files.close();
  }
}

function tableBeside(shapes: string): boolean {
  const stem = splitName(basename(shapes)).stem.toLowerCase();
  return readdirSync(dirname(shapes)).some((name) => name.toLowerCase() === `${stem}.dbf`);
}

/** Tables without shapes beside them. */
function tablesIn(folders: readonly string[], scope: MendWork['scope']): string[] {
  const isPart = (name: string): boolean => /\.(dbf|shp)$/i.test(name);
  return folders.flatMap((folder) => {
    const { files } = listFiles(folder, {
      confinedTo: confinementOf(folder, scope.places),
      closely: (names) => new Set(names.filter(isPart)),
    });
    const shapes = new Set(files.filter((f) => /\.shp$/i.test(f.path)).map((f) => f.path.slice(0, -4).toLowerCase()));
    return files.filter((f) => /\.dbf$/i.test(f.path) && !shapes.has(f.path.slice(0, -4).toLowerCase())).map((f) => join(folder, f.path));
  });
}

function fitting(
  path: string,
  shapes: string,
  remembered: Fingerprint | null,
  files: OpenFiles,
  count: (shapes: string) => number | null,
): FoundCompanion[] {
  const isNamed = looseName(basename(path)) === looseName(basename(shapes));
  const source = files.source(path);
  const isSized = remembered?.bytes['.dbf'] === source.sizeBytes;
  if (!isNamed && !isSized) return [];
  const header = readDbfHeader(path, viewOf(source.read(0, HEADER_BYTES)));
  const records = count(shapes);
  if (!header.ok || records === null || header.value.records !== records) return [];
  const names = header.value.fields.map((f) => f.name);
  const hasFields = remembered?.fields != null && remembered.fields.map(([name]) => name).join('\n') === names.join('\n');
  if (!isNamed && !hasFields) return [];
  const evidence = [
    isNamed ? 'It has the name of the shapes.' : '',
    `It has ${records} records, as many as there are shapes.`,
    isSized ? 'It has the size that the map remembers.' : '',
    hasFields ? 'It has the fields that the map remembers.' : '',
  ];
  return [{ path, evidence: evidence.filter(Boolean) }];
}

/** A dBASE header is this long at most. */
const HEADER_BYTES = 65_535;

/** How many shapes there are, counted from the shapes themselves; null: they are damaged, too. */
export function recordsOf(shapes: string, files: OpenFiles): number | null {
  const index = indexOfShapes(files.source(shapes));
  return index && (index.length - SHX_HEADER) / SHX_RECORD;
}
