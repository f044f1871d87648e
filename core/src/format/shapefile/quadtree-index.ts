import { viewOf, type ByteSource } from '../../bytes/byte-source.js';
import { isPointShape } from './shape-types.js';

const HEADER = 100;
const WINDOW = 1 << 20;
/** Each half of a split node takes so much of it: halves overlap, so that fewer shapes stay with the parent. */
const SHARE = 0.55;
const DEEPEST = 12;

interface Node {
  box: Box;
  ids: number[];
  children: Node[];
}
/** minx, miny, maxx, maxy. */
type Box = readonly [number, number, number, number];

/**
 * The `.qix` of a `.shp`: a quadtree over the boxes of its shapes, as several open-source programs write and read it. No
 * standard describes it; tree and bytes follow what GDAL 3 writes (from memory, compared byte for byte in the tests).
 * Null: the shapes are damaged. Memory: some 40 bytes a shape.
 */
export function quadtreeIndex(shp: ByteSource): Uint8Array | null {
  if (shp.sizeBytes < HEADER) return null;
  const header = viewOf(shp.read(0, HEADER));
  if (header.getInt32(0) !== 9994) return null;
  const boxes = boxesOf(shp);
  if (!boxes) return null;
  const count = boxes.length / 4;
  const depth = depthFor(count);
  const box: Box = [36, 44, 52, 60].map((at) => header.getFloat64(at, true)) as unknown as Box;
  const root: Node = { box, ids: [], children: [] };
  for (let id = 0; id < count; id++) add(root, id, boxes, depth);
  trim(root);
  return write(root, count, depth);
}

function depthFor(count: number): number {
  let depth = 0;
  for (let nodes = 1; nodes * 4 < count; nodes *= 2) depth++;
  return Math.min(depth, DEEPEST);
}

/** Four numbers a record; a null shape has zeros. */
function boxesOf(shp: ByteSource): Float64Array | null {
  const boxes: number[] = [];
  let window = new Uint8Array(0);
  let from = 0;
  for (let at = HEADER; at < shp.sizeBytes;) {
    if (at + 12 > shp.sizeBytes) return null;
    if (at < from || at + 44 > from + window.length) {
      from = at;
      window = new Uint8Array(shp.read(at, Math.min(WINDOW, shp.sizeBytes - at)));
    }
    const view = viewOf(window.subarray(at - from));
    const bytes = view.getInt32(4) * 2;
    const next = at + 8 + bytes;
    if (bytes < 4 || next > shp.sizeBytes) return null;
    const type = view.getInt32(8, true);
    if (type === 0) boxes.push(0, 0, 0, 0);
    else if (isPointShape(type)) {
      if (bytes < 20) return null;
      const [x, y] = [view.getFloat64(12, true), view.getFloat64(20, true)];
      boxes.push(x, y, x, y);
    } else {
      if (bytes < 36) return null;
      for (let i = 0; i < 4; i++) boxes.push(view.getFloat64(12 + i * 8, true));
    }
    at = next;
  }
  return Float64Array.from(boxes);
}

const holds = (box: Box, id: number, boxes: Float64Array): boolean =>
  boxes[id * 4]! >= box[0] && boxes[id * 4 + 2]! <= box[2] && boxes[id * 4 + 1]! >= box[1] && boxes[id * 4 + 3]! <= box[3];

/** Into the first child that holds it; a node without children gets four where one of them would hold it. */
function add(node: Node, id: number, boxes: Float64Array, depth: number): void {
  for (let left = depth; left > 1; left--) {
    if (node.children.length === 0) {
      const quarters = halves(node.box).flatMap(halves);
      if (quarters.some((q) => holds(q, id, boxes))) node.children = quarters.map((box) => ({ box, ids: [], children: [] }));
    }
    const child = node.children.find((c) => holds(c.box, id, boxes));
    if (!child) break;
    node = child;
  }
  node.ids.push(id);
}

function halves([minx, miny, maxx, maxy]: Box): Box[] {
  if (maxx - minx > maxy - miny) {
    const range = (maxx - minx) * SHARE;
    return [
      [minx, miny, minx + range, maxy],
      [maxx - range, miny, maxx, maxy],
    ];
  }
  const range = (maxy - miny) * SHARE;
  return [
    [minx, miny, maxx, miny + range],
    [minx, maxy - range, maxx, maxy],
  ];
}

/**
 * Empty nodes go, the last of their siblings taking their place; an only child takes that of a parent that holds nothing
 * itself. Gives whether the node itself is empty then.
 */
function trim(node: Node): boolean {
  for (let i = 0; i < node.children.length; i++) {
    if (!trim(node.children[i]!)) continue;
    const last = node.children.pop()!;
    if (i < node.children.length) node.children[i] = last;
    i--;
  }
  if (node.children.length === 1 && node.ids.length === 0) Object.assign(node, node.children[0]);
  return node.children.length === 0 && node.ids.length === 0;
}

/** Bytes of all nodes below one. */
const bytesBelow = (node: Node): number => node.children.reduce((n, c) => n + 44 + c.ids.length * 4 + bytesBelow(c), 0);

function write(root: Node, count: number, depth: number): Uint8Array {
  const out = new Uint8Array(16 + 44 + root.ids.length * 4 + bytesBelow(root));
  const view = viewOf(out);
  out.set([0x53, 0x51, 0x54, 1, 1, 0, 0, 0]); // SQT, little-endian, version 1
  view.setInt32(8, count, true);
  view.setInt32(12, depth, true);
  let at = 16;
  const int = (n: number): void => {
    view.setInt32(at, n, true);
    at += 4;
  };
  const put = (node: Node): void => {
    int(bytesBelow(node));
    for (const v of node.box) {
      view.setFloat64(at, v, true);
      at += 8;
    }
    int(node.ids.length);
    node.ids.forEach(int);
    int(node.children.length);
    node.children.forEach(put);
  };
  put(root);
  return out;
}
