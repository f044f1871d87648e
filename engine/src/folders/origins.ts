import { accessSync, constants } from 'node:fs';
import {
  codesOf,
  EMPTY_ORIGIN,
  originOf,
  parseDataPackage,
  resourceName,
  withOrigin,
  type DataPackage,
  type Origin,
  type Resource,
} from '@rootmap/core';
import { basename, dirname, join, isBelow, pathFrom } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import type { PlannedWrite } from '../changes/change.js';
import { isMissing } from '../disk/disk-problem.js';
import { RECORDS } from '../move/records.js';
import { pathOf } from '../places/places.js';
import type { DataAt } from '../project/find-dataset.js';
import { isRooted, presentLinks, type RootedScope, type Scope } from '../project/scope.js';

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

/** That of a project; where there is none, records stand beside the data in any case. */
export const keeperAt = (scope: Scope, folder: string): Keeper =>
  isRooted(scope) ? keeperOf(scope) : { root: folder, links: [], readOnly: [] };

/** A place that may not be written to counts as one where nothing may be. */
export const keeperOf = (scope: RootedScope): Keeper => ({
  root: scope.root,
  links: presentLinks(scope),
  readOnly: scope.places.filter((p) => p.readOnly).map((p) => pathOf(p)),
});

/** Member of a resource that is one table of a geodatabase: the name of the table. */
const TABLE = 'rootmap:table';
const tableOf = (resource: Resource): string | null => (typeof resource[TABLE] === 'string' ? resource[TABLE] : null);

/** Member of the project's own record; each of its items is a resource with the name of a link, and its path below it. */
const LINKED = 'rootmap:linked';

function linkedOf(record: DataPackage | null): Resource[] {
  const list = record?.[LINKED];
  return Array.isArray(list) ? (list as Resource[]) : [];
}

function belowLink(path: string, keeper: Keeper): { link: string; path: string } | null {
  const link = keeper.links.filter((l) => isBelow(l.folder, path)).sort((a, b) => b.folder.length - a.folder.length)[0];
  return link ? { link: link.name, path: pathFrom(link.folder, path) } : null;
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

  /**
   * The origin of a dataset by the real path of its main file and its table; null: nobody wrote one down. A table without one
   * of its own has that of its geodatabase; who names no table means the only one.
   */
  of(path: string, table: string | null = null): Origin | null {
    const all = this.allOf(path);
    const own =
      all.find((o) => o.table === table) ?? all.find((o) => o.table === null) ?? (table === null && all.length === 1 ? all[0] : null);
    return own?.origin ?? null;
  }

  /** The origins of a file and of its tables, as far as somebody wrote them down. */
  allOf(path: string): { readonly table: string | null; readonly origin: Origin }[] {
    const { resources, of } = this.resourcesOf(path);
    return resources.map((r) => ({ table: tableOf(r), origin: originOf(r, of) }));
  }

  /** Codes that are expected in the fields of a dataset, by field. */
  codesOf(path: string, table: string | null): ReadonlyMap<string, readonly string[]> {
    const own = this.resourcesOf(path).resources.find((r) => tableOf(r) === table);
    return own ? codesOf(own) : new Map();
  }

  /** What is written down of a file and its tables, and the record that it stands in. */
  private resourcesOf(path: string): { readonly resources: readonly Resource[]; readonly of: Partial<DataPackage> } {
    const record = this.record(dirname(path)).package;
    const beside = record?.resources.filter((r) => r['path'] === basename(path)) ?? [];
    if (record && beside.length > 0) return { resources: beside, of: record };
    const at = this.keeper && belowLink(path, this.keeper);
    if (!at) return { resources: [], of: {} };
    const linked = linkedOf(this.record(this.keeper.root).package).filter((r) => r['link'] === at.link && r['path'] === at.path);
    return { resources: linked, of: {} };
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

/** A dataset, and where it came from; null: what was written down of it goes. */
export interface Told extends DataAt {
  readonly origin: Origin | null;
}
/** A dataset, and how what is written down of it becomes something else; null: it goes. */
export interface Written extends DataAt {
  readonly change: ((before: Resource) => Resource) | null;
}
/** `damaged`: records that are none, and were left as they are. */
interface OriginWrites {
  readonly writes: PlannedWrite[];
  readonly damaged: string[];
}

/** The same origin for several datasets. */
export const planOrigins = (data: readonly DataAt[], origin: Origin, keeper: Keeper): OriginWrites =>
  planOriginsOf([...new Map(data.map((d) => [`${d.path}#${d.table ?? ''}`, { ...d, origin }])).values()], keeper);

/** Data that is made of other data. */
export interface Made {
  readonly from: DataAt;
  readonly to: DataAt;
  /** What was taken of it, where it is not all: that is written down also where nothing else is known. */
  readonly how?: string;
}

/**
 * What was written down of data goes along to what is made of it: publisher, licence, attribution and all; what is made anew
 * cannot be fetched again, and says what it was made of.
 */
export function originsAlong(made: readonly Made[], keeper: Keeper): OriginWrites {
  const origins = new Origins(keeper);
  return planOriginsOf(
    made.flatMap(({ from, to, how }): Told[] => {
      const origin = origins.of(from.path, from.table) ?? (how === undefined ? null : EMPTY_ORIGIN);
      if (!origin) return [];
      const table = from.table === null ? '' : `, table ${from.table}`;
      const notes = [origin.notes, `Made from ${basename(from.path)}${table}${how === undefined ? '' : `: ${how}`}.`];
      return [{ ...to, origin: { ...origin, isReobtainable: false, notes: notes.filter(Boolean).join('\n') } }];
    }),
    keeper,
  );
}

/** Copies, byte for byte: all that was written down of a file holds for the copy. */
export function originsCopied(copies: readonly { readonly from: string; readonly to: string }[], keeper: Keeper): OriginWrites {
  const origins = new Origins(keeper);
  return planOriginsOf(
    copies.flatMap(({ from, to }) => origins.allOf(from).map(({ table, origin }) => ({ path: to, table, origin }))),
    keeper,
  );
}

export const planOriginsOf = (told: readonly Told[], keeper: Keeper): OriginWrites =>
  planRecords(
    told.map(({ path, table, origin }) => ({ path, table, change: origin && ((before) => withOrigin(before, origin)) })),
    keeper,
  );

/**
 * New text for the records of datasets. Beside data that stands in a linked folder where nothing may be written, nothing is:
 * the project keeps those. A damaged record stays as it is: it is given back.
 */
export function planRecords(told: readonly Written[], keeper: Keeper): OriginWrites {
  const origins = new Origins();
  const byFolder = new Map<string, Written[]>();
  const kept: Kept[] = [];
  for (const one of told) {
    const folder = dirname(one.path);
    const isFree = mayWrite(folder) && !keeper.readOnly.some((f) => isBelow(f, one.path));
    const at = isFree ? null : belowLink(one.path, keeper);
    if (at) kept.push({ ...at, table: one.table, change: one.change });
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
      for (const one of own) setResource(resources, one);
      return folder === keeper.root && kept.length > 0
        ? { ...record, resources, [LINKED]: withKept(linkedOf(record), kept) }
        : { ...record, resources };
    });
  return { writes, damaged };
}

interface Kept {
  readonly link: string;
  readonly path: string;
  readonly table: string | null;
  readonly change: Written['change'];
}

function withKept(list: readonly Resource[], kept: readonly Kept[]): Resource[] {
  const all = [...list];
  for (const { link, path, table, change } of kept)
    put(
      all,
      (r) => r['link'] === link && r['path'] === path && tableOf(r) === table,
      change && ((before) => change(before ?? { link, ...resourceNamed(path, table) })),
    );
  return all;
}

/** One that is there is changed in its place; null takes it out. */
function put(all: Resource[], isIt: (r: Resource) => boolean, now: ((before: Resource | undefined) => Resource) | null): void {
  const at = all.findIndex(isIt);
  if (now === null) all.splice(at, at < 0 ? 0 : 1);
  else all.splice(at < 0 ? all.length : at, at < 0 ? 0 : 1, now(all[at]));
}

/** Of several tables of one file each has a name of its own, as the standard wants it. */
export const resourceNamed = (path: string, table: string | null): Resource => ({
  name: resourceName(path) + (table === null ? '' : `-${resourceName(`${table}.x`)}`),
  path,
  ...(table === null ? {} : { [TABLE]: table }),
});

function mayWrite(folder: string): boolean {
  try {
    accessSync(folder, constants.W_OK);
    return true;
  } catch {
    return false;
  }
}

function setResource(resources: Resource[], { path, table, change }: Written): void {
  const name = basename(path);
  put(resources, (r) => r['path'] === name && tableOf(r) === table, change && ((before) => change(before ?? resourceNamed(name, table))));
}
