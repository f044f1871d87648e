import type Database from 'better-sqlite3';
import { quoteName } from '../geopackage/describe-geopackage.js';

/** Layout of SQLite's R-tree module: rtree.c, "Database Format of R-Tree Tables", for two dimensions of 32-bit floats. */
const CELL_BYTES = 8 + 4 * 4;
const HEAD_BYTES = 4;

/** The leaves of an R-tree one after the other. */
export interface RtreeBoxes {
  readonly ids: Float64Array;
  /** minx, miny, maxx, maxy of each row. */
  readonly boxes: Float64Array;
  /** Where each leaf begins among the rows; the last number is that of all rows. */
  readonly leaves: readonly number[];
  /** Box of each leaf. */
  readonly leafBoxes: Float64Array;
}

/** All boxes of an R-tree, read node by node, which is many times as fast as row by row. Null: its nodes are not as they should be. */
export function rtreeBoxes(db: Database.Database, rtree: string): RtreeBoxes | null {
  const nodes = new Map<number, Buffer>();
  const rows = db
    .prepare(`SELECT nodeno, data FROM ${quoteName(`${rtree}_node`)}`)
    .raw(true)
    .safeIntegers(false);
  for (const [nodeno, data] of rows.iterate() as IterableIterator<[number, Buffer]>) nodes.set(nodeno, data);
  const root = nodes.get(1);
  if (!root) return null;
  let level = [1];
  for (let depth = root.readUInt16BE(0); depth > 0; depth--) {
    const below: number[] = [];
    for (const n of level) {
      const node = nodes.get(n);
      if (!node) return null;
      for (let i = 0; i < node.readUInt16BE(2); i++) below.push(Number(node.readBigInt64BE(HEAD_BYTES + i * CELL_BYTES)));
    }
    level = below;
  }
  return leavesOf(level.map((n) => nodes.get(n)));
}

function leavesOf(nodes: readonly (Buffer | undefined)[]): RtreeBoxes | null {
  const count = nodes.reduce((sum, node) => sum + (node?.readUInt16BE(2) ?? 0), 0);
  const ids = new Float64Array(count);
  const boxes = new Float64Array(count * 4);
  const leafBoxes = new Float64Array(nodes.length * 4);
  const leaves: number[] = [];
  let row = 0;
  for (const [leaf, node] of nodes.entries()) {
    if (!node) return null;
    leaves.push(row);
    const view = new DataView(node.buffer, node.byteOffset, node.byteLength);
    const cells = view.getUint16(2);
    if (HEAD_BYTES + cells * CELL_BYTES > node.length) return null;
    let [left, bottom, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
    for (let i = 0, at = HEAD_BYTES; i < cells; i++, at += CELL_BYTES, row++) {
      ids[row] = view.getInt32(at) * 2 ** 32 + view.getUint32(at + 4);
      const [minx, maxx, miny, maxy] = [
        view.getFloat32(at + 8),
        view.getFloat32(at + 12),
        view.getFloat32(at + 16),
        view.getFloat32(at + 20),
      ];
      boxes[row * 4] = minx;
      boxes[row * 4 + 1] = miny;
      boxes[row * 4 + 2] = maxx;
      boxes[row * 4 + 3] = maxy;
      if (minx < left) left = minx;
      if (miny < bottom) bottom = miny;
      if (maxx > right) right = maxx;
      if (maxy > top) top = maxy;
    }
    leafBoxes.set([left, bottom, right, top], leaf * 4);
  }
  leaves.push(row);
  return { ids, boxes, leaves, leafBoxes };
}
