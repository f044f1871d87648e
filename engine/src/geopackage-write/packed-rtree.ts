import type Database from 'better-sqlite3';
import { quoteName } from '../geopackage/describe-geopackage.js';

/** Layout of SQLite's R-tree module: rtree.c, "Database Format of R-Tree Tables", for two dimensions of 32-bit floats. */
const CELL_BYTES = 8 + 4 * 4;
const MOST_CELLS = 51;
const NODE_BYTES = 4 + CELL_BYTES * MOST_CELLS;
/** Bits of a position along one axis, for the order of a Hilbert curve. */
const ORDER_BITS = 14;

/** Boxes of rows: minx, miny, maxx, maxy one after the other, as 32-bit floats around the true ones, with the ids of their rows. */
export interface RowBoxes {
  readonly ids: Float64Array;
  readonly boxes: Float32Array;
}

/**
 * Fills an empty R-tree table in one go: rows in the order of a Hilbert curve, nodes full, level by level (Kamel and Faloutsos,
 * "On Packing R-trees", 1993). The module's own tables are written, so the database must be in unsafe mode.
 */
export function fillRtree(db: Database.Database, table: string, rows: RowBoxes): void {
  const node = db.prepare(`INSERT OR REPLACE INTO ${quoteName(`${table}_node`)} VALUES (?, ?)`);
  const parent = db.prepare(`INSERT INTO ${quoteName(`${table}_parent`)} VALUES (?, ?)`);
  if (rows.ids.length === 0) return; // the module has made an empty root
  let level = rows;
  let order: Uint32Array | null = hilbertOrder(rows);
  let depth = 0;
  let next = 2; // node 1 is the root
  let isLeaf = true;
  const leafOf = new Float64Array(rows.ids.length);
  for (;;) {
    const nodes = Math.ceil(level.ids.length / MOST_CELLS);
    const isRoot = nodes === 1;
    const above: RowBoxes = { ids: new Float64Array(nodes), boxes: new Float32Array(nodes * 4) };
    for (let n = 0; n < nodes; n++) {
      const from = n * MOST_CELLS;
      const to = Math.min(level.ids.length, from + MOST_CELLS);
      const id = isRoot ? 1 : next++;
      const bytes = Buffer.alloc(NODE_BYTES);
      const cells = new DataView(bytes.buffer, bytes.byteOffset);
      cells.setUint16(0, isRoot ? depth : 0);
      cells.setUint16(2, to - from);
      let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
      for (let i = from; i < to; i++) {
        const at = 4 + (i - from) * CELL_BYTES;
        const row = order ? order[i]! : i;
        const rowId = level.ids[row]!;
        const high = Math.floor(rowId / 2 ** 32);
        cells.setInt32(at, high);
        cells.setUint32(at + 4, rowId - high * 2 ** 32);
        const k = row * 4;
        const [x0, y0, x1, y1] = [level.boxes[k]!, level.boxes[k + 1]!, level.boxes[k + 2]!, level.boxes[k + 3]!];
        cells.setFloat32(at + 8, x0);
        cells.setFloat32(at + 12, x1);
        cells.setFloat32(at + 16, y0);
        cells.setFloat32(at + 20, y1);
        if (isLeaf) leafOf[row] = id;
        else parent.run(rowId, id);
        if (x0 < minx) minx = x0;
        if (y0 < miny) miny = y0;
        if (x1 > maxx) maxx = x1;
        if (y1 > maxy) maxy = y1;
      }
      node.run(id, bytes);
      above.ids[n] = id;
      above.boxes.set([minx, miny, maxx, maxy], n * 4);
    }
    if (isLeaf) placeRows(db, `${table}_rowid`, level.ids, leafOf);
    if (isRoot) return;
    level = above;
    order = null;
    isLeaf = false;
    depth++;
  }
}

/** The tables of the module, by the ends of their names, and their columns. */
const TABLES = {
  node: 'nodeno INTEGER PRIMARY KEY,data',
  parent: 'nodeno INTEGER PRIMARY KEY,parentnode',
  rowid: 'rowid INTEGER PRIMARY KEY,nodeno',
};
const MADE = 'made';

/** What `fillRtree` writes, in tables of a database of its own: another thread makes it, and `takeRtree` takes it from there. */
export function makeRtree(db: Database.Database, rows: RowBoxes): void {
  db.exec('BEGIN');
  for (const [end, columns] of Object.entries(TABLES)) db.exec(`CREATE TABLE ${MADE}_${end}(${columns})`);
  fillRtree(db, MADE, rows);
  db.exec('COMMIT');
}

/** Attaches a database that `makeRtree` filled; SQLite does that outside of a transaction only. */
export const attachMade = (db: Database.Database, path: string): void => void db.prepare(`ATTACH ? AS ${MADE}`).run(path);
export const detachMade = (db: Database.Database): void => void db.exec(`DETACH ${MADE}`);

/** Fills an empty R-tree table with what was made in the database that is attached, table by table as they are. */
export function takeRtree(db: Database.Database, table: string): void {
  for (const end of Object.keys(TABLES)) {
    const mine = `main.${quoteName(`${table}_${end}`)}`;
    db.exec(`DELETE FROM ${mine}; INSERT INTO ${mine} SELECT * FROM ${MADE}.${MADE}_${end}`);
  }
}

const BATCH = 4096;

/** In which leaf each row is: rows come in the order of their ids, many in one statement where no id is left out between them. */
function placeRows(db: Database.Database, table: string, ids: Float64Array, leafOf: Float64Array): void {
  const n = ids.length;
  const one = db.prepare(`INSERT INTO ${quoteName(table)} VALUES (?, ?)`);
  const many = db.prepare(`INSERT INTO ${quoteName(table)} SELECT key + ?, value FROM json_each(?)`);
  for (let from = 0; from < n; from += BATCH) {
    const to = Math.min(n, from + BATCH);
    const first = ids[from]!;
    if (ids[to - 1]! - first === to - 1 - from) many.run(first, JSON.stringify(Array.from(leafOf.subarray(from, to))));
    else for (let i = from; i < to; i++) one.run(ids[i]!, leafOf[i]!);
  }
}

/** Rows in the order of the curve, by the middles of their boxes. */
function hilbertOrder({ ids, boxes }: RowBoxes): Uint32Array {
  const n = ids.length;
  let [minx, miny, maxx, maxy] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < n * 4; i += 4) {
    minx = Math.min(minx, boxes[i]!);
    miny = Math.min(miny, boxes[i + 1]!);
    maxx = Math.max(maxx, boxes[i + 2]!);
    maxy = Math.max(maxy, boxes[i + 3]!);
  }
  const steps = 2 ** ORDER_BITS - 1;
  const [sx, sy] = [steps / (maxx - minx || 1), steps / (maxy - miny || 1)];
  // Place on the curve and position in one number, so that sorting is that of plain numbers.
  const keys = new Float64Array(n);
  const shift = 2 ** 25;
  for (let i = 0; i < n; i++) {
    const x = Math.floor(((boxes[i * 4]! + boxes[i * 4 + 2]!) / 2 - minx) * sx);
    const y = Math.floor(((boxes[i * 4 + 1]! + boxes[i * 4 + 3]!) / 2 - miny) * sy);
    keys[i] = hilbert(x, y) * shift + i;
  }
  keys.sort();
  const order = new Uint32Array(n); // `from` with a function takes ten times as long
  for (let i = 0; i < n; i++) order[i] = keys[i]! % shift;
  return order;
}

/** Distance along the curve (common practice: the bitwise walk from the coarsest quarter to the finest). */
function hilbert(px: number, py: number): number {
  let [x, y] = [px, py];
  let distance = 0;
  for (let s = 2 ** (ORDER_BITS - 1); s > 0; s >>= 1) {
    const rx = (x & s) > 0 ? 1 : 0;
    const ry = (y & s) > 0 ? 1 : 0;
    distance += s * s * ((3 * rx) ^ ry);
    if (ry === 0) {
      if (rx === 1) {
        x = s - 1 - (x & (s - 1));
        y = s - 1 - (y & (s - 1));
      }
      [x, y] = [y & (s - 1), x & (s - 1)];
    } else {
      x &= s - 1;
      y &= s - 1;
    }
  }
  return distance;
}

const float = new Float32Array(1);
const bits = new Int32Array(float.buffer);
/** The next float towards minus or plus infinity where the number is no float itself. */
export function below(value: number): number {
  float[0] = value;
  if (float[0] > value) bits[0]! += float[0] > 0 ? -1 : 1;
  return float[0];
}
export function above(value: number): number {
  float[0] = value;
  if (float[0] < value) bits[0]! += float[0] >= 0 ? 1 : -1;
  return float[0];
}
