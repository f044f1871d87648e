import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { columnNames, ProblemError, readFeatures, type Feature, type Field } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { readFileSync, renameSync, writeFileSync } from '../disk/files.js';
import { platformBelow } from '../survey/platform.js';
import { needsCopy, openGeopackage } from '../geopackage/open-geopackage.js';
import { columnsOf } from '../geopackage/describe-geopackage.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { writeTable } from '../geopackage-write/write-features.js';
import type { FoundDataset } from '../project/find-dataset.js';

/** Where the records of a dataset can be asked for by SQL. */
export interface RowTable {
  readonly db: Database.Database;
  readonly table: string;
  readonly key: string;
  /** By the names that the table has. */
  readonly fields: readonly Field[];
  /** Id of the record that a row is of. */
  idOf(key: number): number;
  /** Key of the row of a record; null: there is none. */
  keyOf(id: number): number | null;
  close(): void;
}

const STORE = 'records.gpkg';
/** Ids of the records in the order of their rows; missing where they are 0, 1, 2 … */
const IDS = 'records.ids';
const TABLE = 'records';

/**
 * A table of a geodatabase is read where it is. Of every other format the values go once into a table below the cache, which lasts until
 * a file of the dataset changes.
 * @param folder of this state of the dataset, below the cache
 */
export function openRowTable(found: FoundDataset, folder: string, onProgress: (done: number) => void): RowTable {
  const { dataset } = found;
  if (dataset.state === 'unreadable') throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} cannot be read.` });
  if (dataset.kind !== 'vector' && dataset.kind !== 'table')
    throw new ProblemError({ code: 'wrong-use', message: `${dataset.group.path} is a raster: it has pixels, and no records.` });
  return openInPlace(found) ?? openStore(found, folder, onProgress);
}

function openInPlace({ folder, dataset }: FoundDataset): RowTable | null {
  const path = join(folder, dataset.group.path);
  if (dataset.group.format !== 'geopackage' || dataset.table === null || needsCopy(path)) return null;
  const opened = openGeopackage(path);
  const { db } = opened;
  const close = (): void => opened.close();
  const keys = columnsOf(db, dataset.table).filter((c) => c.pk > 0n && c.type.toUpperCase() === 'INTEGER');
  if (keys.length === 1) return { db, table: dataset.table, key: keys[0]!.name, fields: dataset.fields ?? [], ...SAME, close };
  close();
  return null;
}

const SAME: Pick<RowTable, 'idOf' | 'keyOf'> = { idOf: (key) => key, keyOf: (id) => id };

function openStore({ folder, dataset }: FoundDataset, store: string, onProgress: (done: number) => void): RowTable {
  const path = join(store, STORE);
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(dataset, platform, { geometry: false, values: true });
    const columns = columnNames(fields);
    if (!existsSync(path)) {
      const ids: number[] = [];
      newGeopackage(`${path}.new`, (db) =>
        writeTable(db, { name: TABLE, fields: columns, crs: null, geometryType: null }, noted(features, ids), onProgress),
      );
      if (ids.some((id, n) => id !== n)) writeFileSync(join(store, IDS), new Uint8Array(Float64Array.from(ids).buffer));
      renameSync(`${path}.new`, path);
    }
    const opened = openGeopackage(path);
    return { db: opened.db, table: TABLE, key: 'fid', fields: columns, ...idsOf(join(store, IDS)), close: () => opened.close() };
  } finally {
    platform.close();
  }
}

function* noted(features: Iterable<Feature>, ids: number[]): Generator<Feature> {
  for (const feature of features) {
    ids.push(feature.id);
    yield feature;
  }
}

/** Rows have the keys 1, 2, 3 … in the order of the records. */
function idsOf(path: string): Pick<RowTable, 'idOf' | 'keyOf'> {
  if (!existsSync(path)) return { idOf: (key) => key - 1, keyOf: (id) => id + 1 };
  const ids = new Float64Array(Uint8Array.from(readFileSync(path)).buffer);
  return {
    idOf: (key) => ids[key - 1] ?? NaN,
    keyOf: (id) => {
      const at = ids.indexOf(id);
      return at < 0 ? null : at + 1;
    },
  };
}
