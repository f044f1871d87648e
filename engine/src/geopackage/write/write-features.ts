import type Database from 'better-sqlite3';
import { asMany, kindOfWkb, type Feature, type Field, type Value } from '@rootmap/core';
import { quoteName } from '../describe-geopackage.js';
import { BlobMaker } from './geometry-to-blob.js';
import { addSrs, ensureFeatureTables } from './schema.js';
import { addSpatialIndex, Boxes } from './spatial-index.js';

export interface TableSpec {
  readonly name: string;
  /** Columns beside the key and the shape; their names are free. */
  readonly fields: readonly Field[];
  /** `EPSG:n`; null: nobody knows. */
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
  readonly extent: readonly [number, number, number, number] | null;
}

const KEY = 'fid';
const SHAPE = 'geom';
const MOST_TOLD = 1000;

/** Column types (OGC 12-128r17, table 1) for ours. */
const COLUMN: Readonly<Record<Field['type'], string>> = {
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

/**
 * Adds a table of features or attributes and fills it, with its R-tree, extent and registration. Runs inside the transaction of
 * whoever calls; the database must be in unsafe mode. A record whose shape is damaged is skipped and told.
 * @param onWritten values of each record that was not skipped, as they were read
 */
export function writeTable(
  db: Database.Database,
  spec: TableSpec,
  features: Iterable<Feature>,
  onProgress: (read: number) => void = () => undefined,
  onWritten: (values: Feature['values']) => void = () => undefined,
): Written {
  const hasShape = spec.geometryType !== null;
  if (hasShape) ensureFeatureTables(db);
  const srs = hasShape ? addSrs(db, spec.crs) : null;
  createTable(db, spec, srs);
  const width = spec.fields.length + 1 + (hasShape ? 1 : 0);
  const insert = db.prepare(`INSERT INTO ${quoteName(spec.name)} VALUES (${Array<string>(width).fill('?').join(', ')})`);
  const blobs = new BlobMaker(srs ?? 0);
  const boxes = new Boxes();
  const skipped: { record: number; why: string }[] = [];
  const flags = { z: false, m: false };
  const isMany = spec.geometryType?.startsWith('Multi') === true;
  let read = 0;
  let written = 0;
  let nulls = 0;
  let left = 0;
  const row = new Array<unknown>(width);
  for (const { geometry, values } of features) {
    read++;
    if ((read & 4095) === 0) onProgress(read);
    let at = 1;
    if (hasShape) {
      const shape = geometry && (isMany ? asMany(geometry) : geometry);
      const blob = shape && blobs.make(shape);
      if (geometry && !blob) {
        left++;
        if (skipped.length < MOST_TOLD) skipped.push({ record: read, why: 'its shape is damaged, or of a kind that a GeoPackage has not' });
        continue;
      }
      if (blob) {
        const kind = kindOfWkb(geometry) ?? '';
        if (kind.includes('Z')) flags.z = true;
        if (kind.endsWith('M')) flags.m = true;
        boxes.add(written + 1, blobs.lastBox);
      } else nulls++;
      row[at++] = blob;
    }
    row[0] = written + 1;
    for (let i = 0; i < values.length; i++) row[at + i] = toSql(values[i]!, spec.fields[i]!.type);
    insert.run(row);
    onWritten(values);
    written++;
  }
  const extent = boxes.extent();
  if (hasShape) registerShape(db, spec, srs!, flags, boxes);
  db.prepare(
    "UPDATE gpkg_contents SET min_x = ?, min_y = ?, max_x = ?, max_y = ?, last_change = strftime('%Y-%m-%dT%H:%M:%fZ','now') WHERE table_name = ?",
  ).run(...(extent ?? [null, null, null, null]), spec.name);
  if (left > skipped.length) skipped.push({ record: 0, why: `and ${left - skipped.length} more` });
  return { read, written, skipped, nulls, extent };
}

function createTable(db: Database.Database, { name, fields, geometryType, description }: TableSpec, srs: number | null): void {
  const columns = fields.map((f) => `${quoteName(f.name)} ${COLUMN[f.type]}`);
  const shape = geometryType === null ? [] : [`${SHAPE} ${columnType(geometryType)}`];
  db.exec(`CREATE TABLE ${quoteName(name)} (${[`${KEY} INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL`, ...shape, ...columns].join(', ')})`);
  db.prepare('INSERT INTO gpkg_contents (table_name, data_type, identifier, description, srs_id) VALUES (?, ?, ?, ?, ?)').run(
    name,
    geometryType === null ? 'attributes' : 'features',
    name,
    description ?? '',
    srs,
  );
}

const columnType = (geometryType: string): string => geometryType.replace(/[ZM]+$/, '').toUpperCase();

function registerShape(db: Database.Database, spec: TableSpec, srs: number, flags: { z: boolean; m: boolean }, boxes: Boxes): void {
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

const IS_TEXT: ReadonlySet<Field['type']> = new Set(['text', 'json', 'date', 'datetime']);

/** A value as the column of its field stores it. */
export function toSql(value: Value, type: Field['type']): unknown {
  if (value !== null && IS_TEXT.has(type) && !(value instanceof Uint8Array) && typeof value !== 'string') return String(value);
  if (typeof value === 'boolean') return value ? 1 : 0; // a column of whole numbers stores them as such, whatever they are bound as
  if (type === 'datetime' && typeof value === 'string') return isoTime(value);
  return value;
}

/** `2026-03-14T09:30:00.000Z` (requirement 5); what is no time stays as it is. */
function isoTime(text: string): string {
  const time = new Date(/[zZ]|[+-]\d\d:?\d\d$/.test(text) ? text : `${text.replace(' ', 'T')}Z`);
  return Number.isNaN(time.getTime()) ? text : time.toISOString();
}
