import { authorityCode, child, parseWkt, wktName } from './wkt.js';
import type { WktNode } from './wkt-node.js';
import { asWkt1 } from './wkt2.js';

/** What a CRS is made of, in words. */
export interface CrsFacts {
  readonly datum: string | null;
  readonly ellipsoid: string | null;
  /** Of projected ones. */
  readonly method: string | null;
  readonly unit: string | null;
  /** Code of the geographic CRS that it is computed from, or its own; `EPSG:n`. */
  readonly base: string | null;
}

/** Null where the text is no WKT of a geographic or projected CRS. */
export function crsFacts(wkt: string): CrsFacts | null {
  const parsed = parseWkt(wkt);
  if (!parsed) return null;
  const root = asWkt1(parsed);
  const geographic = root.keyword === 'GEOGCS' ? root : child(root, 'GEOGCS');
  if (!geographic) return null;
  const datum = child(geographic, 'DATUM');
  return {
    datum: words(wktName(datum)),
    ellipsoid: words(wktName(child(datum, 'SPHEROID', 'ELLIPSOID'))),
    method: words(wktName(child(root, 'PROJECTION'))),
    unit: root.keyword === 'GEOGCS' ? 'degree' : unitOf(child(root, 'UNIT')),
    base: authorityCode(geographic),
  };
}

const words = (name: string | null): string | null => name?.replace(/^D_/, '').replaceAll('_', ' ') ?? null;

/** Units of length by their size in metres (EPSG 9001, 9002, 9003, 9005, 9036). */
const LENGTHS: readonly (readonly [number, string])[] = [
  [1, 'metre'],
  [0.3048, 'foot'],
  [1200 / 3937, 'US survey foot'],
  [0.3047972654, "Clarke's foot"],
  [1000, 'kilometre'],
];

/** A unit by its size, since writers call one unit by many names; the name where the size is of no common one. */
function unitOf(unit: WktNode | undefined): string | null {
  const size = Number(unit?.values[1] ?? NaN);
  const known = LENGTHS.find(([metres]) => Math.abs(size / metres - 1) < 1e-7);
  return known?.[1] ?? wktName(unit)?.replaceAll('_', ' ') ?? null;
}
