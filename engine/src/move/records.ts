import { existsSync } from 'node:fs';
import { basename, dirname, join } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PlannedTrash, PlannedWrite } from '../changes/change.js';
import { sha256 } from '../changes/disk.js';
import type { MovedEntry } from './expand.js';

/** The file beside data that says where it came from (Frictionless Data Package). */
export const RECORDS = 'datapackage.json';

interface DataPackage {
  resources?: { path?: unknown; 'rootmap:files'?: unknown }[];
  [member: string]: unknown;
}

/**
 * Origin records go with their data: a renamed dataset's resource gets its new path, one that goes to another folder moves
 * to the record there; a record of nothing goes. Folders take their records along by themselves. A record that cannot be read stays as it is.
 */
export function relocateRecords(entries: readonly MovedEntry[]): { writes: PlannedWrite[]; trash: PlannedTrash[] } {
  const files = entries.filter((e) => !e.isFolder && basename(e.from) !== RECORDS);
  const open = new Map<string, Opened>();
  const record = (folder: string): Opened => {
    const known = open.get(folder) ?? openRecord(join(folder, RECORDS));
    open.set(folder, known);
    return known;
  };
  for (const { from, to } of files) {
    const source = record(dirname(from));
    const all = source.value?.resources ?? [];
    const isIts = (r: (typeof all)[number]): boolean => r.path === basename(from);
    if (!all.some(isIts)) continue;
    if (dirname(from) === dirname(to)) source.value!.resources = all.map((r) => (isIts(r) ? renamedResource(r, files, dirname(from)) : r));
    else {
      const target = record(dirname(to));
      if (target.before !== null && target.value === null) continue; // one that we cannot read is not overwritten
      source.value!.resources = all.filter((r) => !isIts(r));
      target.value ??= { ...source.value, resources: [] };
      (target.value.resources ??= []).push(...all.filter(isIts).map((r) => renamedResource(r, files, dirname(from))));
      target.isChanged = true;
    }
    source.isChanged = true;
  }
  const changed = [...open.values()].filter((o) => o.isChanged);
  const isLeft = (o: Opened): boolean => o.before !== null && o.value?.resources?.length === 0;
  return {
    writes: changed
      .filter((o) => !isLeft(o))
      .map((o) => ({ kind: 'write', path: o.path, before: o.before, after: Buffer.from(`${JSON.stringify(o.value, null, 2)}\n`, 'utf8') })),
    trash: changed.filter(isLeft).map((o) => ({ kind: 'trash', path: o.path, hash: sha256(o.before!) })),
  };
}

interface Opened {
  readonly path: string;
  readonly before: Buffer | null;
  value: DataPackage | null;
  isChanged: boolean;
}

function openRecord(path: string): Opened {
  const before = existsSync(path) ? readFileSync(path, null, MOST_NOTE_BYTES) : null;
  return { path, before, value: before && parse(before), isChanged: false };
}

function parse(bytes: Buffer): DataPackage | null {
  try {
    const value = JSON.parse(bytes.toString('utf8')) as unknown;
    const isPackage = typeof value === 'object' && value !== null && Array.isArray((value as DataPackage).resources);
    return isPackage ? (value as DataPackage) : null;
  } catch {
    return null; // told elsewhere as a damaged record; a move leaves it alone
  }
}

function renamedResource(resource: NonNullable<DataPackage['resources']>[number], files: readonly MovedEntry[], folder: string) {
  const now = (name: unknown): unknown =>
    typeof name === 'string' ? basename(files.find((f) => f.from === join(folder, name))?.to ?? name) : name;
  const companions = resource['rootmap:files'];
  const renamed = Array.isArray(companions)
    ? (companions as unknown[]).map((c) => (typeof c === 'object' && c !== null && 'path' in c ? { ...c, path: now(c.path) } : now(c)))
    : companions;
  return { ...resource, path: now(resource.path), ...(companions === undefined ? {} : { 'rootmap:files': renamed }) };
}
