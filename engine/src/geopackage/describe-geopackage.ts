import type Database from 'better-sqlite3';
import {
  boxOfBlob,
  byCodePoint,
  crsOfCode,
  emptyDescription,
  explain,
  fieldTypeOfColumn,
  geometryTypeOfColumn,
  identifyCrs,
  unreadable,
  type Crs,
  type CrsTable,
  type Description,
  type Extent,
  type Field,
} from '@rootmap/core';
import { databaseProblem, isSqliteError, openGeopackage, type OpenedGeopackage } from './open-geopackage.js';

/** A table that some writers leave where there would be no layer: no dataset of anybody's. */
const PLACEHOLDER = 'ogr_empty_table';

export const quoteName = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** The tables of a GeoPackage (OGC 12-128r17), by name. A damaged file is one unreadable description, never a throw. */
export function describeGeopackage(path: string, shownPath: string, crs: CrsTable): Description[] {
  try {
    const opened = openGeopackage(path);
    try {
      return describeTables(opened, crs);
    } finally {
      opened.close();
    }
  } catch (error) {
    const problem = databaseProblem(error, shownPath);
    if (!problem) throw error;
    return [unreadable('vector', explain(problem))];
  }
}

interface ContentsRow {
  table_name: string;
  data_type: string;
  min_x: number | null;
  min_y: number | null;
  max_x: number | null;
  max_y: number | null;
  srs_id: bigint | null;
}

function describeTables({ db, computed }: OpenedGeopackage, crs: CrsTable): Description[] {
  const rows = db.prepare<[], ContentsRow>('SELECT table_name, data_type, min_x, min_y, max_x, max_y, srs_id FROM gpkg_contents').all();
  return rows
    .filter((r) => typeof r.table_name === 'string' && r.table_name !== PLACEHOLDER)
    .sort((a, b) => byCodePoint(a.table_name, b.table_name))
    .map((row) => (computed.has(row.table_name) ? computedTable(row) : describeTable(db, row, crs)));
}

/** A view runs SQL that the file brings along, which may never end: it is listed, and not asked. */
const computedTable = ({ table_name, data_type }: ContentsRow): Description =>
  unreadable(
    kindOf(data_type),
    `${table_name} is a view, which is computed by SQL in the file. That is not run here: keep its result as a table.`,
    table_name,
  );

const kindOf = (dataType: string): 'vector' | 'table' | 'raster' =>
  dataType === 'features' ? 'vector' : dataType === 'attributes' ? 'table' : 'raster';

function describeTable(db: Database.Database, row: ContentsRow, crs: CrsTable): Description {
  try {
    if (row.data_type === 'features') return describeFeatures(db, row, crs);
    if (row.data_type === 'attributes') return describeAttributes(db, row.table_name);
    return describeTiles(db, row, crs);
  } catch (error) {
    if (!isSqliteError(error)) throw error;
    return unreadable(
      kindOf(row.data_type),
      `Table ${row.table_name} cannot be read: ${error.message}. Bring back an earlier copy.`,
      row.table_name,
    );
  }
}

const extentOf = (r: ContentsRow): Extent | null =>
  [r.min_x, r.min_y, r.max_x, r.max_y].every((v) => v !== null && Number.isFinite(Number(v)))
    ? [Number(r.min_x), Number(r.min_y), Number(r.max_x), Number(r.max_y)]
    : null;

interface Column {
  name: string;
  type: string;
  pk: bigint;
}
export const columnsOf = (db: Database.Database, table: string): Column[] =>
  db.prepare<[], Column>(`PRAGMA table_info(${quoteName(table)})`).all();

const countOf = (db: Database.Database, table: string): number =>
  Number(db.prepare<[], { n: bigint }>(`SELECT count(*) AS n FROM ${quoteName(table)}`).get()!.n);

const fieldsOf = (columns: readonly Column[], without: string | null): Field[] =>
  columns.filter((c) => c.pk === 0n && c.name !== without).map((c) => ({ name: c.name, type: fieldTypeOfColumn(c.type) }));

export interface GeometryColumn {
  column_name: string;
  geometry_type_name: string;
  z: bigint;
  m: bigint;
}
export const geometryColumnOf = (db: Database.Database, table: string): GeometryColumn | undefined =>
  db
    .prepare<[string], GeometryColumn>('SELECT column_name, geometry_type_name, z, m FROM gpkg_geometry_columns WHERE table_name = ?')
    .get(table);

function describeFeatures(db: Database.Database, row: ContentsRow, crs: CrsTable): Description {
  const geometry = geometryColumnOf(db, row.table_name);
  const count = countOf(db, row.table_name);
  return {
    ...emptyDescription('vector'),
    table: row.table_name,
    geometryType: geometry ? geometryTypeOfColumn(String(geometry.geometry_type_name), Number(geometry.z), Number(geometry.m)) : null,
    featureCount: count,
    fields: fieldsOf(columnsOf(db, row.table_name), geometry?.column_name ?? null),
    crs: crsOf(db, row.srs_id, crs),
    bbox: extentOf(row) ?? (geometry && count <= MOST_MEASURED ? extentOfShapes(db, row.table_name, geometry.column_name) : null),
  };
}

/** Of tables whose extent nobody wrote down ("informative", OGC 12-128r17, clause 1.1.3) no more shapes than these are looked at. */
const MOST_MEASURED = 100_000;

function extentOfShapes(db: Database.Database, table: string, column: string): Extent | null {
  const all: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const blob of db
    .prepare(`SELECT ${quoteName(column)} FROM ${quoteName(table)}`)
    .pluck()
    .iterate()) {
    const box = blob instanceof Uint8Array ? boxOfBlob(blob) : null;
    if (!box) continue;
    for (const i of [0, 1] as const) all[i] = Math.min(all[i], box[i]);
    for (const i of [2, 3] as const) all[i] = Math.max(all[i], box[i]);
  }
  return Number.isFinite(all[0]) ? all : null;
}

const describeAttributes = (db: Database.Database, table: string): Description => ({
  ...emptyDescription('table'),
  table,
  featureCount: countOf(db, table),
  fields: fieldsOf(columnsOf(db, table), null),
});

/** `tiles` and gridded coverages: the pixel size and matrix of the finest zoom. */
function describeTiles(db: Database.Database, row: ContentsRow, crs: CrsTable): Description {
  const finest = db
    .prepare<[string], { w: bigint; h: bigint; tw: bigint; th: bigint; px: number; py: number }>(
      'SELECT matrix_width AS w, matrix_height AS h, tile_width AS tw, tile_height AS th, pixel_x_size AS px, pixel_y_size AS py FROM gpkg_tile_matrix WHERE table_name = ? ORDER BY zoom_level DESC LIMIT 1',
    )
    .get(row.table_name);
  return {
    ...emptyDescription('raster'),
    table: row.table_name,
    crs: crsOf(db, row.srs_id, crs),
    bbox: extentOf(row),
    raster: finest
      ? {
          width: Number(finest.w * finest.tw),
          height: Number(finest.h * finest.th),
          pixel: [Number(finest.px), Number(finest.py)],
          bands: row.data_type === 'tiles' ? 4 : 1,
        }
      : null,
  };
}

/** -1 and 0 are "undefined" (requirement 11). An organisation other than EPSG gives its definition, but no code. */
function crsOf(db: Database.Database, srsId: bigint | null, table: CrsTable): Crs | null {
  if (srsId === null || srsId <= 0n) return null;
  const row = db
    .prepare<[bigint], { srs_name: string; organization: string; organization_coordsys_id: bigint; definition: string }>(
      'SELECT srs_name, organization, organization_coordsys_id, definition FROM gpkg_spatial_ref_sys WHERE srs_id = ?',
    )
    .get(srsId);
  if (!row) return null;
  const wkt = typeof row.definition === 'string' && row.definition !== 'undefined' ? row.definition : null;
  if (String(row.organization).toUpperCase() === 'EPSG') return crsOfCode(`EPSG:${row.organization_coordsys_id}`, table, wkt);
  const identified = wkt ? identifyCrs(wkt, table) : null;
  return identified ?? { code: null, name: String(row.srs_name), wkt };
}
