import { WKB, WkbWriter } from './wkb-writer.js';

const writer = new WkbWriter();

/** A GeoJSON geometry (RFC 7946, section 3.1) as well-known binary; null where it is none, or empty. */
export function geoJsonToWkb(geometry: unknown): Uint8Array | null {
  if (typeof geometry !== 'object' || geometry === null) return null;
  const isWritten = write(geometry, 0);
  const bytes = writer.finish();
  return isWritten ? bytes : null;
}

interface GeoJson {
  readonly type?: unknown;
  readonly coordinates?: unknown;
  readonly geometries?: unknown;
}

function write(g: GeoJson, depth: number): boolean {
  const code = WKB[g.type as keyof typeof WKB];
  if (code === undefined || code > WKB.GeometryCollection || depth > 16) return false;
  const hasZ = isHigh(g, depth);
  if (code === WKB.GeometryCollection) {
    if (!Array.isArray(g.geometries)) return false;
    writer.type(code, hasZ);
    writer.count(g.geometries.length);
    return g.geometries.every((part) => typeof part === 'object' && part !== null && write(part as GeoJson, depth + 1));
  }
  return firstPosition(g.coordinates) !== null && parts(code, g.coordinates, hasZ);
}

function parts(code: number, coordinates: unknown, hasZ: boolean): boolean {
  writer.type(code, hasZ);
  if (code === WKB.Point) return position(coordinates, hasZ);
  if (!Array.isArray(coordinates)) return false;
  writer.count(coordinates.length);
  if (code === WKB.LineString) return coordinates.every((p) => position(p, hasZ));
  if (code === WKB.Polygon) return coordinates.every((ring) => run(ring, hasZ));
  return coordinates.every((part) => parts(code - 3, part, hasZ)); // each kind of one part stands three before that of many
}

function run(positions: unknown, hasZ: boolean): boolean {
  if (!Array.isArray(positions)) return false;
  writer.count(positions.length);
  return positions.every((p) => position(p, hasZ));
}

function position(p: unknown, hasZ: boolean): boolean {
  if (!Array.isArray(p)) return false;
  const [x, y, z] = p as unknown[];
  if (typeof x !== 'number' || typeof y !== 'number') return false;
  if (hasZ) writer.position(x, y, typeof z === 'number' ? z : 0);
  else writer.position(x, y);
  return true;
}

/** Told by the first position, in a collection by its first part that has one. */
function isHigh(g: GeoJson, depth: number): boolean {
  const first = firstPosition(g.coordinates);
  if (first || depth > 16 || !Array.isArray(g.geometries)) return (first?.length ?? 0) > 2;
  return g.geometries.some((part) => typeof part === 'object' && part !== null && isHigh(part as GeoJson, depth + 1));
}

function firstPosition(coordinates: unknown): unknown[] | null {
  let at = coordinates;
  while (Array.isArray(at) && Array.isArray(at[0])) at = at[0];
  return Array.isArray(at) && at.length >= 2 ? at : null;
}
