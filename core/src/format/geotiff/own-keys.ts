import type { CrsTable } from '../../crs/crs-table.js';

/*
 * A projection that keys tell one by one, as text. Numbers of keys, methods and units: OGC 19-008r4, annexes B and D (the older
 * GeoTIFF 1.0, section 6.3, has the same).
 */
type Keys = ReadonlyMap<number, number | string>;

const GEOGRAPHIC = 2048;
const ANGULAR_UNIT = 2054;
const PROJECTED = 3072;
const PROJECTED_CITATION = 3073;
const CITATION = 1026;
const CONVERSION = 3074;
const METHOD = 3075;
const LINEAR_UNIT = 3076;
const LINEAR_UNIT_METRES = 3077;
const USER_DEFINED = 32767;
const DEGREE = 9102;

/** Metres of the units of length that have a code. */
const LENGTHS: Readonly<Record<number, readonly [name: string, metres: number]>> = {
  9001: ['metre', 1],
  9002: ['foot', 0.3048],
  9003: ['US survey foot', 1200 / 3937],
};

const LATITUDE = ['latitude_of_origin', 3081, 3085, 3089] as const;
const LONGITUDE = ['central_meridian', 3080, 3084, 3088] as const;
const EAST = ['false_easting', 3082, 3086, 3090] as const;
const NORTH = ['false_northing', 3083, 3087, 3091] as const;
const SCALE = ['scale_factor', 3092, 3093] as const;
const FIRST = ['standard_parallel_1', 3078] as const;
const SECOND = ['standard_parallel_2', 3079] as const;
const STRAIGHT = ['central_meridian', 3095, 3080] as const;

type Told = readonly [name: string, ...keys: number[]];
const METHODS: Readonly<Record<number, readonly [name: string, ...told: Told[]]>> = {
  1: ['Transverse_Mercator', LATITUDE, LONGITUDE, SCALE, EAST, NORTH],
  7: ['Mercator_1SP', LATITUDE, LONGITUDE, SCALE, EAST, NORTH],
  8: ['Lambert_Conformal_Conic_2SP', FIRST, SECOND, LATITUDE, LONGITUDE, EAST, NORTH],
  9: ['Lambert_Conformal_Conic_1SP', LATITUDE, LONGITUDE, SCALE, EAST, NORTH],
  10: ['Lambert_Azimuthal_Equal_Area', LATITUDE, LONGITUDE, EAST, NORTH],
  11: ['Albers_Conic_Equal_Area', FIRST, SECOND, LATITUDE, LONGITUDE, EAST, NORTH],
  12: ['Azimuthal_Equidistant', LATITUDE, LONGITUDE, EAST, NORTH],
  13: ['Equidistant_Conic', FIRST, SECOND, LATITUDE, LONGITUDE, EAST, NORTH],
  15: ['Polar_Stereographic', LATITUDE, STRAIGHT, SCALE, EAST, NORTH],
  16: ['Oblique_Stereographic', LATITUDE, LONGITUDE, SCALE, EAST, NORTH],
  22: ['Polyconic', LATITUDE, LONGITUDE, EAST, NORTH],
  24: ['Sinusoidal', LONGITUDE, EAST, NORTH],
  28: ['Cylindrical_Equal_Area', FIRST, LONGITUDE, EAST, NORTH],
};
const FIRST_PARAMETER = 3078;
const LAST_PARAMETER = 3095;

/** Null where a key is missing, says something that is not read here, or the geographic CRS below is not registered. */
export function textOfOwnKeys(keys: Keys, table: CrsTable): string | null {
  const code = keys.get(GEOGRAPHIC);
  const base = typeof code === 'number' && code !== USER_DEFINED ? (table.textOf?.(`EPSG:${code}`) ?? null) : null;
  const method = METHODS[Number(keys.get(METHOD))];
  const unit = unitOf(keys);
  if (base === null || !method || !unit || keys.get(PROJECTED) !== USER_DEFINED) return null;
  if ((keys.get(CONVERSION) ?? USER_DEFINED) !== USER_DEFINED || (keys.get(ANGULAR_UNIT) ?? DEGREE) !== DEGREE) return null;
  const [name, ...told] = method;
  const read = new Set<number>();
  const parameters = told.flatMap(([parameter, ...ids]) => {
    const id = ids.find((k) => typeof keys.get(k) === 'number');
    if (id === undefined) return [];
    read.add(id);
    return [`PARAMETER["${parameter}",${keys.get(id)}]`];
  });
  for (let id = FIRST_PARAMETER; id <= LAST_PARAMETER; id++) if (keys.has(id) && keys.get(id) !== 0 && !read.has(id)) return null;
  const written = keys.get(PROJECTED_CITATION) ?? keys.get(CITATION);
  const title = (typeof written === 'string' ? written : '').replaceAll('"', "'") || 'CRS of the picture';
  return `PROJCS["${title}",${base},PROJECTION["${name}"],${parameters.join(',')},UNIT["${unit[0]}",${unit[1]}]]`;
}

function unitOf(keys: Keys): readonly [string, number] | null {
  const code = keys.get(LINEAR_UNIT);
  const metres = keys.get(LINEAR_UNIT_METRES);
  if (code === USER_DEFINED) return typeof metres === 'number' && metres > 0 ? ['unit of its own', metres] : null;
  return LENGTHS[typeof code === 'number' ? code : 9001] ?? null;
}
