/** Metres of one degree along the equator of WGS 84: how scales reckon coordinates in degrees (OGC 05-077r4, 10.2). */
const DEGREE_METRES = 111_319.490_793_273_58;
/** International foot and US survey foot, in metres (EPSG units 9002, 9003). */
const FEET: Readonly<Record<string, number>> = { ft: 0.3048, 'us-ft': 1200 / 3937, m: 1, km: 1000 };

/** Metres of one unit of a CRS on the map's plane, by its PROJ string. */
export function unitMetres(proj4: string): number {
  if (/\+proj=longlat\b/.test(proj4)) return DEGREE_METRES;
  const own = Number(/\+to_meter=([\d.eE+-]+)/.exec(proj4)?.[1] ?? NaN);
  if (own > 0) return own;
  return FEET[/\+units=(\S+)/.exec(proj4)?.[1] ?? 'm'] ?? 1;
}
