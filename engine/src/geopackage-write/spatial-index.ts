import type Database from 'better-sqlite3';
import { readGeometryBlob, type Extent } from '@rootmap/core';
import { quoteName } from '../geopackage/describe-geopackage.js';
import { above, below, fillRtree, takeRtree, type RowBoxes } from './packed-rtree.js';
import { ensureFeatureTables } from './schema.js';

export interface IndexedColumn {
  readonly table: string;
  /** Of the shapes. */
  readonly column: string;
  /** Primary key of the table. */
  readonly key: string;
}

export const rtreeOf = (table: string, column: string): string => `rtree_${table}_${column}`;

/**
 * An R-tree over a column of shapes, with its registration and triggers (OGC 12-128r17, annex F.3). The database is in unsafe mode.
 * @param boxes of all its shapes; 'made': another thread made the R-tree of them, and its database is attached
 */
export function addSpatialIndex(db: Database.Database, indexed: IndexedColumn, boxes: Boxes | 'made'): void {
  ensureFeatureTables(db);
  const rtree = rtreeOf(indexed.table, indexed.column);
  db.exec(`CREATE VIRTUAL TABLE ${quoteName(rtree)} USING rtree(id, minx, maxx, miny, maxy)`);
  if (boxes === 'made') takeRtree(db, rtree);
  else fillRtree(db, rtree, boxes.rows());
  db.prepare('INSERT OR REPLACE INTO gpkg_extensions VALUES (?, ?, ?, ?, ?)').run(
    indexed.table,
    indexed.column,
    'gpkg_rtree_index',
    'http://www.geopackage.org/spec120/#extension_rtree',
    'write-only',
  );
  addIndexTriggers(db, indexed);
}

export function addIndexTriggers(db: Database.Database, indexed: IndexedColumn): void {
  for (const trigger of triggersOf(indexed)) db.exec(trigger);
}

/** Takes the R-tree of a column away, with its triggers and its registration. */
export function dropSpatialIndex(db: Database.Database, { table, column }: Omit<IndexedColumn, 'key'>): void {
  dropIndexTriggers(db, table, column);
  db.exec(`DROP TABLE IF EXISTS ${quoteName(rtreeOf(table, column))}`);
  db.prepare("DELETE FROM gpkg_extensions WHERE lower(table_name) = lower(?) AND extension_name = 'gpkg_rtree_index'").run(table);
}

export function dropIndexTriggers(db: Database.Database, table: string, column: string): void {
  const prefix = `${rtreeOf(table, column)}_`.toLowerCase();
  const names = db
    .prepare<[string], string>("SELECT name FROM sqlite_master WHERE type = 'trigger' AND lower(tbl_name) = lower(?)")
    .pluck(true)
    .all(table);
  for (const name of names) if (name.toLowerCase().startsWith(prefix)) db.exec(`DROP TRIGGER ${quoteName(name)}`);
}

/** Boxes of all shapes of a table, by key. Shapes that are damaged have none. */
export function boxesOf(db: Database.Database, { table, column, key }: IndexedColumn): Boxes {
  const boxes = new Boxes();
  const rows = db.prepare(`SELECT ${quoteName(key)}, ${quoteName(column)} FROM ${quoteName(table)} ORDER BY ${quoteName(key)}`).raw(true);
  const box = new Float64Array(4);
  for (const [id, blob] of rows.iterate() as IterableIterator<[number | bigint, Uint8Array | null]>) {
    if (!(blob instanceof Uint8Array)) continue;
    box.set([Infinity, Infinity, -Infinity, -Infinity]);
    const vertices = readGeometryBlob(blob, (x, y) => {
      if (x < box[0]!) box[0] = x;
      if (y < box[1]!) box[1] = y;
      if (x > box[2]!) box[2] = x;
      if (y > box[3]!) box[3] = y;
    });
    if (vertices) boxes.add(Number(id), box);
  }
  return boxes;
}

/** Triggers that keep the index true when others edit the table (OGC 12-128r17, annex F.3, requirement 75 and 77). */
function triggersOf({ table: t, column: c, key: i }: IndexedColumn): string[] {
  const q = quoteName;
  const rtree = q(`rtree_${t}_${c}`);
  const name = (event: string): string => q(`rtree_${t}_${c}_${event}`);
  const box = (row: string): string => `ST_MinX(${row}.${q(c)}), ST_MaxX(${row}.${q(c)}), ST_MinY(${row}.${q(c)}), ST_MaxY(${row}.${q(c)})`;
  const filled = (row: string): string => `(${row}.${q(c)} NOT NULL AND NOT ST_IsEmpty(${row}.${q(c)}))`;
  const empty = (row: string): string => `(${row}.${q(c)} ISNULL OR ST_IsEmpty(${row}.${q(c)}))`;
  const same = `OLD.${q(i)} = NEW.${q(i)}`;
  const other = `OLD.${q(i)} != NEW.${q(i)}`;
  return [
    `CREATE TRIGGER ${name('insert')} AFTER INSERT ON ${q(t)} WHEN (new.${q(c)} NOT NULL AND NOT ST_IsEmpty(NEW.${q(c)})) BEGIN INSERT OR REPLACE INTO ${rtree} VALUES (NEW.${q(i)}, ${box('NEW')}); END`,
    `CREATE TRIGGER ${name('update1')} AFTER UPDATE OF ${q(c)} ON ${q(t)} WHEN ${same} AND ${filled('NEW')} BEGIN INSERT OR REPLACE INTO ${rtree} VALUES (NEW.${q(i)}, ${box('NEW')}); END`,
    `CREATE TRIGGER ${name('update2')} AFTER UPDATE OF ${q(c)} ON ${q(t)} WHEN ${same} AND ${empty('NEW')} BEGIN DELETE FROM ${rtree} WHERE id = OLD.${q(i)}; END`,
    `CREATE TRIGGER ${name('update3')} AFTER UPDATE ON ${q(t)} WHEN ${other} AND ${filled('NEW')} BEGIN DELETE FROM ${rtree} WHERE id = OLD.${q(i)}; INSERT OR REPLACE INTO ${rtree} VALUES (NEW.${q(i)}, ${box('NEW')}); END`,
    `CREATE TRIGGER ${name('update4')} AFTER UPDATE ON ${q(t)} WHEN ${other} AND ${empty('NEW')} BEGIN DELETE FROM ${rtree} WHERE id IN (OLD.${q(i)}, NEW.${q(i)}); END`,
    `CREATE TRIGGER ${name('delete')} AFTER DELETE ON ${q(t)} WHEN old.${q(c)} NOT NULL BEGIN DELETE FROM ${rtree} WHERE id = OLD.${q(i)}; END`,
  ];
}

/** Boxes of rows, as many as come, in 24 bytes each; and their extent, exactly. */
export class Boxes {
  private ids = new Float64Array(1024);
  private boxes = new Float32Array(4096);
  private n = 0;
  private readonly whole: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];

  /** @param box minx, miny, maxx, maxy; empty: the row has none */
  add(id: number, box: Float64Array | readonly number[]): void {
    if (box.length === 0) return;
    this.widen(box);
    this.makeRoom(this.n + 1);
    const { boxes, n } = this;
    this.ids[n] = id;
    boxes[n * 4] = below(box[0]!);
    boxes[n * 4 + 1] = below(box[1]!);
    boxes[n * 4 + 2] = above(box[2]!);
    boxes[n * 4 + 3] = above(box[3]!);
    this.n++;
  }

  /** Those of other rows, whose ids go on behind `after`. */
  append(rows: RowBoxes, extent: Extent | null, after: number): void {
    if (extent) this.widen(extent);
    const more = rows.ids.length;
    this.makeRoom(this.n + more);
    for (let i = 0; i < more; i++) this.ids[this.n + i] = rows.ids[i]! + after;
    this.boxes.set(rows.boxes, this.n * 4);
    this.n += more;
  }

  rows(): RowBoxes {
    return { ids: this.ids.subarray(0, this.n), boxes: this.boxes.subarray(0, this.n * 4) };
  }

  extent(): Extent | null {
    return this.n === 0 ? null : [...this.whole];
  }

  private widen(box: Float64Array | readonly number[]): void {
    const { whole } = this;
    if (box[0]! < whole[0]) whole[0] = box[0]!;
    if (box[1]! < whole[1]) whole[1] = box[1]!;
    if (box[2]! > whole[2]) whole[2] = box[2]!;
    if (box[3]! > whole[3]) whole[3] = box[3]!;
  }

  private makeRoom(rows: number): void {
    if (rows <= this.ids.length) return;
    const room = Math.max(rows, this.ids.length * 2);
    const [ids, boxes] = [new Float64Array(room), new Float32Array(room * 4)];
    ids.set(this.ids);
    boxes.set(this.boxes);
    [this.ids, this.boxes] = [ids, boxes];
  }
}
