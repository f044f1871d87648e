import type { Crs } from '../../dataset/dataset.js';
import { crsOfCode, identifyCrs } from '../../crs/identify.js';
import type { CrsTable } from '../../crs/crs-table.js';
import { textOfOwnKeys } from './own-keys.js';
import type { TiffTags } from './read-tiff-tags.js';

const USER_DEFINED = 32767;
const MODEL_TYPE = 1024;
const RASTER_TYPE = 1025;
const CITATION = 1026;
const GEOGRAPHIC = 2048;
const GEOGRAPHIC_CITATION = 2049;
const PROJECTED = 3072;
const PROJECTED_CITATION = 3073;
const PIXEL_IS_POINT = 2;
/** OGC 19-008r4, GTModelTypeGeoKey: 1 projected, 2 geographic, 3 geocentric, 32767 another. */
const GEOGRAPHIC_MODEL = 2;

/** GeoKeys by id. OGC 19-008r4 section 7.1.2: four shorts a key, values in place or in tags 34736 and 34737. */
export function readGeoKeys(tags: TiffTags): ReadonlyMap<number, number | string> {
  const keys = new Map<number, number | string>();
  const directory = tags.numbers.get(34735);
  if (!directory || directory.length < 4) return keys;
  const doubles = tags.numbers.get(34736) ?? [];
  const ascii = tags.texts.get(34737) ?? '';
  const count = Math.min(directory[3]!, Math.floor((directory.length - 4) / 4));
  for (let i = 0; i < count; i++) {
    const [id, location, length, value] = directory.slice(4 + i * 4, 8 + i * 4) as [number, number, number, number];
    if (location === 0) keys.set(id, value);
    else if (location === 34736 && value < doubles.length) keys.set(id, doubles[value]!);
    else if (location === 34737) keys.set(id, ascii.slice(value, value + length).replace(/\|$/, ''));
  }
  return keys;
}

export const isPixelPoint = (keys: ReadonlyMap<number, number | string>): boolean => keys.get(RASTER_TYPE) === PIXEL_IS_POINT;

/** The CRS the keys name; null where there are none. */
export function crsOfGeoKeys(keys: ReadonlyMap<number, number | string>, table: CrsTable): Crs | null {
  const model = keys.get(MODEL_TYPE);
  if (model === undefined) return null;
  const registered = (key: number): number | null => {
    const code = keys.get(key);
    return typeof code === 'number' && code > 0 && code < USER_DEFINED ? code : null;
  };
  const projected = model === GEOGRAPHIC_MODEL ? null : registered(PROJECTED);
  if (projected !== null) return crsOfCode(`EPSG:${projected}`, table);
  // The geographic CRS that a projected one is based on is not the CRS of the coordinates.
  const text = textIn(keys) ?? textOfOwnKeys(keys, table);
  if (text !== null) return identifyCrs(text, table);
  const geographic = model === GEOGRAPHIC_MODEL ? registered(GEOGRAPHIC) : null;
  if (geographic !== null) return crsOfCode(`EPSG:${geographic}`, table);
  const name = keys.get(PROJECTED_CITATION) ?? keys.get(CITATION) ?? keys.get(GEOGRAPHIC_CITATION);
  return { code: null, name: typeof name === 'string' ? name : null, wkt: null };
}

/** Some programs write the whole text of a CRS into a citation, after a mark (common practice of several programs). */
function textIn(keys: ReadonlyMap<number, number | string>): string | null {
  for (const key of [PROJECTED_CITATION, CITATION, GEOGRAPHIC_CITATION]) {
    const text = /PE String\s*=\s*((?:PROJCS|GEOGCS|COMPD_CS|PROJCRS|GEOGCRS)\[.*)$/is.exec(String(keys.get(key) ?? ''))?.[1];
    if (text !== undefined) return text;
  }
  return null;
}
