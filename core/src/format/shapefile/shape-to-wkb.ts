import { WKB, WkbWriter } from '../../geometry/wkb-writer.js';
import { hasParts, isMultiPointShape, isPointShape } from './shape-types.js';

const LITTLE = true;
/** Measures below it mean "no data". ESRI Shapefile Technical Description (1998), page 2. */
const NO_MEASURE = -1e38;
const POLYGONS: readonly number[] = [5, 15, 25];

/** Where the ordinates of one record stand. */
interface Layout {
  readonly writer: WkbWriter;
  readonly view: DataView;
  readonly points: number;
  /** Offsets of the arrays; -1: there is none. */
  readonly xy: number;
  readonly z: number;
  readonly m: number;
}

/**
 * The content of one record as ISO well-known binary (ESRI 1998, pages 5 to 20). Rings of a polygon are told apart by their
 * turn: outer ones go clockwise, holes the other way, and each hole goes to the outer ring around it.
 * @param view holds the content of the record from `from` on, `length` bytes of it
 * @returns good until the writer is used again; null for a null shape, a patch, and where counts reach past the record
 */
export function shapeToWkb(view: DataView, from: number, length: number, writer: WkbWriter): Uint8Array | null {
  const end = from + length;
  if (length < 4) return null;
  const type = view.getInt32(from, LITTLE);
  if (isPointShape(type)) return point(writer, view, type, from, end);
  if (isMultiPointShape(type)) {
    const layout = length < 40 ? null : layoutAt(writer, view, type, from + 40, view.getInt32(from + 36, LITTLE), end);
    return layout && multiPoint(layout);
  }
  if (!hasParts(type) || type === 31 || length < 44) return null;
  const parts = view.getInt32(from + 36, LITTLE);
  const points = view.getInt32(from + 40, LITTLE);
  if (parts < 1 || parts * 4 > length - 44) return null;
  const table = from + 44;
  const layout = layoutAt(writer, view, type, table + parts * 4, points, end);
  if (!layout) return null;
  const runs: Run[] = [];
  for (let i = 0; i < parts; i++) {
    const first = view.getInt32(table + i * 4, LITTLE);
    const last = i + 1 < parts ? view.getInt32(table + 4 + i * 4, LITTLE) : points;
    if (first < 0 || last < first || last > points) return null;
    if (last > first) runs.push({ from: first, to: last });
  }
  if (runs.length === 0) return null;
  return POLYGONS.includes(type) ? polygons(layout, runs) : lines(layout, runs);
}

interface Run {
  readonly from: number;
  readonly to: number;
}

function layoutAt(writer: WkbWriter, view: DataView, type: number, xy: number, points: number, end: number): Layout | null {
  const after = xy + points * 16;
  if (points < 0 || after > end) return null;
  const isZ = type === 11 || type === 13 || type === 15 || type === 18;
  const isM = type > 20 && type < 31;
  const array = (at: number): number => (at + 16 + points * 8 <= end ? at + 16 : -1); // behind its range
  const z = isZ ? array(after) : -1;
  const m = isM ? array(after) : isZ && z >= 0 ? array(z + points * 8) : -1;
  return { writer, view, points, xy, z, m: hasMeasure(view, m, points) ? m : -1 };
}

function hasMeasure(view: DataView, at: number, points: number): boolean {
  if (at < 0) return false;
  for (let i = 0; i < points; i++) if (view.getFloat64(at + i * 8, LITTLE) > NO_MEASURE) return true;
  return false;
}

function point(writer: WkbWriter, view: DataView, type: number, from: number, end: number): Uint8Array | null {
  if (from + 20 > end) return null;
  const at = (offset: number): number | undefined => (from + offset + 8 <= end ? view.getFloat64(from + offset, LITTLE) : undefined);
  const z = type === 11 ? at(20) : undefined;
  const measure = type === 11 ? at(28) : type === 21 ? at(20) : undefined;
  const m = measure !== undefined && measure > NO_MEASURE ? measure : undefined;
  writer.type(WKB.Point, z !== undefined, m !== undefined);
  writer.position(at(4)!, at(12)!, z ?? m, z === undefined ? undefined : m);
  return writer.finishInPlace();
}

function positions({ writer, view, xy, z, m }: Layout, { from, to }: Run): void {
  if (z < 0 && m < 0) {
    writer.raw(new Uint8Array(view.buffer, view.byteOffset + xy + from * 16, (to - from) * 16)); // laid out as WKB has it
    return;
  }
  for (let i = from; i < to; i++) {
    const x = view.getFloat64(xy + i * 16, LITTLE);
    const y = view.getFloat64(xy + i * 16 + 8, LITTLE);
    const measure = m < 0 ? undefined : view.getFloat64(m + i * 8, LITTLE);
    if (z < 0) writer.position(x, y, measure);
    else writer.position(x, y, view.getFloat64(z + i * 8, LITTLE), measure);
  }
}

function multiPoint(layout: Layout): Uint8Array {
  const { writer } = layout;
  writer.type(WKB.MultiPoint, layout.z >= 0, layout.m >= 0);
  writer.count(layout.points);
  for (let i = 0; i < layout.points; i++) {
    writer.type(WKB.Point, layout.z >= 0, layout.m >= 0);
    positions(layout, { from: i, to: i + 1 });
  }
  return writer.finishInPlace();
}

function lines(layout: Layout, runs: readonly Run[]): Uint8Array {
  const { writer } = layout;
  const [hasZ, hasM] = [layout.z >= 0, layout.m >= 0];
  if (runs.length > 1) {
    writer.type(WKB.MultiLineString, hasZ, hasM);
    writer.count(runs.length);
  }
  for (const run of runs) {
    writer.type(WKB.LineString, hasZ, hasM);
    writer.count(run.to - run.from);
    positions(layout, run);
  }
  return writer.finishInPlace();
}

function polygons(layout: Layout, runs: readonly Run[]): Uint8Array {
  const { writer } = layout;
  const [hasZ, hasM] = [layout.z >= 0, layout.m >= 0];
  const groups = runs.length === 1 ? [[runs[0]!]] : withHoles(layout, runs);
  if (groups.length > 1) {
    writer.type(WKB.MultiPolygon, hasZ, hasM);
    writer.count(groups.length);
  }
  for (const rings of groups) {
    writer.type(WKB.Polygon, hasZ, hasM);
    writer.count(rings.length);
    for (const ring of rings) {
      writer.count(ring.to - ring.from);
      positions(layout, ring);
    }
  }
  return writer.finishInPlace();
}

/** Outer rings, each with its holes behind it; a hole that no outer ring holds is an outer ring with a wrong turn. */
function withHoles(layout: Layout, runs: readonly Run[]): Run[][] {
  const outer: { readonly rings: Run[]; readonly area: number }[] = [];
  const holes: Run[] = [];
  for (const run of runs) {
    const area = turningArea(layout, run);
    if (area <= 0) outer.push({ rings: [run], area: -area });
    else holes.push(run);
  }
  const around = [...outer].sort((a, b) => a.area - b.area);
  for (const hole of holes) {
    const x = layout.view.getFloat64(layout.xy + hole.from * 16, LITTLE);
    const y = layout.view.getFloat64(layout.xy + hole.from * 16 + 8, LITTLE);
    const home = outer.length === 1 ? outer[0] : around.find((o) => isInside(layout, o.rings[0]!, x, y));
    if (home) home.rings.push(hole);
    else outer.push({ rings: [hole], area: 0 });
  }
  return outer.map((o) => o.rings);
}

/** Twice the area by the shoelace formula: negative where the ring goes clockwise. */
function turningArea({ view, xy }: Layout, { from, to }: Run): number {
  const x0 = view.getFloat64(xy + from * 16, LITTLE); // near the ring, so that large coordinates lose no digits
  const y0 = view.getFloat64(xy + from * 16 + 8, LITTLE);
  let sum = 0;
  for (let i = from; i < to - 1; i++) {
    const at = xy + i * 16;
    sum += (view.getFloat64(at, LITTLE) - x0) * (view.getFloat64(at + 24, LITTLE) - y0);
    sum -= (view.getFloat64(at + 16, LITTLE) - x0) * (view.getFloat64(at + 8, LITTLE) - y0);
  }
  return sum;
}

/** By crossings of a ray (common practice). */
function isInside({ view, xy }: Layout, { from, to }: Run, x: number, y: number): boolean {
  let inside = false;
  for (let i = from; i < to - 1; i++) {
    const at = xy + i * 16;
    const [ax, ay, bx, by] = [0, 8, 16, 24].map((o) => view.getFloat64(at + o, LITTLE)) as [number, number, number, number];
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
  }
  return inside;
}
