import { existsSync, rmSync, statSync } from 'node:fs';
import type Database from 'better-sqlite3';
import { columnNames, ProblemError, kindOfShapes, readFeatures, takesRange } from '@rootmap/core';
import type { ImportPlanItem, ImportReceipt } from '@rootmap/core/contract';
import { transformer } from '../crs/transformer.js';
import { platformBelow, type NodePlatform } from '../disk/platform.js';
import { moved } from '../geopackage/write/records.js';
import { createSchema } from '../geopackage/write/schema.js';
import { createTable, fillTable, registerTable } from '../geopackage/write/write-features.js';
import { writeRaster } from '../geopackage/write/write-raster.js';
import { openPixels } from '../preview/pixels/open-pixels.js';
import type { FoundDataset } from '../survey/find-dataset.js';
import { copyWhole, openStaged } from './tables/staged-database.js';
import { joinHalves, type ImportHelper } from './import-half.js';
import { isSamePicture } from './compare-raster.js';
import type { Find } from './plan-import.js';
import { ReadBack } from './read-back.js';

/**
 * Writes a geodatabase as it will be into a staged path: a copy of the one that is there, or an empty one, and the new tables,
 * or nothing at all. Every table is read back and compared with what was read.
 * @param from the geodatabase as it is; it must not change meanwhile
 * @param helper a second thread that takes half of a large dataset
 */
export async function writeImport(
  find: Find,
  items: readonly ImportPlanItem[],
  from: string,
  staged: string,
  onProgress: (item: string, done: number) => void,
  helper?: ImportHelper,
): Promise<ImportReceipt[]> {
  if (items.some((item) => isShared(find(item.dataset)))) helper?.start();
  const before = existsSync(from) ? statSync(from) : null;
  if (before) copyWhole(from, staged);
  const db = openStaged(staged);
  try {
    db.exec('BEGIN');
    if (!before) createSchema(db);
    const receipts: ImportReceipt[] = [];
    for (const item of items) receipts.push(await importOne({ db, staged, onProgress, helper }, find(item.dataset), item));
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

interface Target {
  readonly db: Database.Database;
  /** Its path. */
  readonly staged: string;
  readonly onProgress: (item: string, done: number) => void;
  readonly helper: ImportHelper | undefined;
}

async function importOne(target: Target, found: FoundDataset, item: ImportPlanItem): Promise<ImportReceipt> {
  const platform = platformBelow(found.folder);
  try {
    return item.kind === 'raster'
      ? await importRaster(target.db, found, item, platform, target.onProgress)
      : await importRecords(target, found, item, platform);
  } finally {
    platform.close();
  }
}

/** Fewer records than these are written before a second thread is ready. */
const WORTH_SHARING = 50_000;
const isShared = ({ dataset }: FoundDataset): boolean => takesRange(dataset) && (dataset.featureCount ?? 0) >= WORTH_SHARING;

async function importRecords(
  { db, staged, onProgress, helper }: Target,
  found: FoundDataset,
  item: ImportPlanItem,
  platform: NodePlatform,
): Promise<ImportReceipt> {
  const { dataset } = found;
  const own = dataset.crs?.code ?? null;
  const isMoved = item.crs !== null && own !== null && item.crs !== own;
  const to = isMoved ? transformer(own, item.crs) : null;
  if (isMoved && !to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.group.path} cannot be brought in: how ${own} becomes ${item.crs} is not known here. Bring it in in its own CRS.`,
    });
  const geometryType = item.kind === 'attributes' ? null : (kindOfShapes(dataset, platform) ?? 'Geometry');
  const half = helper && isShared(found) ? Math.ceil(dataset.featureCount! / 2) : null;
  const wanted = { geometry: geometryType !== null, values: true, ...(half === null ? {} : { range: { from: 0, to: half } }) };
  const { fields, features } = readFeatures(dataset, platform, wanted);
  const columns = columnNames(fields);
  const spec = { name: item.table, fields: columns, crs: item.crs, geometryType };
  const srs = createTable(db, spec);
  const other =
    half === null
      ? null
      : helper!.write({ found, range: { from: half, to: Infinity }, columns, geometryType, srs, to: isMoved ? item.crs : null });
  other?.catch(() => undefined); // told where it is waited for
  const readBack = new ReadBack(columns);
  const first = fillTable(
    db,
    spec,
    srs,
    to ? moved(features, to) : features,
    (done) => onProgress(item.table, half === null ? done : done * 2),
    (row, from) => readBack.add(row, from),
  );
  if (other === null) {
    const written = registerTable(db, spec, srs, first);
    return { dataset: item.dataset, table: item.table, ...written, isEqual: readBack.isEqualTo(db, item.table, 1, first.written) };
  }
  db.exec('COMMIT'); // nobody knows of the staged file yet: only the other thread has to see what is in it
  const filled = joinHalves(db, item.table, first, await other);
  const check = helper!.check({ path: staged, table: item.table, first: first.written + 1, last: filled.written });
  check.catch(() => undefined);
  const isFirstEqual = readBack.isEqualTo(db, item.table, 1, first.written);
  const isEqual = (await check) && isFirstEqual;
  db.exec('BEGIN');
  const written = registerTable(db, spec, srs, filled);
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
    if (pixels.isReduced)
      throw new ProblemError({
        code: 'failed',
        what: `Bringing ${group.path} in`,
        why: 'it is too large to be read whole. Turn it into a GeoTIFF first, which is read in parts',
      });
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
