import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { columnNames, ProblemError, readFeatures, type Field } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { renameSync } from '../disk/files.js';
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
  close(): void;
}

const STORE = 'rows.gpkg';
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
  if (keys.length === 1) return { db, table: dataset.table, key: keys[0]!.name, fields: dataset.fields ?? [], close };
  close();
  return null;
}

function openStore({ folder, dataset }: FoundDataset, store: string, onProgress: (done: number) => void): RowTable {
  const path = join(store, STORE);
  const platform = platformBelow(folder);
  try {
    const { fields, features } = readFeatures(dataset, platform, { geometry: false, values: true });
    const columns = columnNames(fields);
    if (!existsSync(path)) {
      newGeopackage(`${path}.new`, (db) =>
        writeTable(db, { name: TABLE, fields: columns, crs: null, geometryType: null }, features, onProgress),
      );
      renameSync(`${path}.new`, path);
    }
    const opened = openGeopackage(path);
    return { db: opened.db, table: TABLE, key: 'fid', fields: columns, close: () => opened.close() };
  } finally {
    platform.close();
  }
}
