import { viewOf } from '../../bytes/byte-source.js';
import { readWkb } from '../../geometry/read-wkb.js';
import { hasParts, isMultiPointShape, isPointShape } from './shape-types.js';

/** Smaller than -10^38 means "no data" (ESRI Shapefile Technical Description, 1998, page 2). */
const NO_MEASURE = -1e39;

/** The shape type for a kind of shapes, as `Description.geometryType` names it; null: no shapefile holds it. */
export function shapeTypeFor(kind: string): number | null {
  const plain = kind.replace(/[ZM]+$/, '');
  const base = BASE[plain];
  if (base === undefined) return null;
  return base + (kind.slice(plain.length).includes('Z') ? 10 : kind.endsWith('M') ? 20 : 0);
}
const BASE: Readonly<Record<string, number>> = {
  Point: 1,
  MultiPoint: 8,
  LineString: 3,
  MultiLineString: 3,
  Polygon: 5,
  MultiPolygon: 5,
};

interface Run {
  /** x, y, z, m of each position. */
  readonly positions: number[];
  /** Undefined: no ring. */
  readonly isOuter?: boolean;
}

/**
 * The content of one record of a `.shp` (ESRI 1998, pages 5 to 20): outer rings clockwise, holes the other way. M is written only where the
 * shape has it.
 * @returns null where the bytes are damaged or of another kind than `type`
 */
export function shapeOf(wkb: Uint8Array, type: number): Uint8Array | null {
  const view = viewOf(wkb);
  const little = wkb[0] === 1;
  const runs: Run[] = [];
  let [z, m] = [false, false];
  let kind = 0;
  let rings = 0;
  const isRead = readWkb(wkb, {
    geometry: (code, _, hasZ, hasM) => {
      [z, m, kind, rings] = [hasZ, hasM, code, 0];
    },
    run: () => runs.push(kind === 3 ? { positions: [], isOuter: rings++ === 0 } : { positions: [] }),
    vertex: (x, y, at) =>
      runs
        .at(-1)!
        .positions.push(x, y, z ? view.getFloat64(at + 16, little) : 0, m ? view.getFloat64(at + (z ? 24 : 16), little) : NO_MEASURE),
  });
  if (!isRead || !KINDS[type % 10]!.includes(kind)) return null;
  const filled = runs.filter((r) => r.positions.length > 0);
  if (filled.length === 0) return new Uint8Array(4); // an empty shape is a null shape
  for (const run of filled) if (run.isOuter !== undefined && isClockwise(run.positions) !== run.isOuter) reverse(run.positions);
  const [hasZ, hasM] = [type > 10 && type < 20, type > 20 || m];
  return isPointShape(type) ? pointContent(filled[0]!.positions, type) : partsContent(filled, type, hasZ, hasM);
}
/** Codes of well-known binary that the innermost geometry may have, by base type. */
const KINDS: Readonly<Record<number, readonly number[]>> = { 1: [1], 8: [1], 3: [2], 5: [3] };

function isClockwise(p: readonly number[]): boolean {
  let sum = 0;
  for (let i = 0; i + 4 < p.length; i += 4) sum += (p[i + 4]! - p[i]!) * (p[i + 5]! + p[i + 1]! - 2 * p[1]!);
  return sum > 0;
}

function reverse(p: number[]): void {
  for (let i = 0, j = p.length - 4; i < j; i += 4, j -= 4) for (let k = 0; k < 4; k++) [p[i + k], p[j + k]] = [p[j + k]!, p[i + k]!];
}

function pointContent(p: readonly number[], type: number): Uint8Array {
  const values = type === 1 ? [p[0]!, p[1]!] : type === 11 ? p.slice(0, 4) : [p[0]!, p[1]!, p[3]!];
  const out = new Uint8Array(4 + values.length * 8);
  const view = viewOf(out);
  view.setInt32(0, type, true);
  values.forEach((v, i) => view.setFloat64(4 + i * 8, v, true));
  return out;
}

function partsContent(runs: readonly Run[], type: number, hasZ: boolean, hasM: boolean): Uint8Array {
  const points = runs.flatMap((r) => r.positions);
  const n = points.length / 4;
  const parts = hasParts(type) ? runs.length : 0;
  const head = isMultiPointShape(type) ? 40 : 44;
  const out = new Uint8Array(head + parts * 4 + n * 16 + (hasZ ? 16 + n * 8 : 0) + (hasM ? 16 + n * 8 : 0));
  const view = viewOf(out);
  view.setInt32(0, type, true);
  [least(points, 0), least(points, 1), most(points, 0), most(points, 1)].forEach((v, i) => view.setFloat64(4 + i * 8, v, true));
  if (parts > 0) view.setInt32(36, parts, true);
  view.setInt32(head - 4, n, true);
  let first = 0;
  if (parts > 0)
    runs.forEach((r, i) => {
      view.setInt32(head + i * 4, first, true);
      first += r.positions.length / 4;
    });
  let at = head + parts * 4;
  for (let i = 0; i < n; i++, at += 16) {
    view.setFloat64(at, points[i * 4]!, true);
    view.setFloat64(at + 8, points[i * 4 + 1]!, true);
  }
  for (const [has, k] of [
    [hasZ, 2],
    [hasM, 3],
  ] as const) {
    if (!has) continue;
    view.setFloat64(at, least(points, k), true);
    view.setFloat64(at + 8, most(points, k), true);
    at += 16;
    for (let i = 0; i < n; i++, at += 8) view.setFloat64(at, points[i * 4 + k]!, true);
  }
  return out;
}

function least(points: readonly number[], k: number): number {
  let found = Infinity;
  for (let i = k; i < points.length; i += 4) if (points[i]! < found) found = points[i]!;
  return found;
}
function most(points: readonly number[], k: number): number {
  let found = -Infinity;
  for (let i = k; i < points.length; i += 4) if (points[i]! > found) found = points[i]!;
  return found;
}

/** Widens xmin, ymin, xmax, ymax, zmin, zmax, mmin, mmax by the shape of a record. */
export function widenBox(box: Float64Array, content: Uint8Array): void {
  const view = viewOf(content);
  const type = view.getInt32(0, true);
  const grow = (at: number, k: number, isMost: boolean): void => {
    const value = view.getFloat64(at, true);
    if (value < -1e38) return; // no data
    if (isMost ? value > box[k]! : value < box[k]!) box[k] = value;
  };
  if (type === 0) return;
  if (isPointShape(type)) {
    for (const k of [0, 1]) {
      grow(4 + k * 8, k, false);
      grow(4 + k * 8, k + 2, true);
    }
    const places =
      type === 11
        ? [
            [20, 4],
            [28, 6],
          ]
        : type === 21
          ? [[20, 6]]
          : [];
    for (const [at, k] of places) {
      grow(at!, k!, false);
      grow(at!, k! + 1, true);
    }
    return;
  }
  for (const k of [0, 1, 2, 3]) grow(4 + k * 8, k, k > 1);
  const head = isMultiPointShape(type) ? 40 : 44;
  const n = view.getInt32(head - 4, true);
  let at = head + (hasParts(type) ? view.getInt32(36, true) * 4 : 0) + n * 16;
  for (const k of type > 20 ? [6] : type > 10 ? [4, 6] : []) {
    if (at >= content.length) return;
    grow(at, k, false);
    grow(at + 8, k + 1, true);
    at += 16 + n * 8;
  }
}

export const emptyBox = (): Float64Array =>
  Float64Array.of(Infinity, Infinity, -Infinity, -Infinity, Infinity, -Infinity, Infinity, -Infinity);

/** The header of a `.shp` or `.shx` (ESRI 1998, page 3). */
export function shapeHeader(type: number, fileBytes: number, box: Float64Array): Uint8Array {
  const out = new Uint8Array(100);
  const view = viewOf(out);
  view.setInt32(0, 9994);
  view.setInt32(24, fileBytes / 2);
  view.setInt32(28, 1000, true);
  view.setInt32(32, type, true);
  box.forEach((v, i) => view.setFloat64(36 + i * 8, Number.isFinite(v) ? v : 0, true)); // xmin ymin xmax ymax zmin zmax mmin mmax
  return out;
}
