import { viewOf } from '../bytes/byte-source.js';
import { readWkb } from './read-wkb.js';
import { WKB } from './wkb-writer.js';

export interface GeoJsonGeometry {
  readonly type: string;
  readonly coordinates?: unknown;
  readonly geometries?: readonly GeoJsonGeometry[];
}

const NAMES = ['', 'Point', 'LineString', 'Polygon', 'MultiPoint', 'MultiLineString', 'MultiPolygon', 'GeometryCollection'];

interface Open {
  readonly code: number;
  readonly runs: number[][][];
  readonly parts: GeoJsonGeometry[];
}

/** A geometry of well-known binary as GeoJSON (RFC 7946): M is left out, since GeoJSON has none. Null: damaged, or a curve. */
export function wkbToGeoJson(wkb: Uint8Array): GeoJsonGeometry | null {
  const view = viewOf(wkb);
  const little = wkb[0] === 1;
  const open: Open[] = [];
  const roots: GeoJsonGeometry[] = [];
  let hasZ = false;
  let run: number[][] = [];
  const isRead = readWkb(wkb, {
    geometry: (code, _, z) => {
      hasZ = z;
      open.push({ code, runs: [], parts: [] });
    },
    run: () => open.at(-1)!.runs.push((run = [])),
    vertex: (x, y, at) => run.push(hasZ ? [x, y, view.getFloat64(at + 16, little)] : [x, y]),
    end: () => {
      const done = closed(open.pop()!);
      (open.at(-1)?.parts ?? roots).push(done);
    },
  });
  const root = roots[0];
  return isRead && root && isKnown(root) ? root : null;
}

const isKnown = (g: GeoJsonGeometry): boolean => g.type !== '' && (g.geometries ?? []).every(isKnown);

function closed({ code, runs, parts }: Open): GeoJsonGeometry {
  const type = NAMES[code] ?? '';
  switch (code) {
    case WKB.Point:
      return { type, coordinates: runs[0]?.[0] ?? [] };
    case WKB.LineString:
      return { type, coordinates: runs[0] ?? [] };
    case WKB.Polygon:
      return { type, coordinates: runs };
    case WKB.GeometryCollection:
      return { type, geometries: parts };
    default:
      return { type, coordinates: parts.map((p) => p.coordinates) };
  }
}
