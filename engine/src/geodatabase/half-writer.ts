import type Database from 'better-sqlite3';
import { readFeatures, takesRange, type Extent, type Field, type Wanted, EVERY_RECORD } from '@rootmap/core';
import type { Selection } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { crsKey } from '../crs/definitions.js';
import { rmSync } from '../disk/files.js';
import { newScratch } from '../disk/scratch.js';
import { transformer } from '../crs/transformer.js';
import { platformBelow } from '../survey/platform.js';
import { makeRtree, type RowBoxes } from '../geopackage-write/packed-rtree.js';
import { moved } from '../geopackage-write/records.js';
import { createTable, fillTable, type Filled } from '../geopackage-write/write-features.js';
import { openGeopackage } from '../geopackage/open-geopackage.js';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { idAtShare } from '../geopackage/geopackage-features.js';
import { recordSelector } from '../rows/select-records.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { ReadBack } from './read-back.js';
import type { ShapeJudge } from './valid-shapes.js';
import { openStaged } from './tables/staged-database.js';

type Range = NonNullable<Wanted['range']>;

/** The second half of a large dataset, which another thread reads and writes into a database of its own. */
export interface HalfOrder {
  readonly found: FoundDataset;
  readonly range: Range;
  readonly columns: readonly Field[];
  readonly geometryType: string | null;
  readonly srs: number;
  /** The CRS that shapes are computed in; null: they stay as they are. */
  readonly to: string | null;
  /** Left out: every record of the range. */
  readonly selection?: Selection;
  /** Null: shapes are not looked at. */
  readonly makesValid: boolean | null;
  /** `check` will be asked for. */
  readonly isChecked: boolean;
}
export interface HalfWritten extends Omit<Filled, 'boxes'> {
  /** The database with one table, `half`. */
  readonly path: string;
  readonly boxes: RowBoxes;
  readonly extent: Extent | null;
  readonly judged: Judged;
}

/** Shapes that break the rules, of those that went by. */
export interface Judged {
  readonly invalid: number;
  readonly fixed: number;
  readonly first: readonly { readonly record: number; readonly why: string }[];
}
export interface HalfCheck {
  readonly path: string;
  readonly table: string;
  readonly first: number;
  readonly last: number;
}

/** What a second thread does where many records are written. Both calls work while the first thread does its own half. */
export interface HalfHelper {
  /** There will be work for it: it gets ready while the first thread does what comes before. */
  start(): void;
  write(order: HalfOrder): Promise<HalfWritten>;
  /** Makes the R-tree of all rows, while the first thread joins them. @returns the database that it is in, as `takeRtree` takes it */
  index(rows: RowBoxes): Promise<string>;
  /** Whether the rows of the finished table are what was read for the last `write`. */
  check(order: HalfCheck): Promise<boolean>;
}

const TABLE = 'half';

/** Fewer records than these are written before a second thread is ready. */
const WORTH_SHARING = 50_000;
export const isShared = ({ dataset }: FoundDataset): boolean => takesRange(dataset) && (dataset.featureCount ?? 0) >= WORTH_SHARING;

/** Ids of the records that either thread takes; null: they are not shared. @param share what the first thread takes, from 0 to 1 */
export function halvesOf(found: FoundDataset, share: number): readonly [Range, Range] | null {
  const { group, table, featureCount } = found.dataset;
  if (!isShared(found)) return null;
  const isTable = group.format === 'geopackage';
  const middle = isTable ? idAtShare(join(found.folder, group.path), table!, share) : Math.ceil(featureCount! * share);
  if (middle === null) return null;
  return [
    { from: isTable ? -Infinity : 0, to: middle },
    { from: middle, to: Infinity },
  ];
}

/** What judges shapes is loaded when there is something to judge. Null: nothing is judged. */
export async function judgeFor(makesValid: boolean | null): Promise<ShapeJudge | null> {
  if (makesValid === null) return null;
  const { ShapeJudge: Judge } = await import('./valid-shapes.js');
  return new Judge(makesValid);
}
export const judgedBy = (judge: ShapeJudge | null): Judged =>
  judge ? { invalid: judge.invalid, fixed: judge.fixed, first: judge.first } : { invalid: 0, fixed: 0, first: [] };

/** The work itself, in whichever thread. */
export class HalfWriter {
  private folder: string | null = null;
  private readBack: ReadBack | null = null;

  async write({ found, range, columns, geometryType, srs, to, selection, makesValid, isChecked }: HalfOrder): Promise<HalfWritten> {
    this.close();
    this.folder = newScratch('half');
    const path = join(this.folder, 'half.db');
    const judge = await judgeFor(makesValid);
    const platform = platformBelow(found.folder);
    const db = openStaged(path);
    try {
      const readBack = (this.readBack = isChecked ? new ReadBack(columns, geometryType !== null) : null);
      const selector = recordSelector(found, selection ?? EVERY_RECORD);
      const wanted = selector.wanted({ geometry: geometryType !== null, values: true, range });
      const { features } = selector.of(readFeatures(found.dataset, platform, wanted));
      const own = to === null ? null : crsKey(found.dataset.crs);
      const change = to === null || own === null ? null : transformer(own, to);
      const spec = { name: TABLE, fields: columns, crs: null, geometryType };
      db.exec('BEGIN');
      createTable(db, spec);
      const inPlace = change ? moved(features, change) : features;
      const filled = fillTable(db, spec, srs, judge ? judge.judge(inPlace) : inPlace, undefined, (row, from, shape) =>
        readBack?.add(row, from, shape),
      );
      db.exec('COMMIT');
      return { ...filled, boxes: filled.boxes.rows(), extent: filled.boxes.extent(), path, judged: judgedBy(judge) };
    } finally {
      db.close();
      platform.close();
    }
  }

  index(rows: RowBoxes): string {
    const path = join(this.folder!, 'index.db');
    const db = openStaged(path);
    try {
      makeRtree(db, rows);
    } finally {
      db.close();
    }
    return path;
  }

  check({ path, table, first, last }: HalfCheck): boolean {
    const opened = openGeopackage(path);
    try {
      return this.readBack!.isEqualTo(opened.db, table, first, last);
    } finally {
      opened.close();
    }
  }

  close(): void {
    if (this.folder) rmSync(this.folder);
    this.folder = null;
  }
}

/**
 * Takes the rows of the other half into the table, behind those that it has. No transaction is open before or after.
 * @param onBoxes takes the boxes of all rows, before they are there
 */
export function joinHalves(
  db: Database.Database,
  table: string,
  first: Filled,
  second: HalfWritten,
  onBoxes: (rows: RowBoxes) => void = () => undefined,
): Filled {
  first.boxes.append(second.boxes, second.extent, first.written);
  onBoxes(first.boxes.rows());
  const columns = db.prepare<[], { name: string }>(`PRAGMA table_info(${quoteName(table)})`).all();
  const [key, ...others] = columns.map((c) => quoteName(c.name));
  db.prepare('ATTACH ? AS other').run(second.path);
  db.prepare(`INSERT INTO main.${quoteName(table)} SELECT ${[`${key} + ?`, ...others].join(', ')} FROM other.${TABLE} ORDER BY ${key}`).run(
    first.written,
  );
  db.exec('DETACH other');
  return {
    arcs: first.arcs,
    read: first.read + second.read,
    written: first.written + second.written,
    nulls: first.nulls + second.nulls,
    noNumbers: first.noNumbers + second.noNumbers,
    skipped: [...first.skipped, ...second.skipped.map((s) => ({ ...s, record: s.record && s.record + first.read }))],
    flags: { z: first.flags.z || second.flags.z, m: first.flags.m || second.flags.m },
    boxes: first.boxes,
  };
}
