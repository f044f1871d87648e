/** Numbers, dates and sizes as the app writes them. */

export const number = (n: number): string => n.toLocaleString('en-GB').replaceAll(',', '\u202f');

export function bytes(n: number): string {
  if (n < 1024) return `${n} B`;
  const units = ['KiB', 'MiB', 'GiB', 'TiB'];
  let value = n;
  let unit = -1;
  while (value >= 1024 && unit < units.length - 1) {
    value /= 1024;
    unit++;
  }
  return `${value.toFixed(value < 10 ? 2 : value < 100 ? 1 : 0)} ${units[unit]}`;
}

const two = (n: number): string => String(n).padStart(2, '0');
/** Local time. */
export function dateTime(ms: number): string {
  const d = new Date(ms);
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())} ${two(d.getHours())}:${two(d.getMinutes())}`;
}
export function clock(ms: number): string {
  const d = new Date(ms);
  return `${two(d.getHours())}:${two(d.getMinutes())}:${two(d.getSeconds())}`;
}
export const day = (iso: string | null): string => (iso === null ? 'not known' : iso.slice(0, 10));

const MOST_AREA = 140;

/** The area of a CRS; a long list of districts is cut short where one of them ends. */
export function shortArea(area: string): string {
  if (area.length <= MOST_AREA) return area;
  const end = Math.max(area.lastIndexOf(';', MOST_AREA), area.lastIndexOf(',', MOST_AREA));
  return `${area.slice(0, end > 0 ? end : MOST_AREA)}, and more`;
}

export const many = (n: number, one: string, more = `${one}s`): string => `${number(n)} ${n === 1 ? one : more}`;

/** Shortened in the middle, never at the file name. */
export function shortPath(path: string, most: number): string {
  if (path.length <= most) return path;
  const at = path.lastIndexOf('/', path.length - 2);
  const name = path.slice(at);
  const head = Math.max(4, most - name.length - 1);
  return `${path.slice(0, head)}…${name}`;
}

/** What a geometry is called on screens. */
export function kindWord(geometry: string | null): string {
  if (geometry === null) return '';
  if (geometry === 'raster') return 'raster';
  if (/Point/.test(geometry)) return 'points';
  if (/Line/.test(geometry)) return 'lines';
  if (/Polygon|Patch/.test(geometry)) return 'areas';
  return 'mixed';
}

/** Many of a unit of coordinates, as the registry calls one. */
export const units = (unit: string): string =>
  unit === '' ? '' : unit.endsWith('foot') ? unit.replace(/foot$/, 'feet') : unit.endsWith('s') ? unit : `${unit}s`;

/** A share as the system that has shares writes it, and as its place is called everywhere else on the page. */
export const asWritten = (path: string): string => (path.startsWith('//') ? path.replaceAll('/', '\\') : path);
