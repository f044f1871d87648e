import { viewOf } from '../bytes/byte-source.js';
import { readWkb } from './read-wkb.js';

/** One ring or line: x, y, x, y …, without positions that repeat. */
type Run = number[];

/** Below this many segments every pair is looked at; above, only those whose spans of x meet. */
const FEW = 24;

/**
 * Whether an area or a line may be invalid in the sense of simple features (OGC 06-103r4, clause 6.1.11): quick, and never wrong where it says
 * no. Where it says yes, segments touch or cross, rings are open or too short, or parts lie in each other: a whole test has to decide.
 */
export function isSuspect(wkb: Uint8Array): boolean {
  return plainRing(wkb) ?? isAnySuspect(wkb);
}

const MOST_PLAIN = 40;
const [xs, ys] = [new Float64Array(MOST_PLAIN), new Float64Array(MOST_PLAIN)];
const [left, right, low, high] = [0, 1, 2, 3].map(() => new Float64Array(MOST_PLAIN)) as [
  Float64Array,
  Float64Array,
  Float64Array,
  Float64Array,
];

/** Most areas are one small ring without Z and M: they are looked at without making anything. Null: it is another shape. */
function plainRing(wkb: Uint8Array): boolean | null {
  if (wkb.length < 29 || wkb[0] !== 1 || wkb[1] !== 3 || wkb[2] !== 0 || wkb[5] !== 1 || wkb[6] !== 0) return null;
  const view = viewOf(wkb);
  const n = view.getUint32(9, true);
  if (n < 4 || n > MOST_PLAIN || wkb.length !== 13 + n * 16) return null;
  for (let i = 0, at = 13; i < n; i++, at += 16) {
    xs[i] = view.getFloat64(at, true);
    ys[i] = view.getFloat64(at + 8, true);
    if (i > 0 && xs[i] === xs[i - 1] && ys[i] === ys[i - 1]) return null;
  }
  if (xs[0] !== xs[n - 1] || ys[0] !== ys[n - 1]) return true;
  for (let i = 0; i < n - 1; i++) {
    const [ax, bx, ay, by] = [xs[i]!, xs[i + 1]!, ys[i]!, ys[i + 1]!];
    left[i] = ax < bx ? ax : bx;
    right[i] = ax < bx ? bx : ax;
    low[i] = ay < by ? ay : by;
    high[i] = ay < by ? by : ay;
  }
  for (let a = 0; a < n - 1; a++) {
    const next = a === n - 2 ? 0 : a + 1;
    if (turnsBack(a, next)) return true;
    // The last segment is beside the first one.
    const last = a === 0 ? n - 2 : n - 1;
    for (let b = a + 2; b < last; b++)
      if (left[a]! <= right[b]! && left[b]! <= right[a]! && low[a]! <= high[b]! && low[b]! <= high[a]! && cross(a, b)) return true;
  }
  return false;
}

function turnsBack(a: number, b: number): boolean {
  const [ax, ay, bx, by] = [xs[a + 1]! - xs[a]!, ys[a + 1]! - ys[a]!, xs[b + 1]! - xs[b]!, ys[b + 1]! - ys[b]!];
  return ax * by - ay * bx === 0 && ax * bx + ay * by < 0;
}

const pair = new Float64Array(8);
function cross(a: number, b: number): boolean {
  pair.set([xs[a]!, ys[a]!, xs[a + 1]!, ys[a + 1]!, xs[b]!, ys[b]!, xs[b + 1]!, ys[b + 1]!]);
  return touch(pair, 0, 1);
}

function isAnySuspect(wkb: Uint8Array): boolean {
  const polygons: Run[][] = [];
  const lines: Run[] = [];
  let run: Run = [];
  let isArea = false;
  let isClosed = true;
  let [firstX, firstY, lastX, lastY, n] = [0, 0, 0, 0, 0];
  const endRun = (): void => {
    if (isArea && n > 0 && (firstX !== lastX || firstY !== lastY)) isClosed = false;
    n = 0;
  };
  const isRead = readWkb(wkb, {
    geometry: (code) => {
      endRun();
      isArea = code === 3;
      if (isArea) polygons.push([]);
    },
    run: () => {
      endRun();
      run = [];
      if (isArea) polygons.at(-1)!.push(run);
      else lines.push(run);
    },
    vertex: (x, y) => {
      if (n === 0) [firstX, firstY] = [x, y];
      if (n === 0 || x !== lastX || y !== lastY) run.push(x, y);
      [lastX, lastY] = [x, y];
      n++;
    },
  });
  endRun();
  if (!isRead || !isClosed) return isRead;
  if (polygons.length === 0) return lines.some((line) => line.length === 2 && isLine(wkb));
  const rings = polygons.flat();
  if (rings.some((ring) => ring.length > 0 && ring.length < 8)) return true; // three corners and the first again
  return meetThemselves(rings) || lieWrongly(polygons);
}

const isLine = (wkb: Uint8Array): boolean => {
  const code = (wkb[0] === 1 ? wkb[1]! | (wkb[2]! << 8) : wkb[4]! | (wkb[3]! << 8)) % 1000;
  return code === 2 || code === 5;
};

/** Segments of all rings, by the position of their first corner: ring and index within it. */
function meetThemselves(rings: readonly Run[]): boolean {
  const count = rings.reduce((sum, ring) => sum + Math.max(0, ring.length / 2 - 1), 0);
  const segments = new Float64Array(count * 4);
  const ringOf = new Int32Array(count);
  const indexOf = new Int32Array(count);
  let n = 0;
  rings.forEach((ring, r) => {
    for (let i = 0; i + 3 < ring.length; i += 2, n++) {
      segments[n * 4] = ring[i]!;
      segments[n * 4 + 1] = ring[i + 1]!;
      segments[n * 4 + 2] = ring[i + 2]!;
      segments[n * 4 + 3] = ring[i + 3]!;
      ringOf[n] = r;
      indexOf[n] = i / 2;
    }
  });
  const meets = (a: number, b: number): boolean => {
    if (ringOf[a] !== ringOf[b]) return touch(segments, a, b);
    const last = rings[ringOf[a]!]!.length / 2 - 2;
    const [i, j] = [Math.min(indexOf[a]!, indexOf[b]!), Math.max(indexOf[a]!, indexOf[b]!)];
    const [first, second] = indexOf[a]! < indexOf[b]! ? [a, b] : [b, a];
    if (j === i + 1) return foldsBack(segments, first, second);
    if (i === 0 && j === last) return foldsBack(segments, second, first);
    return touch(segments, a, b);
  };
  if (count <= FEW) {
    for (let a = 0; a < count; a++) for (let b = a + 1; b < count; b++) if (areNear(segments, a, b) && meets(a, b)) return true;
    return false;
  }
  const leftOf = (s: number): number => Math.min(segments[s * 4]!, segments[s * 4 + 2]!);
  const rightOf = (s: number): number => Math.max(segments[s * 4]!, segments[s * 4 + 2]!);
  const order = Array.from({ length: count }, (_, s) => s).sort((a, b) => leftOf(a) - leftOf(b));
  let active: number[] = [];
  for (const s of order) {
    const from = leftOf(s);
    active = active.filter((other) => rightOf(other) >= from);
    for (const other of active) if (meets(other, s)) return true;
    active.push(s);
  }
  return false;
}

/** The second goes back along the first. */
function foldsBack(s: Float64Array, a: number, b: number): boolean {
  const [ax, ay] = [s[a * 4 + 2]! - s[a * 4]!, s[a * 4 + 3]! - s[a * 4 + 1]!];
  const [bx, by] = [s[b * 4 + 2]! - s[b * 4]!, s[b * 4 + 3]! - s[b * 4 + 1]!];
  return ax * by - ay * bx === 0 && ax * bx + ay * by < 0;
}

/** Their boxes meet. Plain comparisons, since this is asked of most pairs of most areas. */
function areNear(s: Float64Array, a: number, b: number): boolean {
  const i = a * 4;
  const j = b * 4;
  const ax = s[i]!;
  const bx = s[i + 2]!;
  const cx = s[j]!;
  const dx = s[j + 2]!;
  if (ax < cx ? ax < dx && bx < cx && bx < dx : ax > cx && ax > dx && bx > cx && bx > dx) return false;
  const ay = s[i + 1]!;
  const by = s[i + 3]!;
  const cy = s[j + 1]!;
  const dy = s[j + 3]!;
  return !(ay < cy ? ay < dy && by < cy && by < dy : ay > cy && ay > dy && by > cy && by > dy);
}

/** Two segments have a point in common, or so nearly that rounding hides it. */
function touch(s: Float64Array, a: number, b: number): boolean {
  const [ax, ay, bx, by] = [s[a * 4]!, s[a * 4 + 1]!, s[a * 4 + 2]!, s[a * 4 + 3]!];
  const [cx, cy, dx, dy] = [s[b * 4]!, s[b * 4 + 1]!, s[b * 4 + 2]!, s[b * 4 + 3]!];
  if (!areNear(s, a, b)) return false;
  const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number): number => {
    const [one, two] = [(qx - px) * (ry - py), (qy - py) * (rx - px)];
    const turn = one - two;
    return Math.abs(turn) <= 4e-15 * (Math.abs(one) + Math.abs(two)) ? 0 : Math.sign(turn);
  };
  const [c, d] = [side(ax, ay, bx, by, cx, cy), side(ax, ay, bx, by, dx, dy)];
  if (c * d > 0) return false;
  return side(cx, cy, dx, dy, ax, ay) * side(cx, cy, dx, dy, bx, by) <= 0;
}

type Box = readonly [number, number, number, number];

function boxOf(ring: Run): Box {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < ring.length; i += 2) {
    box[0] = Math.min(box[0], ring[i]!);
    box[1] = Math.min(box[1], ring[i + 1]!);
    box[2] = Math.max(box[2], ring[i]!);
    box[3] = Math.max(box[3], ring[i + 1]!);
  }
  return box;
}
const overlap = (a: Box, b: Box): boolean => a[0] <= b[2] && b[0] <= a[2] && a[1] <= b[3] && b[1] <= a[3];

/** No ring crosses another: a hole may still lie outside, and parts or holes within each other. */
function lieWrongly(polygons: readonly (readonly Run[])[]): boolean {
  const outer = polygons.filter((rings) => rings.length > 0).map((rings) => boxOf(rings[0]!));
  if (pairs(outer)) return true;
  return polygons.some(
    ([shell, ...holes]) => holes.length > 0 && (holes.some((hole) => !isInside(shell!, hole)) || pairs(holes.map(boxOf))),
  );
}

function pairs(boxes: readonly Box[]): boolean {
  for (let a = 0; a < boxes.length; a++) for (let b = a + 1; b < boxes.length; b++) if (overlap(boxes[a]!, boxes[b]!)) return true;
  return false;
}

/** By crossings of a ray from its first corner (common practice). */
function isInside(shell: Run, hole: Run): boolean {
  const [x, y] = [hole[0]!, hole[1]!];
  let inside = false;
  for (let i = 0; i + 3 < shell.length; i += 2) {
    const [ax, ay, bx, by] = [shell[i]!, shell[i + 1]!, shell[i + 2]!, shell[i + 3]!];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}
