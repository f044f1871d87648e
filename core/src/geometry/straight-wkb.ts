import { viewOf } from '../bytes/byte-source.js';
import { readWkb, wkbCode } from './read-wkb.js';
import { WKB, WkbWriter } from './wkb-writer.js';

/** Kinds that a shape becomes whose arcs become chords (ISO/IEC 13249-3: each is the straight kind of the same dimension). */
const STRAIGHT: Readonly<Record<number, number>> = {
  [WKB.CircularString]: WKB.LineString,
  [WKB.CompoundCurve]: WKB.LineString,
  [WKB.CurvePolygon]: WKB.Polygon,
  [WKB.MultiCurve]: WKB.MultiLineString,
  [WKB.MultiSurface]: WKB.MultiPolygon,
};
/** The angle of one chord, at most: a chord is then no further from its arc than 0.06 % of the radius. */
const CHORD_RADIANS = (4 * Math.PI) / 180;

/** Codes of the kinds with arcs that a shape is of or has in it (gpkg_geom_… of OGC 12-128r17, annex F.1, are named after them). */
export function curvedKinds(wkb: Uint8Array): ReadonlySet<number> {
  const found = new Set<number>();
  if (wkbCode(wkb) % 1000 >= WKB.GeometryCollection)
    readWkb(wkb, { geometry: (code) => void (code > WKB.GeometryCollection && found.add(code)), vertex: () => undefined });
  return found;
}

interface Node {
  readonly code: number;
  readonly hasZ: boolean;
  readonly hasM: boolean;
  /** Each position with all of its ordinates. */
  readonly runs: number[][][];
  readonly parts: Node[];
}

const writer = new WkbWriter();

/**
 * The shape with its arcs as chords of 4 degrees at most, its middle points kept; heights and measures go evenly along each arc. A shape
 * without arcs comes back as it is.
 * @returns null where the bytes are damaged
 */
export function straightWkb(wkb: Uint8Array): Uint8Array | null {
  if (curvedKinds(wkb).size === 0) return wkb;
  const root = treeOf(wkb);
  if (!root) return null;
  write(root);
  return writer.finish();
}

function treeOf(wkb: Uint8Array): Node | null {
  const view = viewOf(wkb);
  const little = wkb[0] === 1;
  const open: Node[] = [];
  let root: Node | null = null;
  let run: number[][] = [];
  const isRead = readWkb(wkb, {
    geometry: (code, _, hasZ, hasM) => void open.push({ code, hasZ, hasM, runs: [], parts: [] }),
    run: () => void open.at(-1)!.runs.push((run = [])),
    vertex: (x, y, at) => {
      const { hasZ, hasM } = open.at(-1)!;
      const more = Number(hasZ) + Number(hasM);
      run.push([x, y, ...Array.from({ length: more }, (_, i) => view.getFloat64(at + 16 + i * 8, little))]);
    },
    end: () => {
      const done = open.pop()!;
      const parent = open.at(-1);
      if (parent) parent.parts.push(done);
      else root = done;
    },
  });
  return isRead ? root : null;
}

function write(node: Node): void {
  const { hasZ, hasM, runs, parts } = node;
  const code = STRAIGHT[node.code] ?? node.code;
  writer.type(code, hasZ, hasM);
  if (code === WKB.Point) return positions(runs[0] ?? []);
  if (code === WKB.LineString) return counted(lineOf(node));
  if (code === WKB.Polygon) {
    const rings = node.code === WKB.CurvePolygon ? parts.map(lineOf) : runs;
    writer.count(rings.length);
    return rings.forEach(counted);
  }
  writer.count(parts.length);
  parts.forEach(write);
}

function counted(line: readonly number[][]): void {
  writer.count(line.length);
  positions(line);
}

function positions(line: readonly number[][]): void {
  for (const [x, y, third, fourth] of line) writer.position(x!, y!, third, fourth);
}

/** Positions of a line, of arcs, or of both one behind the other: where one ends, the next begins. */
function lineOf({ code, runs, parts }: Node): number[][] {
  if (code === WKB.CompoundCurve) return parts.flatMap((part, i) => (i === 0 ? lineOf(part) : lineOf(part).slice(1)));
  const run = runs[0] ?? [];
  return code === WKB.CircularString ? ofArcs(run) : run;
}

function ofArcs(run: readonly number[][]): number[][] {
  const line = run.slice(0, 1);
  for (let i = 0; i + 2 < run.length; i += 2) line.push(...chords(run[i]!, run[i + 1]!, run[i + 2]!));
  return line;
}

/** What follows the start on the arc through three points; a whole circle where start and end are one, its middle being opposite. */
function chords(start: readonly number[], middle: readonly number[], end: readonly number[]): number[][] {
  const [ax, ay, bx, by, cx, cy] = [start[0]!, start[1]!, middle[0]!, middle[1]!, end[0]!, end[1]!];
  const isCircle = ax === cx && ay === cy;
  // From the start, so that no digits are lost far from the origin.
  const [ux, uy, vx, vy] = [bx - ax, by - ay, cx - ax, cy - ay];
  const cross = 2 * (ux * vy - uy * vx);
  if (!isCircle && cross === 0) return [[...middle], [...end]];
  const [u2, v2] = [ux * ux + uy * uy, vx * vx + vy * vy];
  const ox = isCircle ? ux / 2 : (vy * u2 - uy * v2) / cross;
  const oy = isCircle ? uy / 2 : (ux * v2 - vx * u2) / cross;
  const radius = Math.hypot(ox, oy);
  if (!Number.isFinite(radius) || radius === 0) return [[...middle], [...end]];
  const angle = (x: number, y: number): number => Math.atan2(y - ay - oy, x - ax - ox);
  const isLeft = isCircle || cross > 0; // anticlockwise; which way round a circle goes is not told
  const turn = (from: number, to: number): number => {
    const raw = (to - from) % (2 * Math.PI);
    if (isLeft) return raw <= 0 ? raw + 2 * Math.PI : raw;
    return raw >= 0 ? raw - 2 * Math.PI : raw;
  };
  const from = angle(ax, ay);
  const half = turn(from, angle(bx, by));
  const along = (start_: readonly number[], end_: readonly number[], at: number, by_: number): number[][] => {
    const steps = Math.ceil(Math.abs(by_) / CHORD_RADIANS);
    const points = Array.from({ length: Math.max(0, steps - 1) }, (_, i) => {
      const t = (i + 1) / steps;
      const theta = at + by_ * t;
      const flat = [ax + ox + radius * Math.cos(theta), ay + oy + radius * Math.sin(theta)];
      return [...flat, ...start_.slice(2).map((v, k) => v + (end_[2 + k]! - v) * t)];
    });
    return [...points, [...end_]];
  };
  return [...along(start, middle, from, half), ...along(middle, end, from + half, turn(from + half, angle(cx, cy)))];
}
