import { mkdirSync, writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { dirname } from '../src/disk/native-path.js';

// Datasets written byte by byte, with nothing of the app's own code, so that what the app tells of them can be judged.

export type Shape = 'point' | 'line' | 'area';
/** What a dataset says, whatever file it stands in. Coordinates are x (east), y (north) in metres; areas are closed, clockwise. */
export interface Content {
  readonly shape: Shape;
  readonly fields: readonly (readonly [name: string, type: 'whole' | 'text'])[];
  readonly records: readonly { readonly at: readonly (readonly [number, number])[]; readonly values: readonly (number | string)[] }[];
}

const WKT =
  'PROJCS["WGS_1984_UTM_Zone_24N",GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,298.257223563]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",-39.0],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0],UNIT["Meter",1.0]]';

export function boxOf(points: readonly (readonly [number, number])[]): [number, number, number, number] {
  const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

function put(path: string, bytes: Uint8Array | string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}

const CODES = { point: 1, line: 3, area: 5 } as const;

/** The shape of one record: ESRI Shapefile Technical Description (1998), tables 4, 6 and 8. */
function shapeBytes(shape: Shape, at: Content['records'][number]['at']): Buffer {
  if (shape === 'point') {
    const b = Buffer.alloc(20);
    b.writeInt32LE(1, 0);
    b.writeDoubleLE(at[0]![0], 4);
    b.writeDoubleLE(at[0]![1], 12);
    return b;
  }
  const b = Buffer.alloc(48 + 16 * at.length);
  b.writeInt32LE(CODES[shape], 0);
  boxOf(at).forEach((v, i) => b.writeDoubleLE(v, 4 + 8 * i));
  b.writeInt32LE(1, 36);
  b.writeInt32LE(at.length, 40);
  at.forEach(([x, y], i) => {
    b.writeDoubleLE(x, 48 + 16 * i);
    b.writeDoubleLE(y, 56 + 16 * i);
  });
  return b;
}

function shapefileHead(shape: Shape, bytes: number, box: readonly number[]): Buffer {
  const b = Buffer.alloc(100);
  b.writeInt32BE(9994, 0);
  b.writeInt32BE(bytes / 2, 24);
  b.writeInt32LE(1000, 28);
  b.writeInt32LE(CODES[shape], 32);
  box.forEach((v, i) => b.writeDoubleLE(v, 36 + 8 * i));
  return b;
}

function dbase({ fields, records }: Content): Buffer {
  const width = (type: string): number => (type === 'whole' ? 9 : 24);
  const head = Buffer.alloc(32 + 32 * fields.length + 1);
  const record = 1 + fields.reduce((n, [, type]) => n + width(type), 0);
  head[0] = 3;
  head.set([126, 1, 5], 1);
  head.writeUInt32LE(records.length, 4);
  head.writeUInt16LE(head.length, 8);
  head.writeUInt16LE(record, 10);
  fields.forEach(([name, type], i) => {
    head.write(name, 32 + 32 * i, 10, 'latin1');
    head.write(type === 'whole' ? 'N' : 'C', 43 + 32 * i, 'latin1');
    head[48 + 32 * i] = width(type);
  });
  head[head.length - 1] = 13;
  const rows = records.map(
    ({ values }) =>
      ` ${fields.map(([, type], i) => (type === 'whole' ? String(values[i]).padStart(9) : String(values[i]).padEnd(24))).join('')}`,
  );
  return Buffer.concat([head, Buffer.from(`${rows.join('')}\x1a`, 'latin1')]);
}

/** @param path of the `.shp`; its companions stand beside it. */
export function putShapefile(path: string, content: Content): void {
  const box = boxOf(content.records.flatMap((r) => r.at));
  const shapes = content.records.map((r) => shapeBytes(content.shape, r.at));
  const all: Buffer[] = [];
  const index = Buffer.alloc(100 + 8 * shapes.length);
  let at = 100;
  shapes.forEach((s, i) => {
    const head = Buffer.alloc(8);
    head.writeInt32BE(i + 1, 0);
    head.writeInt32BE(s.length / 2, 4);
    index.writeInt32BE(at / 2, 100 + 8 * i);
    index.writeInt32BE(s.length / 2, 104 + 8 * i);
    all.push(head, s);
    at += 8 + s.length;
  });
  shapefileHead(content.shape, index.length, box).copy(index);
  const stem = path.slice(0, -4);
  put(path, Buffer.concat([shapefileHead(content.shape, at, box), ...all]));
  put(`${stem}.shx`, index);
  put(`${stem}.dbf`, dbase(content));
  put(`${stem}.prj`, WKT);
}
export const SHAPEFILE_ENDINGS = ['shp', 'shx', 'dbf', 'prj'] as const;

/** Degrees near the middle of the zone, roughly: only that it is the same place each time counts. */
const degrees = ([x, y]: readonly [number, number]): [number, number] => [-39 + (x - 500_000) / 80_000, y / 111_000];

export function putGeojson(path: string, { shape, fields, records }: Content): void {
  const type = { point: 'Point', line: 'LineString', area: 'Polygon' }[shape];
  put(
    path,
    JSON.stringify({
      type: 'FeatureCollection',
      features: records.map(({ at, values }) => {
        const points = at.map(degrees);
        const coordinates = shape === 'point' ? points[0] : shape === 'line' ? points : [points];
        return { type: 'Feature', properties: Object.fromEntries(fields.map(([n], i) => [n, values[i]])), geometry: { type, coordinates } };
      }),
    }),
  );
}

/** Well-known binary, OGC 06-103r4, chapter 8. */
function wkb(shape: Shape, at: Content['records'][number]['at']): Buffer {
  const head = Buffer.alloc(shape === 'point' ? 5 : shape === 'line' ? 9 : 13);
  head[0] = 1;
  head.writeUInt32LE({ point: 1, line: 2, area: 3 }[shape], 1);
  if (shape === 'line') head.writeUInt32LE(at.length, 5);
  if (shape === 'area') {
    head.writeUInt32LE(1, 5);
    head.writeUInt32LE(at.length, 9);
  }
  const points = Buffer.alloc(16 * at.length);
  at.forEach(([x, y], i) => {
    points.writeDoubleLE(x, 16 * i);
    points.writeDoubleLE(y, 16 * i + 8);
  });
  return Buffer.concat([head, points]);
}

/** A GeoPackage with these tables, or further tables in one that is there: OGC 12-128r19, clauses 1.1.1 to 2.1. */
export function putTables(path: string, tables: readonly { readonly name: string; readonly content: Content }[]): void {
  mkdirSync(dirname(path), { recursive: true });
  const db = new Database(path);
  db.pragma('application_id = 1196444487');
  db.pragma('user_version = 10300');
  db.exec(`
    create table if not exists gpkg_spatial_ref_sys (srs_name text not null, srs_id integer primary key, organization text not null, organization_coordsys_id integer not null, definition text not null, description text);
    create table if not exists gpkg_contents (table_name text primary key, data_type text not null, identifier text unique, description text default '', last_change datetime not null default '2026-01-05T00:00:00.000Z', min_x double, min_y double, max_x double, max_y double, srs_id integer);
    create table if not exists gpkg_geometry_columns (table_name text not null unique, column_name text not null, geometry_type_name text not null, srs_id integer not null, z tinyint not null, m tinyint not null, primary key (table_name, column_name));`);
  db.prepare('insert or ignore into gpkg_spatial_ref_sys values (?, 32624, ?, 32624, ?, null)').run('WGS 84 / UTM zone 24N', 'EPSG', WKT);
  for (const { name, content } of tables) {
    const columns = content.fields.map(([n, t]) => `"${n}" ${t === 'whole' ? 'integer' : 'text'}`);
    db.exec(`create table "${name}" (fid integer primary key autoincrement not null, geom blob, ${columns.join(', ')})`);
    db.prepare("insert into gpkg_contents values (?, 'features', ?, '', '2026-01-05T00:00:00.000Z', ?, ?, ?, ?, 32624)").run(
      name,
      name,
      ...boxOf(content.records.flatMap((r) => r.at)),
    );
    db.prepare("insert into gpkg_geometry_columns values (?, 'geom', ?, 32624, 0, 0)").run(
      name,
      { point: 'POINT', line: 'LINESTRING', area: 'POLYGON' }[content.shape],
    );
    const insert = db.prepare(`insert into "${name}" values (null, ${Array.from({ length: columns.length + 1 }, () => '?').join(', ')})`);
    const head = Buffer.from([0x47, 0x50, 0, 1, 0, 0, 0, 0]);
    head.writeInt32LE(32624, 4);
    db.transaction(() => {
      for (const r of content.records) insert.run(Buffer.concat([head, wkb(content.shape, r.at)]), ...r.values);
    })();
  }
  db.close();
}
export function renameTable(path: string, from: string, to: string): void {
  const db = new Database(path);
  db.exec(`alter table "${from}" rename to "${to}"`);
  for (const table of ['gpkg_contents', 'gpkg_geometry_columns'])
    db.prepare(`update ${table} set table_name = ? where table_name = ?`).run(to, from);
  db.close();
}
export function dropTable(path: string, name: string): void {
  const db = new Database(path);
  db.exec(`drop table "${name}"`);
  for (const table of ['gpkg_contents', 'gpkg_geometry_columns']) db.prepare(`delete from ${table} where table_name = ?`).run(name);
  db.close();
}
