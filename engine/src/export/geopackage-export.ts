import { arcsLost, columnNames, noNumbersLost, EVERY_RECORD } from '@rootmap/core';
import type { ExportDone } from '@rootmap/core/contract';
import { rmSync } from '../disk/files.js';
import { halvesOf, joinHalves, type HalfHelper } from '../geodatabase/half-writer.js';
import { openStaged } from '../geodatabase/tables/staged-database.js';
import { attachMade, detachMade } from '../geopackage-write/packed-rtree.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { createSchema } from '../geopackage-write/schema.js';
import { createTable, fillTable, registerTable, writeTable, type Written } from '../geopackage-write/write-features.js';
import type { FoundDataset } from '../project/find-dataset.js';
import type { ExportSource, RecordsWanted } from './export-source.js';

export interface GeopackageExport {
  readonly found: FoundDataset;
  readonly source: ExportSource;
  readonly wanted: RecordsWanted;
  readonly path: string;
  /** Its name. */
  readonly table: string;
  readonly onProgress: (done: number) => void;
}

/** What the first thread takes, which begins a moment sooner. */
const FIRST_SHARE = 0.47;

/** Writes a GeoPackage of one table, with its spatial index. @param helper a second thread, which takes half of many records */
export async function writeGeopackageExport(order: GeopackageExport, helper?: HalfHelper): Promise<Omit<ExportDone, 'path'>> {
  const { found, source, path, table, onProgress } = order;
  const { crs, kind, arcs } = source;
  const halves = helper ? halvesOf(found, FIRST_SHARE) : null;
  const { fields, features } = source.records(halves ? { geometry: kind !== null, values: true, range: halves[0] } : undefined);
  const spec = { name: table, fields: columnNames(fields), crs: crs ?? found.dataset.crs?.wkt ?? null, geometryType: kind };
  const { read, written, skipped, noNumbers } =
    helper && halves
      ? await writeShared(order, spec, features, halves[1], helper)
      : newGeopackage(path, (db) => writeTable(db, spec, features, onProgress));
  return { unit: 'records', check: null, read, written, skipped, losses: [...arcsLost(arcs), ...noNumbersLost(noNumbers)] };
}

/** Two threads write half of the records each, and this one puts them together. */
async function writeShared(
  { found, source, wanted, path, onProgress }: GeopackageExport,
  spec: Parameters<typeof createTable>[1],
  features: Parameters<typeof fillTable>[3],
  range: NonNullable<ReturnType<typeof halvesOf>>[1],
  helper: HalfHelper,
): Promise<Written> {
  const db = openStaged(path);
  try {
    db.exec('BEGIN');
    createSchema(db);
    const srs = createTable(db, spec);
    const other = helper.write({
      found,
      range,
      columns: spec.fields,
      geometryType: spec.geometryType,
      srs,
      to: source.isMoved ? source.crs : null,
      selection: wanted.selection ?? EVERY_RECORD,
      makesValid: null,
      isChecked: false,
    });
    other.catch(() => undefined); // told where it is waited for
    const first = fillTable(db, spec, srs, features, (done) => onProgress(Math.round(done / FIRST_SHARE)));
    db.exec('COMMIT');
    let index: Promise<string> | null = null;
    const filled = joinHalves(db, spec.name, first, await other, (rows) => {
      index = spec.geometryType === null ? null : helper.index(rows);
      index?.catch(() => undefined); // told where it is waited for
    });
    const made = await (index as Promise<string> | null);
    if (made !== null) attachMade(db, made);
    db.exec('BEGIN');
    const written = registerTable(db, spec, srs, filled, made !== null);
    db.exec('COMMIT');
    if (made !== null) detachMade(db);
    db.close();
    return written;
  } catch (error) {
    db.close();
    rmSync(path);
    throw error;
  }
}
