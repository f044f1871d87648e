import { existsSync } from 'node:fs';
import type Database from 'better-sqlite3';
import {
  arcsLost,
  columnNames,
  extentOf,
  commonKind,
  kindOfShapes,
  kindOfWkb,
  noNumbersLost,
  ProblemError,
  readFeatures,
  type Dataset,
  type Extent,
  type OnProgress,
  type Wanted,
  EVERY_RECORD,
} from '@rootmap/core';
import type { ImportPlanItem, ImportReceipt, ShapePart } from '@rootmap/core/contract';
import { crsKey, keyName } from '../crs/definitions.js';
import { rmSync } from '../disk/files.js';
import { transformer } from '../crs/transformer.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';
import { moved } from '../geopackage-write/records.js';
import { createSchema } from '../geopackage-write/schema.js';
import { createTable, fillTable, registerTable, type Written } from '../geopackage-write/write-features.js';
import { writeRaster } from '../geopackage-write/write-raster.js';
import { northUp } from '../pixels/north-up.js';
import { compositeLosses, compositeOf } from '../pixels/composite.js';
import { oneBand } from '../pixels/one-band.js';
import { openPixels } from '../pixels/open-pixels.js';
import { placedBy } from '../project/placed-by.js';
import { recordSelector } from '../rows/select-records.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { dropTable } from './tables/drop-table.js';
import { copyWhole, openStaged } from './tables/staged-database.js';
import { mustBeAsBefore, stateOf } from './container-state.js';
import { halvesOf, isShared, joinHalves, judgedBy, judgeFor, type HalfHelper, type Judged } from './half-writer.js';
import { compareRaster, ownEyes } from './compare-raster.js';
import type { FailedSource, ImportTry } from './bring-in.js';
import { eyesOfComposite, secondEyes } from './second-eyes.js';
import { sourceFault } from './source-fault.js';
import type { Find } from './plan-import.js';
import { ofPart, partsOf } from './shape-parts.js';
import { ReadBack } from './read-back.js';

export interface ImportOptions {
  /** A second thread that takes half of a large dataset. */
  readonly helper?: HalfHelper | undefined;
  /** Areas that break the rules are built anew from their lines. */
  readonly makesValid?: boolean;
}

/**
 * Writes a geodatabase as it will be into a staged path: a copy of the one that is there, or an empty one, and the new tables,
 * or nothing at all. Every table is read back and compared with what was read. Where a source cannot be read to its end, the others
 * are tried all the same, so that all such are known; what is staged is of no use then, and goes.
 * @param from the geodatabase as it is; it must not change meanwhile
 */
export async function writeImport(
  find: Find,
  items: readonly ImportPlanItem[],
  from: string,
  staged: string,
  onProgress: OnProgress,
  { helper, makesValid = false }: ImportOptions = {},
): Promise<ImportTry> {
  if (items.some((item) => isShared(find(item.dataset)))) helper?.start();
  const isNew = !existsSync(from);
  const before = stateOf(from);
  if (!isNew) copyWhole(from, staged);
  const db = openStaged(staged);
  try {
    db.exec('BEGIN');
    if (isNew) createSchema(db);
    const receipts: ImportReceipt[] = [];
    const failed: FailedSource[] = [];
    for (const item of items) {
      try {
        if (item.replaces) dropTable(db, item.table, STAYS);
        receipts.push(await importOne({ db, staged, onProgress, helper, makesValid }, find(item.dataset), item));
      } catch (error) {
        failed.push({ dataset: item.dataset, part: item.part, why: sourceFault(error) });
        if (!db.inTransaction) db.exec('BEGIN');
      }
    }
    db.exec('COMMIT');
    db.close();
    mustBeAsBefore([before]);
    if (failed.length > 0) rmSync(staged);
    return { receipts, failed };
  } catch (error) {
    db.close();
    rmSync(staged);
    throw error;
  }
}

/** What is said of a table by its name holds for the one that takes its place. */
const STAYS = ['layer_styles', 'gpkg_metadata_reference', 'gpkgext_relations'] as const;

interface Target {
  readonly db: Database.Database;
  /** Its path. */
  readonly staged: string;
  readonly onProgress: OnProgress;
  readonly helper: HalfHelper | undefined;
  readonly makesValid: boolean;
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

/** The second thread begins a moment later; with this share for the first, both end at about the same time. */
const FIRST_SHARE = 0.53;

/** What stays in a CRS without a code keeps the text of it. */
const writtenCrs = (item: ImportPlanItem, { crs }: FoundDataset['dataset']): string | null => item.crs ?? crs?.wkt ?? null;

async function importRecords(
  { db, staged, onProgress, helper, makesValid }: Target,
  found: FoundDataset,
  item: ImportPlanItem,
  platform: NodePlatform,
): Promise<ImportReceipt> {
  const { dataset } = found;
  const own = crsKey(dataset.crs);
  const isMoved = item.crs !== null && own !== null && item.crs !== own;
  const to = isMoved ? transformer(own, item.crs) : null;
  if (isMoved && !to)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${dataset.group.path} cannot be brought in: how ${keyName(own)} becomes ${item.crs} is not known here. Bring it in in its own CRS.`,
    });
  // Neither another CRS nor a valid shape has the same arcs.
  const curves = isMoved || makesValid ? {} : ({ curves: 'kept' } as const);
  const kind = item.kind === 'attributes' ? null : kindOfPart(dataset, platform, item.part, curves);
  // What is built anew may fall into several areas.
  const geometryType = makesValid && kind !== null ? kind.replace(/^Polygon/, 'MultiPolygon') : kind;
  const judging = kind !== null && !/Point/.test(kind) ? makesValid : null;
  const judge = await judgeFor(judging);
  const selector = recordSelector(found, item.selection ?? EVERY_RECORD);
  const halves = helper && item.part === null ? halvesOf(found, FIRST_SHARE) : null;
  const range = halves === null ? {} : { range: halves[0] };
  const wanted = selector.wanted({ geometry: geometryType !== null, values: true, ...curves, ...range });
  const { fields, features, straightened } = selector.of(readFeatures(dataset, platform, wanted));
  const columns = columnNames(fields);
  const spec = { name: item.table, fields: columns, crs: writtenCrs(item, dataset), geometryType };
  const srs = createTable(db, spec);
  const other =
    halves === null
      ? null
      : helper!.write({
          found,
          range: halves[1],
          columns,
          geometryType,
          srs,
          to: isMoved ? item.crs : null,
          ...(item.selection ? { selection: item.selection } : {}),
          makesValid: judging,
          isChecked: true,
        });
  other?.catch(() => undefined); // told where it is waited for
  const wantedOnes = item.part === null ? features : ofPart(features, item.part, isFirstPart(dataset, platform, item.part));
  const inPlace = to ? moved(wantedOnes, to) : wantedOnes;
  const readBack = new ReadBack(columns, geometryType !== null);
  const first = fillTable(
    db,
    spec,
    srs,
    judge ? judge.judge(inPlace) : inPlace,
    (done) =>
      onProgress({
        done: halves === null ? done : Math.round(done / FIRST_SHARE),
        of: dataset.featureCount ?? 0,
        unit: 'records',
        item: item.table,
      }),
    (row, from, shape) => readBack.add(row, from, shape),
  );
  if (other === null) {
    const written = registerTable(db, spec, srs, first);
    const receipt = receiptOf(item, dataset, written, judgedBy(judge), isMoved, readBack.isEqualTo(db, item.table, 1, first.written));
    return { ...receipt, losses: [...receipt.losses, ...arcsLost(straightened?.() ?? 0)] };
  }
  db.exec('COMMIT'); // nobody knows of the staged file yet: only the other thread has to see what is in it
  const second = await other; // the first half is read to its end by now
  const filled = joinHalves(db, item.table, first, second);
  const check = helper!.check({ path: staged, table: item.table, first: first.written + 1, last: filled.written });
  check.catch(() => undefined);
  const isFirstEqual = readBack.isEqualTo(db, item.table, 1, first.written);
  const isEqual = (await check) && isFirstEqual;
  db.exec('BEGIN');
  const written = registerTable(db, spec, srs, filled);
  return receiptOf(item, dataset, written, judgedTogether(judgedBy(judge), second.judged, first.read), isMoved, isEqual);
}

/** What two halves of records were judged as. @param read records of the first one */
const judgedTogether = (mine: Judged, theirs: Judged, read: number): Judged => ({
  invalid: mine.invalid + theirs.invalid,
  fixed: mine.fixed + theirs.fixed,
  first: [...mine.first, ...theirs.first.map((f) => ({ ...f, record: f.record + read }))],
});

function receiptOf(
  { dataset: id, part, table, kind, losses, selection }: ImportPlanItem,
  { bbox }: Dataset,
  { noNumbers, ...written }: Written,
  { invalid, fixed, first }: Judged,
  isMoved: boolean,
  isEqual: boolean,
): ImportReceipt {
  const isComparable = bbox !== null && part === null && !selection && !isMoved && fixed === 0 && written.skipped.length === 0;
  const isExtentEqual = isComparable && written.extent !== null ? isSameExtent(bbox, written.extent) : null;
  const unit = kind === 'raster' ? 'pixels' : 'records';
  return {
    dataset: id,
    part,
    table,
    unit,
    ...written,
    isExtentEqual,
    invalid,
    fixed,
    firstInvalid: first.slice(0, MOST_TOLD),
    isEqual,
    compared: null,
    losses: kind === 'raster' ? losses : noNumbersLost(noNumbers),
  };
}

const MOST_TOLD = 20;

/** But for the last digits, which headers round. */
const isSameExtent = (a: Extent, b: Extent): boolean =>
  a.every((side, i) => Math.abs(side - b[i]!) <= 1e-9 * Math.max(1, Math.abs(side), Math.abs(b[i]!)));

function kindOfPart(dataset: Dataset, platform: NodePlatform, part: ShapePart | null, curves: Pick<Wanted, 'curves'>): string {
  if (part === null) return kindOfShapes(dataset, platform, curves) ?? 'Geometry';
  const { features } = readFeatures(dataset, platform, { geometry: true, values: false, ...curves });
  const kinds = new Set<string>();
  for (const { geometry } of ofPart(features, part, false)) if (geometry) kinds.add(kindOfWkb(geometry) ?? 'Geometry');
  return commonKind(kinds) ?? 'Geometry';
}

const isFirstPart = (dataset: Dataset, platform: NodePlatform, part: ShapePart): boolean => partsOf(dataset, platform)[0] === part;

/** Tiles of the finest zoom are read back and compared with the pixels that they came from. */
async function importRaster(
  db: Database.Database,
  found: FoundDataset,
  item: ImportPlanItem,
  platform: NodePlatform,
  onProgress: OnProgress,
): Promise<ImportReceipt> {
  const { group, table, bbox, raster } = found.dataset;
  const transform = placedBy(found, platform);
  const isFlipped = transform !== null && transform[5] > 0;
  const opened = await openPixels(found.folder, group, table, platform);
  const composite = opened && item.composite ? await compositeOf(opened, item.composite) : null;
  const read = composite?.pixels ?? (opened && item.band !== null ? oneBand(opened, item.band - 1) : opened);
  const pixels = read && isFlipped ? northUp(read) : read;
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
    const tiles = group.format === 'geopackage' ? transform : null;
    const extent = tiles ? extentOf(tiles, pixels.width, pixels.height) : bbox;
    const written = await writeRaster(
      db,
      { name: item.table, crs: writtenCrs(item, found.dataset), extent, content: bbox },
      pixels,
      (done) => onProgress({ done, of: 0, unit: 'tiles', item: item.table }),
    );
    if (pixels.damaged)
      throw new ProblemError({
        code: 'failed',
        what: `Bringing ${group.path} in`,
        why: `${pixels.damaged} ${pixels.damaged === 1 ? 'block of its pixels is' : 'blocks of its pixels are'} damaged. Copy it again from where it came from`,
      });
    const others =
      item.composite && composite
        ? await eyesOfComposite(found, platform, item.composite, composite.levels)
        : await secondEyes(found, platform, item.band);
    const { isEqual, rounded, ...compared } = others
      ? await compareRaster(db, item.table, written, others, isFlipped)
      : await compareRaster(db, item.table, written, ownEyes(pixels), false);
    const count = raster.width * raster.height;
    const counts = { read: count, written: count, skipped: [], nulls: 0, noNumbers: 0, extent: bbox };
    const receipt = receiptOf(item, found.dataset, counts, { invalid: 0, fixed: 0, first: [] }, false, isEqual);
    const told =
      item.composite && composite
        ? compositeLosses(opened!.bands, item.composite, opened!.isBytes ?? false, composite.levels)
        : item.losses;
    const known = told.filter((l) => l.code !== 'digits' || group.format !== 'geotiff' || composite !== null); // of those, the ones that were rounded are counted
    return {
      ...receipt,
      compared: { ...compared, of: count, isByOthers: others !== null },
      losses: [
        ...known,
        ...(rounded > 0
          ? [
              {
                code: 'rounded' as const,
                what: rounded === 1 ? 'number that is rounded to 32 bits' : 'numbers that are rounded to 32 bits',
                count: rounded,
              },
            ]
          : []),
      ],
    };
  } finally {
    pixels.close();
  }
}
