import type Database from 'better-sqlite3';
import { byCodePoint, KINDS, kindOfWkb, readWkb, straightWkb, wkbCode, wkbOffset } from '@rootmap/core';
import type { GeodatabaseFinding } from '@rootmap/core/contract';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { hasTable } from './tables/registry.js';
import { IS_TIME } from './tables/repair.js';
import { isSqliteError, NotADatabase, openGeopackage, type OpenedGeopackage } from '../geopackage/open-geopackage.js';

const OLD_IDS = new Set([0x47503130, 0x47503131]);
const GPKG = 0x47504b47;

type Add = (requirement: number | null, table: string | null, message: string, canRepair?: boolean, isDamage?: boolean) => void;

/** Holds a file against OGC 12-128r17; each finding has the number of its requirement. A damaged file is one finding. */
export function checkGeodatabase(path: string): GeodatabaseFinding[] {
  const findings: GeodatabaseFinding[] = [];
  const add: Add = (requirement, table, message, canRepair = false, isDamage = false) =>
    findings.push({ requirement, table, message, canRepair, isDamage });
  let opened: OpenedGeopackage | null = null;
  try {
    opened = openGeopackage(path);
    checkFile(opened.db, add);
    if (hasTable(opened.db, 'gpkg_contents')) checkContents(opened.db, add);
  } catch (error) {
    if (!(error instanceof NotADatabase) && !isSqliteError(error)) throw error;
    // Where damage has been told, the rest of the check is what cannot go on.
    if (!findings.some((f) => f.isDamage)) add(1, null, `it cannot be read: ${error.message}`, false, true);
  } finally {
    opened?.close();
  }
  return findings;
}

function checkFile(db: Database.Database, add: Add): void {
  const id = Number(db.pragma('application_id', { simple: true }));
  if (OLD_IDS.has(id)) add(2, null, 'its application id is that of an edition before 1.2', true);
  else if (id !== GPKG) add(2, null, 'its application id is not that of a GeoPackage', true);
  else if (Number(db.pragma('user_version', { simple: true })) < 10200) add(2, null, 'its user version names no edition', true);
  const integrity = String(db.pragma('integrity_check(1)', { simple: true }));
  if (integrity !== 'ok') add(6, null, 'some of its pages are damaged', false, true);
  if ((db.pragma('foreign_key_check') as unknown[]).length > 0) add(7, null, 'rows point to rows that are not there');
  for (const [name, requirement] of [
    ['gpkg_spatial_ref_sys', 10],
    ['gpkg_contents', 13],
  ] as const)
    if (!hasTable(db, name)) add(requirement, null, `the table ${name} is missing`);
  if (!hasTable(db, 'gpkg_spatial_ref_sys')) return;
  const ids = new Set(db.prepare<[], bigint>('SELECT srs_id FROM gpkg_spatial_ref_sys').pluck(true).all());
  for (const srs of [4326n, -1n, 0n]) if (!ids.has(srs)) add(11, null, `gpkg_spatial_ref_sys has no row ${srs}`, true);
}

interface Row {
  readonly table_name: string;
  readonly data_type: string;
  readonly min_x: number | null;
  readonly min_y: number | null;
  readonly max_x: number | null;
  readonly max_y: number | null;
  readonly srs_id: bigint | null;
  readonly last_change: string;
}

function checkContents(db: Database.Database, add: Add): void {
  const rows = db.prepare<[], Row>('SELECT * FROM gpkg_contents').all();
  for (const row of rows.sort((a, b) => byCodePoint(a.table_name, b.table_name))) {
    const { table_name: table } = row;
    if (!hasTable(db, table)) {
      add(14, table, 'gpkg_contents names it, and it is not there');
      continue;
    }
    if (!IS_TIME.test(String(row.last_change))) add(15, table, 'its last change is no time as ISO 8601 has it', true);
    if (row.data_type === 'features') checkFeatures(db, row, add);
  }
}

function checkFeatures(db: Database.Database, row: Row, add: Add): void {
  const { table_name: table } = row;
  const columns = hasTable(db, 'gpkg_geometry_columns')
    ? db
        .prepare<[string], { column_name: string; geometry_type_name: string; srs_id: bigint }>(
          'SELECT * FROM gpkg_geometry_columns WHERE table_name = ?',
        )
        .all(table)
    : [];
  const [column] = columns;
  if (!column) return add(22, table, 'gpkg_geometry_columns has no row for it');
  if (row.srs_id !== null && row.srs_id !== column.srs_id) add(146, table, 'gpkg_contents and gpkg_geometry_columns name different CRSs');
  const { column_name: geom, geometry_type_name: type } = column;
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  let filled = 0n;
  const arcs = new Set<number>();
  let damaged = 0;
  let others = 0;
  const blobs = db.prepare<[], Uint8Array | null>(`SELECT ${quoteName(geom)} FROM ${quoteName(table)}`).pluck(true);
  for (const blob of blobs.iterate()) {
    if (blob === null) continue;
    const from = wkbOffset(blob);
    const wkb = from === null ? null : blob.subarray(from);
    const straight = wkb && straightWkb(wkb);
    if (!wkb || !straight || !readBox(straight, box)) damaged++;
    else {
      filled++;
      if (straight !== wkb) arcs.add(wkbCode(wkb) % 1000);
      if (!fits(kindOfWkb(wkb) ?? '', type)) others++;
    }
  }
  if (damaged > 0) add(19, table, `${damaged} of its shapes are damaged, or of a kind that the standard has not`);
  if (others > 0) add(25, table, `${others} of its shapes are no ${type}`);
  if (filled > 0n && isSmaller(row, box)) add(null, table, 'the extent that it states is not that of its shapes', true);
  checkArcs(db, table, arcs, add);
  checkIndex(db, table, geom, filled, add);
}

/** A missing index is allowed, and slow. */
function checkIndex(db: Database.Database, table: string, geom: string, filled: bigint, add: Add): void {
  const rtree = `rtree_${table}_${geom}`;
  if (!hasTable(db, rtree)) {
    if (filled > 1000n) add(null, table, 'it has no spatial index, so that every program reads all of it', true);
    return;
  }
  const count = db
    .prepare<[], bigint>(`SELECT count(*) FROM ${quoteName(rtree)}`)
    .pluck(true)
    .get();
  if (count !== filled) add(77, table, `its spatial index has ${count} entries for ${filled} shapes`, true);
}

function readBox(wkb: Uint8Array, box: [number, number, number, number]): boolean {
  return readWkb(wkb, {
    vertex: (x, y) => {
      if (x < box[0]) box[0] = x;
      if (y < box[1]) box[1] = y;
      if (x > box[2]) box[2] = x;
      if (y > box[3]) box[3] = y;
    },
  });
}

/** Kinds that a table of a kind may hold beside its own: those that are below it (OGC 12-128r17, annex G, figure of the geometry model). */
const BELOW: Readonly<Record<string, readonly string[]>> = {
  GEOMETRYCOLLECTION: ['MULTIPOINT', 'MULTILINESTRING', 'MULTIPOLYGON', 'MULTICURVE', 'MULTISURFACE'],
  CURVEPOLYGON: ['POLYGON'],
  CURVE: ['LINESTRING', 'CIRCULARSTRING', 'COMPOUNDCURVE'],
  SURFACE: ['POLYGON', 'CURVEPOLYGON'],
  MULTICURVE: ['MULTILINESTRING'],
  MULTISURFACE: ['MULTIPOLYGON'],
};

/** GEOMETRY holds all. */
function fits(kind: string, type: string): boolean {
  const own = kind.replace(/[ZM]+$/, '').toUpperCase();
  const wanted = type.toUpperCase();
  return wanted === 'GEOMETRY' || own === wanted || (BELOW[wanted] ?? []).includes(own);
}

/** Kinds with arcs are no part of the standard itself: each that shapes are of has to be declared (annex F.1). */
function checkArcs(db: Database.Database, table: string, arcs: ReadonlySet<number>, add: Add): void {
  if (arcs.size === 0) return;
  const declared = new Set(
    hasTable(db, 'gpkg_extensions')
      ? db
          .prepare<[string], string>('SELECT lower(extension_name) FROM gpkg_extensions WHERE lower(table_name) = lower(?)')
          .pluck(true)
          .all(table)
      : [],
  );
  const missing = [...arcs]
    .map((code) => KINDS[code]!)
    .filter((kind) => kind !== 'GeometryCollection' && !declared.has(`gpkg_geom_${kind.toLowerCase()}`));
  if (missing.length > 0) add(null, table, `it has shapes with arcs that it does not declare: ${missing.join(', ')}`);
}

const isSmaller = ({ min_x, min_y, max_x, max_y }: Row, box: readonly number[]): boolean => {
  const near = (a: number | null, b: number): boolean => a !== null && Math.abs(a - b) <= 1e-6 * Math.max(1, Math.abs(b));
  return !(near(min_x, box[0]!) && near(min_y, box[1]!) && near(max_x, box[2]!) && near(max_y, box[3]!));
};
