import { accessSync, constants } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { originOf, parseDataPackage, resourceName, withOrigin, type DataPackage, type Origin, type Resource } from '@rootmap/core';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PlannedWrite } from '../changes/change.js';
import { isMissing } from '../disk/disk-problem.js';
import { RECORDS } from '../move/records.js';
import { pathOf } from '../places/places.js';
import { presentLinks, type RootedScope } from '../project/scope.js';

/** A folder's record as it is on disk. `package` is null where the file is none: it is told, and never written over. */
export interface OpenRecord {
  readonly path: string;
  readonly bytes: Buffer | null;
  readonly package: DataPackage | null;
}

/** Where a project keeps origins of data that stands where nothing may be written: links by name, with their real folders. */
export interface Keeper {
  readonly root: string;
  readonly links: readonly { readonly name: string; readonly folder: string }[];
  /** Folders of places that may not be written to. */
  readonly readOnly: readonly string[];
}

/** A place that may not be written to counts as one where nothing may be. */
export const keeperOf = (scope: RootedScope): Keeper => ({
  root: scope.root,
  links: presentLinks(scope),
  readOnly: scope.places.filter((p) => p.readOnly).map((p) => pathOf(p)),
});

/** Member of the project's own record; each of its items is a resource with the name of a link, and its path below it. */
const LINKED = 'rootmap:linked';

function linkedOf(record: DataPackage | null): Resource[] {
  const list = record?.[LINKED];
  return Array.isArray(list) ? (list as Resource[]) : [];
}

function belowLink(path: string, keeper: Keeper): { link: string; path: string } | null {
  const link = keeper.links.filter((l) => path.startsWith(`${l.folder}/`)).sort((a, b) => b.folder.length - a.folder.length)[0];
  return link ? { link: link.name, path: path.slice(link.folder.length + 1) } : null;
}

/** Origin records by folder, each read once. */
export class Origins {
  private readonly known = new Map<string, OpenRecord>();

  constructor(private readonly keeper: Keeper | null = null) {}

  record(folder: string): OpenRecord {
    let record = this.known.get(folder);
    if (!record) this.known.set(folder, (record = openRecord(join(folder, RECORDS))));
    return record;
  }

  /** The origin of a dataset by the real path of its main file; null: nobody wrote one down. */
  of(path: string): Origin | null {
    const record = this.record(dirname(path)).package;
    const resource = record?.resources.find((r) => r['path'] === basename(path));
    if (record && resource) return originOf(resource, record);
    const at = this.keeper && belowLink(path, this.keeper);
    if (!at) return null;
    const kept = linkedOf(this.record(this.keeper.root).package).find((r) => r['link'] === at.link && r['path'] === at.path);
    return kept ? originOf(kept) : null;
  }
}

function openRecord(path: string): OpenRecord {
  try {
    const bytes = readFileSync(path, null, MOST_NOTE_BYTES);
    return { path, bytes, package: parseDataPackage(bytes.toString('utf8')) };
  } catch (error) {
    if (!isMissing(error)) throw error;
    return { path, bytes: null, package: null };
  }
}

/** A dataset by the real path of its main file, and where it came from. */
export interface Told {
  readonly path: string;
  readonly origin: Origin;
}

/** The same origin for several datasets. */
export const planOrigins = (paths: readonly string[], origin: Origin, keeper: Keeper): { writes: PlannedWrite[]; damaged: string[] } =>
  planOriginsOf(
    [...new Set(paths)].map((path) => ({ path, origin })),
    keeper,
  );

/**
 * New text for the records of datasets. Beside data that stands in a linked folder where nothing may be written, nothing is:
 * the project keeps those. A damaged record stays as it is: it is given back.
 */
export function planOriginsOf(told: readonly Told[], keeper: Keeper): { writes: PlannedWrite[]; damaged: string[] } {
  const origins = new Origins();
  const byFolder = new Map<string, Told[]>();
  const kept: Kept[] = [];
  for (const one of told) {
    const folder = dirname(one.path);
    const isFree = mayWrite(folder) && !keeper.readOnly.some((f) => one.path.startsWith(`${f}/`));
    const at = isFree ? null : belowLink(one.path, keeper);
    if (at) kept.push({ ...at, origin: one.origin });
    else byFolder.set(folder, [...(byFolder.get(folder) ?? []), one]);
  }
  const writes: PlannedWrite[] = [];
  const damaged: string[] = [];
  const write = (folder: string, change: (record: DataPackage) => DataPackage): void => {
    const record = origins.record(folder);
    if (record.bytes && !record.package) {
      damaged.push(record.path);
      return;
    }
    const text = `${JSON.stringify(change(record.package ?? { resources: [] }), null, 2)}\n`;
    writes.push({ kind: 'write', path: record.path, before: record.bytes, after: Buffer.from(text, 'utf8') });
  };
  const here = byFolder.get(keeper.root) ?? [];
  if (kept.length > 0) byFolder.set(keeper.root, here);
  for (const [folder, own] of byFolder)
    write(folder, (record) => {
      const resources = [...record.resources];
      for (const { path, origin } of own) setOrigin(resources, basename(path), origin);
      return folder === keeper.root && kept.length > 0
        ? { ...record, resources, [LINKED]: withKept(linkedOf(record), kept) }
        : { ...record, resources };
    });
  return { writes, damaged };
}

interface Kept {
  readonly link: string;
  readonly path: string;
  readonly origin: Origin;
}

function withKept(list: readonly Resource[], kept: readonly Kept[]): Resource[] {
  const isKept = (r: Resource): boolean => kept.some((k) => k.link === r['link'] && k.path === r['path']);
  const before = new Map(list.filter(isKept).map((r) => [`${String(r['link'])}/${String(r['path'])}`, r]));
  const now = kept.map(({ link, path, origin }) =>
    withOrigin(before.get(`${link}/${path}`) ?? { link, path, name: resourceName(path) }, origin),
  );
  return [...list.filter((r) => !isKept(r)), ...now];
}

function mayWrite(folder: string): boolean {
  try {
    accessSync(folder, constants.W_OK);
    return true;
  } catch {
    return false;
  }
}

function setOrigin(resources: Resource[], name: string, origin: Origin): void {
  const at = resources.findIndex((r) => r['path'] === name);
  const resource = withOrigin(at < 0 ? { name: resourceName(name), path: name } : resources[at]!, origin);
  if (at < 0) resources.push(resource);
  else resources[at] = resource;
}
