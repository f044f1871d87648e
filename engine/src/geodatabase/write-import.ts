import { existsSync, rmSync, statSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { columnNames, ProblemError, readFeatures, type Field } from '@rootmap/core';
import type { ImportPlanItem, ImportReceipt } from '@rootmap/core/contract';
import { transformer } from '../crs/transformer.js';
import { platformBelow, type NodePlatform } from '../disk/platform.js';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { kindOf, moved } from '../geopackage/write/records.js';
import { createSchema } from '../geopackage/write/schema.js';
import { writeTable } from '../geopackage/write/write-features.js';
import { writeRaster } from '../geopackage/write/write-raster.js';
import { openPixels } from '../preview/pixels/open-pixels.js';
import type { FoundDataset } from '../survey/find-dataset.js';
import { copyWhole, openStaged } from './tables/staged-database.js';
import { isSamePicture } from './compare-raster.js';
import type { Find } from './plan-import.js';
import { ValueSum } from './value-sum.js';

/**
 * Writes a geodatabase as it will be into a staged path: a copy of the one that is there, or an empty one, and the new tables,
 * in one transaction. Every table is read back and compared with what was read.
 * @param from the geodatabase as it is; it must not change meanwhile
 */
export async function writeImport(
  find: Find,
  items: readonly ImportPlanItem[],
  from: string,
  staged: string,
  onProgress: (item: string, done: number) => void,
): Promise<ImportReceipt[]> {
  const before = existsSync(from) ? statSync(from) : null;
  if (before) copyWhole(from, staged);
  const db = openStaged(staged);
  try {
    db.exec('BEGIN');
    if (!before) createSchema(db);
    const receipts: ImportReceipt[] = [];
    for (const item of items) receipts.push(await importOne(db, find(item.dataset), item, onProgress));
    db.exec('COMMIT');
    db.close();
    const after = before && statSync(from);
    if (after && (after.size !== before.size || after.mtimeMs !== before.mtimeMs))
      throw new ProblemError({ code: 'changed-meanwhile', path: from });
    return receipts;
  } catch (error) {
    db.close();
    rmSync(staged, { force: true });
    throw error;
  }
}

async function importOne(
  db: Database.Database,
  found: FoundDataset,
  item: ImportPlanItem,
  onProgress: (item: string, done: number) => void,
): Promise<ImportReceipt> {
  const platform = platformBelow(found.folder);
  try {
    return item.kind === 'raster'
      ? await importRaster(db, found, item, platform, onProgress)
      : importRecords(db, found, item, platform, onProgress);
  } finally {
    platform.close();
  }
}

function importRecords(
  db: Database.Database,
  { dataset }: FoundDataset,
  item: ImportPlanItem,
  platform: NodePlatform,
  onProgress: (item: string, done: number) => void,
): ImportReceipt {
  const { fields, features } = readFeatures(dataset, platform);
  const columns = columnNames(fields);
  const own = dataset.crs?.code ?? null;
  const isMoved = item.crs !== null && own !== null && item.crs !== own;
  const to = isMoved ? transformer(own, item.crs) : null;
  if (isMoved && !to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.group.path} cannot be brought in: how ${own} becomes ${item.crs} is not known here. Bring it in in its own CRS.`,
    });
  const geometryType =
    item.kind === 'attributes' ? null : kindOf(readFeatures(dataset, platform, { geometry: true, values: false }).features);
  const sum = new ValueSum(columns);
  const written = writeTable(
    db,
    { name: item.table, fields: columns, crs: item.crs, geometryType },
    to ? moved(features, to) : features,
    (done) => onProgress(item.table, done),
    (values) => sum.addRead(values),
  );
  const isEqual = sum.digest() === readBack(db, item.table, columns);
  return { dataset: item.dataset, table: item.table, ...written, isEqual };
}

/** Tiles of the finest zoom are read back and compared with the pixels that they came from. */
async function importRaster(
  db: Database.Database,
  found: FoundDataset,
  item: ImportPlanItem,
  platform: NodePlatform,
  onProgress: (item: string, done: number) => void,
): Promise<ImportReceipt> {
  const { group, table, bbox, raster } = found.dataset;
  const pixels = await openPixels(found.folder, group, table, platform);
  if (!pixels || !bbox || !raster)
    throw new ProblemError({
      code: 'failed',
      what: `Bringing ${group.path} in`,
      why: 'its pixels are packed in a way that is not read here',
    });
  try {
    const written = await writeRaster(db, { name: item.table, crs: item.crs, extent: bbox }, pixels, (tiles) =>
      onProgress(item.table, tiles),
    );
    const isEqual = await isSamePicture(db, item.table, written, pixels);
    const count = raster.width * raster.height;
    return { dataset: item.dataset, table: item.table, read: count, written: count, skipped: [], nulls: 0, extent: bbox, isEqual };
  } finally {
    pixels.close();
  }
}

function readBack(db: Database.Database, table: string, columns: readonly Field[]): string {
  const sum = new ValueSum(columns);
  const names = columns.map((c) => quoteName(c.name));
  const rows = db.prepare(`SELECT ${['fid', ...names].join(', ')} FROM ${quoteName(table)} ORDER BY fid`).raw(true);
  for (const row of rows.iterate() as IterableIterator<unknown[]>) for (let i = 1; i < row.length; i++) sum.add(row[i]);
  return sum.digest();
}
