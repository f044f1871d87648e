import { wkbToGeoJson, type GeoJsonGeometry } from './wkb-to-geojson.js';

/** Well-known text of a geometry (OGC 06-103r4, clause 7), with Z where it has it; M is left out. Null: damaged. */
export function wkbToWkt(wkb: Uint8Array): string | null {
  const shape = wkbToGeoJson(wkb);
  return shape && textOf(shape);
}

function textOf(g: GeoJsonGeometry): string {
  const name = g.type.toUpperCase();
  if (g.geometries) return g.geometries.length === 0 ? `${name} EMPTY` : `${name} (${g.geometries.map(textOf).join(', ')})`;
  const first = firstPosition(g.coordinates);
  if (!first) return `${name} EMPTY`;
  const body = nested(g.coordinates as Nested);
  return `${name}${first.length > 2 ? ' Z' : ''} ${g.type === 'Point' ? `(${body})` : body}`;
}

type Nested = readonly number[] | readonly Nested[];

function nested(c: Nested): string {
  if (typeof c[0] === 'number') return c.join(' ');
  return `(${(c as readonly Nested[]).map(nested).join(', ')})`;
}

function firstPosition(c: unknown): readonly number[] | null {
  if (!Array.isArray(c) || c.length === 0) return null;
  return typeof c[0] === 'number' ? (c as number[]) : firstPosition(c[0]);
}
