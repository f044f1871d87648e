import { mkdirSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from '@rootmap/engine';
import type BetterSqlite3 from 'better-sqlite3';
import type { Features } from './shapes.js';
import { touch } from './write-data.js';

const Database = createRequire(import.meta.url)('better-sqlite3') as typeof BetterSqlite3;

export interface Table {
  readonly name: string;
  readonly features: Features;
  readonly srsId: number;
  /** An attributes table: the shapes are left out. */
  readonly plain?: boolean;
}
const NAMES = { point: 'POINT', line: 'LINESTRING', area: 'POLYGON' } as const;
const WKB = { point: 1, line: 2, area: 3 } as const;
const SQL = { text: 'TEXT', integer: 'INTEGER', real: 'REAL' } as const;

/** A small GeoPackage 1.3 (OGC 12-128r17) with the tables that the standard requires; enough for the demo. */
export function putGeopackage(
  path: string,
  tables: readonly Table[],
  definitions: ReadonlyMap<number, { name: string; wkt: string }>,
  when: string,
): void {
  mkdirSync(dirname(path), { recursive: true });
  rmSync(path, { force: true });
  const db = new Database(path);
  db.pragma('application_id = 1196444487');
  db.pragma('user_version = 10300');
  db.exec(`
    CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT);
    CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL DEFAULT (strftime('%Y-%m-%dT%H:%M:%fZ','now')), min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER, CONSTRAINT fk_gc_r_srs_id FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys(srs_id));
    CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, CONSTRAINT pk_geom_cols PRIMARY KEY (table_name, column_name), CONSTRAINT uk_gc_table_name UNIQUE (table_name), CONSTRAINT fk_gc_tn FOREIGN KEY (table_name) REFERENCES gpkg_contents(table_name), CONSTRAINT fk_gc_srs FOREIGN KEY (srs_id) REFERENCES gpkg_spatial_ref_sys (srs_id));
  `);
  const srs = db.prepare('INSERT INTO gpkg_spatial_ref_sys VALUES (?, ?, ?, ?, ?, ?)');
  srs.run('Undefined cartesian SRS', -1, 'NONE', -1, 'undefined', 'undefined cartesian coordinate reference system');
  srs.run('Undefined geographic SRS', 0, 'NONE', 0, 'undefined', 'undefined geographic coordinate reference system');
  for (const [id, { name, wkt }] of definitions) srs.run(name, id, 'EPSG', id, wkt, null);
  for (const table of tables) addTable(db, table, when);
  db.close();
  touch(path, when);
}

function addTable(db: BetterSqlite3.Database, table: Table, when: string): void {
  const f = table.features;
  const box = boxOf(f.shapes);
  const plain = table.plain === true;
  const fields = f.fields.filter((field) => field.name !== 'id');
  db.exec(
    `CREATE TABLE "${table.name}" (fid INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL${plain ? '' : `, geom ${NAMES[f.kind]}`}${fields.map((x) => `, "${x.name}" ${SQL[x.type]}`).join('')})`,
  );
  db.prepare('INSERT INTO gpkg_contents VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)').run(
    table.name,
    plain ? 'attributes' : 'features',
    table.name,
    '',
    when,
    ...(plain ? [null, null, null, null, null] : [...box, table.srsId]),
  );
  if (!plain) db.prepare('INSERT INTO gpkg_geometry_columns VALUES (?, ?, ?, ?, 0, 0)').run(table.name, 'geom', NAMES[f.kind], table.srsId);
  const marks = Array<string>(fields.length + (plain ? 1 : 2))
    .fill('?')
    .join(', ');
  const insert = db.prepare(`INSERT INTO "${table.name}" VALUES (${marks})`);
  db.exec('BEGIN');
  f.shapes.forEach((shape, i) => {
    const values = f.fields
      .map((field, n) => [field.name, f.rows[i]![n]] as const)
      .filter(([name]) => name !== 'id')
      .map(([, v]) => v);
    insert.run(i + 1, ...(plain ? [] : [blob(f.kind, shape, table.srsId)]), ...values);
  });
  db.exec('COMMIT');
}

/** West, south, east, north. */
function boxOf(shapes: Features['shapes']): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const shape of shapes)
    for (const part of shape)
      for (const [x, y] of part) {
        box[0] = Math.min(box[0], x);
        box[1] = Math.min(box[1], y);
        box[2] = Math.max(box[2], x);
        box[3] = Math.max(box[3], y);
      }
  return box;
}

/** Clause 2.1.3: header with an xy envelope (none for points), then WKB, little endian. */
function blob(kind: Features['kind'], shape: Features['shapes'][number], srsId: number): Buffer {
  const envelope = kind === 'point' ? 0 : 32;
  const head = Buffer.alloc(8 + envelope);
  head.write('GP', 0, 'latin1');
  head[3] = kind === 'point' ? 0x01 : 0x03;
  head.writeInt32LE(srsId, 4);
  const [west, south, east, north] = boxOf([shape]);
  if (envelope) [west, east, south, north].forEach((v, i) => head.writeDoubleLE(v, 8 + i * 8));
  const start = Buffer.alloc(5);
  start[0] = 1;
  start.writeUInt32LE(WKB[kind], 1);
  return Buffer.concat([
    head,
    start,
    kind === 'point'
      ? position(shape[0]![0]!)
      : kind === 'line'
        ? counted(shape[0]!)
        : Buffer.concat([count(shape.length), ...shape.map((ring) => counted([...ring].reverse()))]),
  ]);
}
const count = (n: number): Buffer => {
  const b = Buffer.alloc(4);
  b.writeUInt32LE(n);
  return b;
};
const position = ([x, y]: readonly [number, number]): Buffer => {
  const b = Buffer.alloc(16);
  b.writeDoubleLE(x, 0);
  b.writeDoubleLE(y, 8);
  return b;
};
const counted = (line: readonly (readonly [number, number])[]): Buffer => Buffer.concat([count(line.length), ...line.map(position)]);
