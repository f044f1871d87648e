import proj4, { type Converter } from 'proj4';
import { identifyCrs, ownCrsOf, ProblemError, type Crs } from '@rootmap/core';
import { crsTable, definitionRow, readTable } from '../disk/crs-table.js';

export interface CrsDefinition {
  /** Null: it is computed wrongly or not at all here, as points of PROJ show. */
  readonly proj4: string | null;
  readonly wkt: string;
}

/** `[code, metres]`, made by scripts/make-crs-off.mjs; null metres: it is not computed. */
type OffRow = readonly [number, number | null];
let off: Map<string, number | null> | null = null;

/**
 * By how many metres CRSs without a code are computed wrongly, as points of PROJ for those of other registries show: equidistant
 * conics over a continent, Robinson, whose table the library reads between its rows in another way, and where the library rounds
 * the shorter axis of Airy 1830 to a millimetre.
 */
const OWN_OFF: readonly (readonly [RegExp, number])[] = [
  [/\+proj=eqdc\b/, 0.003],
  [/\+proj=robin\b/, 0.4],
  [/\+(datum=OSGB36|ellps=airy)\b/, 0.0015],
];

/** By how many metres points of a projected CRS are computed wrongly, at most; null: it is not computed here. Read at first use. */
export function offBy(code: string): number | null {
  if (!isCode(code))
    return Math.max(0, ...OWN_OFF.flatMap(([of, metres]) => (of.test(ownOf(code)?.definition.proj4 ?? '') ? [metres] : [])));
  off ??= new Map(readTable<OffRow>('crs-off.json').map(([n, metres]) => [`EPSG:${n}`, metres]));
  return off.has(code) ? off.get(code)! : 0;
}

/**
 * What names the CRS of a dataset wherever positions are computed: its code, or the text of one that has none, or whose code is not
 * known here, and that is computed all the same. Null: its positions cannot be told in another CRS.
 */
export function crsKey(crs: Crs | null): string | null {
  if (!crs) return null;
  if (crs.code !== null && definitionOf(crs.code)) return crs.code;
  // A code whose definition is not kept here may be computed from the text that came with it.
  return crs.wkt !== null && !isCode(crs.wkt) && definitionOf(crs.wkt)?.proj4 ? crs.wkt : crs.code;
}

/** As people name it. @param key from `crsKey` */
export const keyName = (key: string): string => (isCode(key) ? key : (identifyCrs(key, crsTable)?.name ?? 'a CRS of its own'));

/** `[definition, code of the geographic one]` of CRSs without a code, by their texts. */
const own = new Map<string, { readonly definition: CrsDefinition; readonly base: string } | null>();

function ownOf(wkt: string) {
  let known = own.get(wkt);
  if (known === undefined) {
    const found = ownCrsOf(wkt, crsTable);
    const base = found && definitionOf(found.base)?.proj4;
    known = base ? { definition: { proj4: `${found.projection} ${below(base)}`, wkt }, base: found.base } : null;
    own.set(wkt, known);
  }
  return known;
}

/** Ellipsoid, shift and prime meridian of a geographic CRS. */
const below = (proj: string): string =>
  proj
    .split(' ')
    .filter((word) => !/^\+(proj|no_defs|type|units)\b/.test(word))
    .join(' ');

const isCode = (key: string): boolean => /^EPSG:\d+$/.test(key);

/** The geographic CRS that one without a code is a projection of, `EPSG:n`; null: it has a code, or is not computed. */
export const ownBaseOf = (key: string): string | null => (isCode(key) ? null : (ownOf(key)?.base ?? null));

/** How a CRS is computed and written; null: it is not known here. Read at first use. @param key a code, or as from `crsKey` */
export function definitionOf(key: string): CrsDefinition | null {
  return isCode(key) ? registered(key) : (ownOf(key)?.definition ?? null);
}

function registered(code: string): CrsDefinition | null {
  const row = definitionRow(code);
  return row && { proj4: offBy(code) === null ? null : row[1], wkt: row[2] };
}

/** Throws `not-found` where a code, `EPSG:n`, is registered for no CRS that is known here; null is no code. */
export function mustBeKnown(code: string | null): void {
  if (code !== null && registered(code) === null) throw new ProblemError({ code: 'not-found', what: 'CRS', id: code });
}

const converters = new Map<string, Converter | null>();
/** Made once for each CRS: reading a definition takes longer than computing many points. */
function converterOf(code: string): Converter | null {
  let converter = converters.get(code);
  if (converter === undefined) {
    const definition = definitionOf(code);
    converters.set(code, (converter = definition?.proj4 ? proj4(definition.proj4, 'WGS84') : null));
  }
  return converter;
}

/**
 * A point as degrees east and north on WGS 84; null where the CRS is not known or the point is none of its own.
 * @param point x and y in the units of the CRS, x = east
 */
export function toDegrees(code: string, point: readonly [number, number]): [number, number] | null {
  const converter = converterOf(code);
  if (!converter) return null;
  try {
    const [x, y] = converter.forward([...point]);
    return Number.isFinite(x) && Number.isFinite(y) && Math.abs(x) <= 360 && Math.abs(y) <= 90 ? [x, y] : null;
  } catch {
    return null; // the projection has no such point, which is the answer
  }
}
