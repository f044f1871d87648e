import { readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { originOf, parseDataPackage, resourceName, withOrigin, type DataPackage, type Origin, type Resource } from '@rootmap/core';
import type { PlannedWrite } from '../changes/change.js';
import { isMissing } from '../disk/disk-problem.js';
import { RECORDS } from '../move/records.js';

/** A folder's record as it is on disk. `package` is null where the file is none: it is told, and never written over. */
export interface OpenRecord {
  readonly path: string;
  readonly bytes: Buffer | null;
  readonly package: DataPackage | null;
}

/** Origin records by folder, each read once. */
export class Origins {
  private readonly known = new Map<string, OpenRecord>();

  record(folder: string): OpenRecord {
    let record = this.known.get(folder);
    if (!record) this.known.set(folder, (record = openRecord(join(folder, RECORDS))));
    return record;
  }

  /** The origin of a dataset by the real path of its main file; null: nobody wrote one down. */
  of(path: string): Origin | null {
    const record = this.record(dirname(path)).package;
    const resource = record?.resources.find((r) => r['path'] === basename(path));
    return record && resource ? originOf(resource, record) : null;
  }
}

function openRecord(path: string): OpenRecord {
  try {
    const bytes = readFileSync(path);
    return { path, bytes, package: parseDataPackage(bytes.toString('utf8')) };
  } catch (error) {
    if (!isMissing(error)) throw error;
    return { path, bytes: null, package: null };
  }
}

/** New text for the records of datasets, by the real paths of their main files. A damaged record stays as it is: it is given back. */
export function planOrigins(paths: readonly string[], origin: Origin): { writes: PlannedWrite[]; damaged: string[] } {
  const origins = new Origins();
  const byFolder = new Map<string, string[]>();
  for (const path of new Set(paths)) byFolder.set(dirname(path), [...(byFolder.get(dirname(path)) ?? []), basename(path)]);
  const writes: PlannedWrite[] = [];
  const damaged: string[] = [];
  for (const [folder, names] of byFolder) {
    const record = origins.record(folder);
    if (record.bytes && !record.package) {
      damaged.push(record.path);
      continue;
    }
    const resources = [...(record.package?.resources ?? [])];
    for (const name of names) setOrigin(resources, name, origin);
    const text = `${JSON.stringify({ ...record.package, resources }, null, 2)}\n`;
    writes.push({ kind: 'write', path: record.path, before: record.bytes, after: Buffer.from(text, 'utf8') });
  }
  return { writes, damaged };
}

function setOrigin(resources: Resource[], name: string, origin: Origin): void {
  const at = resources.findIndex((r) => r['path'] === name);
  const resource = withOrigin(at < 0 ? { name: resourceName(name), path: name } : resources[at]!, origin);
  if (at < 0) resources.push(resource);
  else resources[at] = resource;
}
