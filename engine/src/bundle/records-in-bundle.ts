import {
  byCodePoint,
  EMPTY_ORIGIN,
  folderOf,
  joined,
  nameOf,
  parseDataPackage,
  withOrigin,
  type DataPackage,
  type Origin,
  type Resource,
} from '@rootmap/core';
import { basename, dirname, join } from '../disk/native-path.js';
import { MOST_NOTE_BYTES, readFileSync } from '../disk/files.js';
import { resourceNamed } from '../folders/origins.js';
import { RECORDS } from '../move/records.js';

/** Data that goes into a bundle from another place, or to another folder there. */
export interface MovedData {
  readonly source: string;
  readonly to: string;
  /** What is written down of it where it is not beside it; empty: nothing. */
  readonly origins: readonly { readonly table: string | null; readonly origin: Origin }[];
  /** It is made of the source, and what stands beside that is told in `origins`. */
  readonly isMade?: true;
  /** Where it came from, in words, for one that comes along; null: it is of the project. */
  readonly cameFrom: string | null;
}

/**
 * The records of origin of a bundle, by path: each beside its data, wherever that stands there. What a record says of data
 * that does not travel stays out. A record that cannot be read is not touched, and goes along where its folder is as it was.
 */
export function recordsInBundle(data: readonly MovedData[]): Map<string, string> {
  const records = new Map<string, { base: DataPackage | null; resources: Resource[] }>();
  const opened = new Map<string, DataPackage | null>();
  const open = (folder: string): DataPackage | null => {
    if (!opened.has(folder)) opened.set(folder, read(join(folder, RECORDS)));
    return opened.get(folder)!;
  };
  for (const { source, to, origins, cameFrom, isMade } of [...data].sort((a, b) => byCodePoint(a.to, b.to))) {
    const beside = isMade ? null : open(dirname(source));
    const own = beside?.resources.filter((r) => r['path'] === basename(source)) ?? [];
    const told: Resource[] =
      own.length > 0 ? own.map((r) => ({ ...r, path: nameOf(to) })) : origins.map(({ table, origin }) => resourceOf(to, table, origin));
    if (cameFrom !== null) {
      if (told.length === 0) told.push(resourceOf(to, null, { ...EMPTY_ORIGIN, isReobtainable: false }));
      told.forEach((r, i) => (told[i] = { ...r, 'rootmap:broughtFrom': cameFrom }));
    }
    if (told.length === 0) continue;
    const at = records.get(folderOf(to)) ?? { base: own.length > 0 ? beside : null, resources: [] };
    at.base ??= own.length > 0 ? beside : null;
    at.resources.push(...told);
    records.set(folderOf(to), at);
  }
  return new Map(
    [...records].map(([folder, { base, resources }]) => [
      joined([...(folder === '' ? [] : [folder]), RECORDS]),
      `${JSON.stringify({ ...base, resources }, null, 2)}\n`,
    ]),
  );
}

const resourceOf = (to: string, table: string | null, origin: Origin): Resource => withOrigin(resourceNamed(nameOf(to), table), origin);

function read(path: string): DataPackage | null {
  try {
    return parseDataPackage(readFileSync(path, null, MOST_NOTE_BYTES).toString('utf8'));
  } catch {
    return null; // there is none, or it cannot be read: nothing is told of it
  }
}
