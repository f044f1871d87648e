import type { CrsView } from '@rootmap/core/contract';
import { readTable } from '../disk/crs-table.js';

/** `[code, name, unit, area, west, south, east, north]`, made by scripts/make-crs-table.mjs. */
type Row = readonly [number, string, string, string, number, number, number, number];

let rows: readonly Row[] | null = null;
let byCode: Map<string, Row> | null = null;
const all = (): readonly Row[] => (rows ??= readTable<Row>('crs-area.json'));

const MOST = 60;
const view = ([code, name, unit, area, west, south, east, north]: Row): CrsView => ({
  code: `EPSG:${code}`,
  name,
  unit,
  area,
  bounds: [west, south, east, north],
});

/** A CRS by its code, `EPSG:n`; null: none that maps are drawn in. */
export function crsNamed(code: string): CrsView | null {
  byCode ??= new Map(all().map((r) => [`EPSG:${r[0]}`, r]));
  const row = byCode.get(code);
  return row ? view(row) : null;
}

/** A spot is inside the area that a CRS is meant for, or within a margin of it. All in degrees. */
export function holdsSpot({ bounds: [west, south, east, north] }: CrsView, longitude: number, latitude: number, margin = 0): boolean {
  if (latitude < south - margin || latitude > north + margin) return false;
  const [w, e] = [west - margin, east + margin];
  return west <= east ? longitude >= w && longitude <= e : longitude >= w || longitude <= e;
}

/** CRSs whose code, name or area has every word that is asked for; an exact code first, then the shorter names. */
export function searchCrs(text: string): CrsView[] {
  const words = text
    .toLowerCase()
    .replace(/^epsg:\s*/, '')
    .split(/[\s/,]+/)
    .filter(Boolean);
  if (words.length === 0) return [];
  const found = all().filter((row) => {
    const hay = `${row[0]} ${row[1]} ${row[3]}`.toLowerCase();
    return words.every((w) => hay.includes(w));
  });
  const rank = (row: Row): number => {
    if (String(row[0]) === words[0]) return 0;
    const name = row[1].toLowerCase();
    return words.every((w) => name.includes(w)) ? 1 : 2;
  };
  return [...found]
    .sort((a, b) => rank(a) - rank(b) || a[1].length - b[1].length || a[0] - b[0])
    .slice(0, MOST)
    .map(view);
}

/**
 * Projected CRSs whose area of use holds a point, the smallest area first: the tighter it is, the less it distorts. Of one
 * area, those on WGS 84 come first, since receivers give that.
 * @param longitude degrees east
 * @param latitude degrees north
 */
export function crsAt(longitude: number, latitude: number): CrsView[] {
  return all()
    .filter((row) => row[2] !== 'degree' && holdsSpot(view(row), longitude, latitude))
    .sort((a, b) => sizeOf(a) - sizeOf(b) || Number(isWorld(b)) - Number(isWorld(a)) || a[0] - b[0])
    .slice(0, MOST)
    .map(view);
}

/** Geographic CRSs whose area of use holds a spot, the older codes first: they are those that data is in most. Common practice, no source. */
export const degreesAt = (longitude: number, latitude: number): CrsView[] =>
  all()
    .filter((row) => row[2] === 'degree' && holdsSpot(view(row), longitude, latitude))
    .sort((a, b) => a[0] - b[0])
    .map(view);

/** Projected CRSs whose area of use holds a whole box (west, south, east, north in degrees), or nearly: a tenth of a degree around. */
export function crsAround([west, south, east, north]: readonly [number, number, number, number]): CrsView[] {
  const margin = 0.1;
  return all()
    .filter((row) => row[2] !== 'degree')
    .map(view)
    .filter((crs) => holdsSpot(crs, west, south, margin) && holdsSpot(crs, east, north, margin));
}

const widthOf = ([, , , , west, , east]: Row): number => (east >= west ? east - west : 360 - west + east);
const isWorld = (row: Row): boolean => row[1].startsWith('WGS 84');
const sizeOf = (row: Row): number => widthOf(row) * (row[7] - row[5]);
