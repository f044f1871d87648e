import type { Field } from '../../dataset/dataset.js';
import type { Feature, Value } from '../../feature/feature.js';
import { wkbToGeoJson, type GeoJsonGeometry } from '../../geometry/wkb-to-geojson.js';

export const GEOJSON_HEAD = '{"type":"FeatureCollection","features":[\n';
export const GEOJSON_TAIL = '\n]}\n';

/**
 * One feature as RFC 7946 has it: longitude and latitude of WGS 84, outer rings anticlockwise (section 3.1.6). Bytes have no place in it.
 * @returns null where the shape is damaged
 */
export function geoJsonFeature({ geometry, values }: Feature, fields: readonly Field[]): string | null {
  const shape = geometry && wkbToGeoJson(geometry);
  if (geometry && !shape) return null;
  const text = (f: Field, i: number): string => jsonOf(values[i] ?? null, f);
  const members = fields.flatMap((f, i) => (f.type === 'binary' || f.isFeatureId ? [] : [`${JSON.stringify(f.name)}:${text(f, i)}`]));
  const id = fields.flatMap((f, i) => (f.isFeatureId && (values[i] ?? null) !== null ? [`"id":${text(f, i)},`] : []));
  return `{"type":"Feature",${id[0] ?? ''}"properties":{${members.join(',')}},"geometry":${shape ? JSON.stringify(wound(shape)) : 'null'}}`;
}

function jsonOf(value: Value, field: Field): string {
  if (value === null || value instanceof Uint8Array || (typeof value === 'number' && !Number.isFinite(value))) return 'null';
  if (typeof value === 'bigint') return value.toString();
  if (field.type === 'json' && typeof value === 'string') return isJson(value) ? value : JSON.stringify(value);
  return JSON.stringify(value);
}

function isJson(text: string): boolean {
  try {
    JSON.parse(text);
    return true;
  } catch {
    return false; // text of its own
  }
}

type Ring = readonly (readonly number[])[];

function wound(g: GeoJsonGeometry): GeoJsonGeometry {
  if (g.type === 'Polygon') return { ...g, coordinates: rings(g.coordinates as Ring[]) };
  if (g.type === 'MultiPolygon') return { ...g, coordinates: (g.coordinates as Ring[][]).map(rings) };
  return g.geometries ? { ...g, geometries: g.geometries.map(wound) } : g;
}

const rings = (all: readonly Ring[]): Ring[] => all.map((ring, i) => (isClockwise(ring) === (i === 0) ? [...ring].reverse() : ring));

function isClockwise(ring: Ring): boolean {
  let sum = 0;
  for (let i = 1; i < ring.length; i++) {
    const [a, b] = [ring[i - 1]!, ring[i]!];
    sum += (b[0]! - a[0]!) * (b[1]! + a[1]! - 2 * ring[0]![1]!);
  }
  return sum > 0;
}
