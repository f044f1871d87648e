import type Database from 'better-sqlite3';
import { asMany, curvedKinds, KINDS, ProblemError, WKB, wkbCode, type Feature, type Field, type Value } from '@rootmap/core';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { BlobMaker } from './geometry-to-blob.js';
import { addSrs, ensureFeatureTables } from './schema.js';
import { addSpatialIndex, Boxes } from './spatial-index.js';

export interface TableSpec {
  readonly name: string;
  /** Columns beside the key and the shape; their names are free. */
  readonly fields: readonly Field[];
  /** `EPSG:n`, or the text of one without a code; null: nobody knows. */
  readonly crs: string | null;
  /** Simple-feature name, `Geometry` for several kinds; null: a table without shapes. */
  readonly geometryType: string | null;
  readonly description?: string;
}

/** What became of the records. The counts add up: read = written + skipped. */
export interface Written {
  readonly read: number;
  readonly written: number;
  readonly skipped: readonly { readonly record: number; readonly why: string }[];
  readonly nulls: number;
  /** Values that a column cannot hold, and that are empty in it: numbers that are none (NaN, infinite). */
  readonly noNumbers: number;
  readonly extent: readonly [number, number, number, number] | null;
}

const KEY = 'fid';
const SHAPE = 'geom';
const MOST_TOLD = 1000;
/** SQLITE_MAX_COLUMN as SQLite comes (sqlite.org, limits), less the key and the shape. */
const MOST_FIELDS = 1998;

/** Column types (OGC 12-128r17, table 1) for ours. */
export const COLUMN: Readonly<Record<Field['type'], string>> = {
  text: 'TEXT',
  integer: 'MEDIUMINT',
  integer64: 'INTEGER',
  real: 'DOUBLE',
  boolean: 'BOOLEAN',
  date: 'DATE',
  datetime: 'DATETIME',
  binary: 'BLOB',
  json: 'TEXT',
};

/** A row as it is bound to its columns, in an array that is used again, with its values from `from` on. */
/** @param shape as it was handed over, of the kind of the table; null: it has none */
export type OnWritten = (row: readonly unknown[], from: number, shape: Uint8Array | null) => void;

/** Rows that were written, before the table is registered. */
export interface Filled extends Omit<Written, 'extent'> {
  readonly flags: { readonly z: boolean; readonly m: boolean };
  /** Codes of kinds with arcs that are in it. */
  readonly arcs: ReadonlySet<number>;
  readonly boxes: Boxes;
}

/**
 * Adds a table of features or attributes and fills it, with its R-tree, extent and registration. Runs inside the transaction of
 * whoever calls; the database must be in unsafe mode. A record whose shape is damaged is skipped and told.
 * @param onWritten takes each record that was not skipped
 */
export function writeTable(
  db: Database.Database,
  spec: TableSpec,
  features: Iterable<Feature>,
  onProgress?: (read: number) => void,
  onWritten?: OnWritten,
): Written {
  const srs = createTable(db, spec);
  return registerTable(db, spec, srs, fillTable(db, spec, srs, features, onProgress, onWritten));
}

/** Appends rows to a table that has none, with the keys 1, 2, 3 … */
export function fillTable(
  db: Database.Database,
  spec: TableSpec,
  srs: number,
  features: Iterable<Feature>,
  onProgress: (read: number) => void = () => undefined,
  onWritten: OnWritten = () => undefined,
): Filled {
  const hasShape = spec.geometryType !== null;
  const width = spec.fields.length + 1 + (hasShape ? 1 : 0);
  const rows = new RowWriter(db, spec.name, width, rowsAtOnce(spec.geometryType, width));
  const blobs = Array.from({ length: rows.count }, () => new BlobMaker(srs)); // the bytes of a row must last until it is written
  const boxes = new Boxes();
  const skipped: { record: number; why: string }[] = [];
  const flags = { z: false, m: false };
  const arcs = new Set<number>();
  const isMany = spec.geometryType?.startsWith('Multi') === true;
  let read = 0;
  let written = 0;
  let nulls = 0;
  let noNumbers = 0;
  let left = 0;
  for (const { geometry, values } of features) {
    read++;
    if ((read & 4095) === 0) onProgress(read);
    const { row, from } = rows;
    let at = from + 1;
    let shape: Uint8Array | null = null;
    if (hasShape) {
      const maker = blobs[written % rows.count]!;
      shape = geometry && (isMany ? asMany(geometry) : geometry);
      const blob = shape && maker.make(shape);
      if (geometry && !blob) {
        left++;
        if (skipped.length < MOST_TOLD) skipped.push({ record: read, why: 'its shape is damaged, or of a kind that a GeoPackage has not' });
        continue;
      }
      if (blob && geometry) {
        const code = wkbCode(geometry);
        if (code % 1000 >= WKB.GeometryCollection) for (const kind of curvedKinds(geometry)) arcs.add(kind);
        const dimensions = Math.floor(code / 1000); // 1 for Z, 2 for M, 3 for both
        if ((dimensions & 1) > 0) flags.z = true;
        if ((dimensions & 2) > 0) flags.m = true;
        boxes.add(written + 1, maker.lastBox);
      } else nulls++;
      row[at++] = blob;
    }
    row[from] = written + 1;
    for (let i = 0; i < values.length; i++) {
      const value = values[i]!;
      const stored = toSql(value, spec.fields[i]!.type);
      if (stored === null && value !== null) noNumbers++;
      row[at + i] = stored;
    }
    onWritten(row, at, shape);
    rows.next();
    written++;
  }
  rows.end();
  if (left > skipped.length) skipped.push({ record: 0, why: `and ${left - skipped.length} more` });
  return { read, written, skipped, nulls, noNumbers, flags, arcs, boxes };
}

/** SQLITE_MAX_VARIABLE_NUMBER as SQLite comes (sqlite.org, limits). */
const MOST_PARAMETERS = 32_766;
/** As many go in one statement, for fewer calls into SQLite. Shapes that may be large are held in memory until then: of those, fewer. */
const rowsAtOnce = (geometryType: string | null, width: number): number =>
  Math.max(1, Math.min(geometryType === null || geometryType.startsWith('Point') ? 32 : 8, Math.floor(MOST_PARAMETERS / width)));

/** Rows one behind the other in one array of parameters; they are written when it is full. */
class RowWriter {
  readonly row: unknown[];
  /** Where the next row begins. */
  from = 0;
  private readonly many: Database.Statement;

  constructor(
    private readonly db: Database.Database,
    private readonly table: string,
    private readonly width: number,
    readonly count: number,
  ) {
    this.row = new Array<unknown>(width * count).fill(null);
    this.many = this.prepare(count);
  }

  private prepare(rows: number): Database.Statement {
    const one = `(${Array<string>(this.width).fill('?').join(', ')})`;
    return this.db.prepare(`INSERT INTO ${quoteName(this.table)} VALUES ${Array<string>(rows).fill(one).join(', ')}`);
  }

  next(): void {
    this.from += this.width;
    if (this.from < this.row.length) return;
    this.many.run(this.row);
    this.from = 0;
  }

  end(): void {
    if (this.from > 0) this.prepare(this.from / this.width).run(this.row.slice(0, this.from));
    this.from = 0;
  }
}

/** Writes the table into the contents, with its index and extent. @param isIndexMade as `addSpatialIndex` takes it */
export function registerTable(
  db: Database.Database,
  spec: TableSpec,
  srs: number,
  { flags, arcs, boxes, ...counts }: Filled,
  isIndexMade = false,
): Written {
  const hasShape = spec.geometryType !== null;
  const extent = boxes.extent();
  db.prepare(
    'INSERT INTO gpkg_contents (table_name, data_type, identifier, description, min_x, min_y, max_x, max_y, srs_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)',
  ).run(
    spec.name,
    hasShape ? 'features' : 'attributes',
    spec.name,
    spec.description ?? '',
    ...(extent ?? [null, null, null, null]),
    hasShape ? srs : null,
  );
  if (hasShape) registerShape(db, spec, srs, flags, isIndexMade ? 'made' : boxes);
  declareArcs(db, spec.name, arcs);
  return { ...counts, extent };
}

/** The empty table. @returns the id of its CRS in the container */
export function createTable(db: Database.Database, { name, fields, geometryType, crs }: TableSpec): number {
  if (fields.length > MOST_FIELDS)
    throw new ProblemError({
      code: 'wrong-use',
      message: `${name} has ${fields.length} fields, and a table holds ${MOST_FIELDS}. Leave some of them out.`,
    });
  if (geometryType !== null) ensureFeatureTables(db);
  const columns = fields.map((f) => `${quoteName(f.name)} ${COLUMN[f.type]}`);
  const shape = geometryType === null ? [] : [`${SHAPE} ${columnType(geometryType)}`];
  db.exec(`CREATE TABLE ${quoteName(name)} (${[`${KEY} INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL`, ...shape, ...columns].join(', ')})`);
  return geometryType === null ? 0 : addSrs(db, crs);
}

const columnType = (geometryType: string): string => geometryType.replace(/[ZM]+$/, '').toUpperCase();

function registerShape(
  db: Database.Database,
  spec: TableSpec,
  srs: number,
  flags: { z: boolean; m: boolean },
  boxes: Boxes | 'made',
): void {
  db.prepare('INSERT INTO gpkg_geometry_columns VALUES (?, ?, ?, ?, ?, ?)').run(
    spec.name,
    SHAPE,
    columnType(spec.geometryType!),
    srs,
    flags.z ? 2 : 0, // 2: some may have it
    flags.m ? 2 : 0,
  );
  addSpatialIndex(db, { table: spec.name, column: SHAPE, key: KEY }, boxes);
}

/** Kinds that are none of the standard's own are declared (OGC 12-128r17, annex F.1). */
function declareArcs(db: Database.Database, table: string, arcs: ReadonlySet<number>): void {
  const declare = db.prepare('INSERT OR IGNORE INTO gpkg_extensions VALUES (?, ?, ?, ?, ?)');
  const definition = 'http://www.geopackage.org/spec121/#extension_geometry_types';
  for (const code of arcs) declare.run(table, SHAPE, `gpkg_geom_${KINDS[code]!.toUpperCase()}`, definition, 'read-write');
}

const IS_TEXT: ReadonlySet<Field['type']> = new Set(['text', 'json', 'date', 'datetime']);

/** A value as the column of its field stores it. */
export function toSql(value: Value, type: Field['type']): unknown {
  if (value !== null && IS_TEXT.has(type) && !(value instanceof Uint8Array) && typeof value !== 'string') return String(value);
  if (typeof value === 'number' && !Number.isFinite(value)) return null; // SQLite has no such number
  if (typeof value === 'boolean') return value ? 1 : 0; // a column of whole numbers stores them as such, whatever they are bound as
  if (type === 'datetime' && typeof value === 'string') return isoTime(value);
  return value;
}

/** `2026-03-14T09:30:00.000Z` (requirement 5); what is no time stays as it is. */
function isoTime(text: string): string {
  const time = new Date(/[zZ]|[+-]\d\d:?\d\d$/.test(text) ? text : `${text.replace(' ', 'T')}Z`);
  return Number.isNaN(time.getTime()) ? text : time.toISOString();
}
