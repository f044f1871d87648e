/** What words state, as far as they can be read. A reading of words is a guess, and told as one. */
export interface StatedUnit {
  /** Name as `CrsFacts.unit` has it, `foot` also where nobody says which one. */
  readonly unit: 'metre' | 'foot' | 'US survey foot' | 'kilometre' | 'fathom' | 'degree';
  /** It is said of heights or depths, which the CRS of plane coordinates tells nothing of. */
  readonly isVertical: boolean;
}

const UNITS: readonly (readonly [RegExp, StatedUnit['unit']])[] = [
  [/\b(?:us|u\.s\.) (?:survey )?(?:feet|foot|ft)\b|\bsurvey (?:feet|foot|ft)\b/i, 'US survey foot'],
  [/\b(?:feet|foot|ft)\b/i, 'foot'],
  [/\bkilomet(?:re|er)s?\b|\bkm\b/i, 'kilometre'],
  [/\bmet(?:re|er)s?\b|\bin m\b|:\s*m\b/i, 'metre'],
  [/\bfathoms?\b/i, 'fathom'],
  [/\bdegrees?\b/i, 'degree'],
];
const VERTICAL = /\b(heights?|depths?|elevations?|soundings?|contours?|vertical|z[- ]units?|above|below)\b/i;

/** The unit that words name first; null: none. */
export function statedUnit(words: string): StatedUnit | null {
  const named = UNITS.flatMap(([sign, unit]) => {
    const at = words.search(sign);
    return at < 0 ? [] : [{ at, unit }];
  }).sort((a, b) => a.at - b.at);
  return named[0] ? { unit: named[0].unit, isVertical: VERTICAL.test(words) } : null;
}

/** Codes of the EPSG registry that words name, as `EPSG:n`. */
export const statedCodes = (words: string): string[] => [
  ...new Set([...words.matchAll(/\bEPSG\s?:*(?:\d[\d.]*:)?\s?(\d{4,6})\b/gi)].map((m) => `EPSG:${m[1]!}`)),
];

/** Short names of datums, and the name that the EPSG registry has for them (from memory). */
const DATUMS: readonly (readonly [RegExp, RegExp, string])[] = [
  [/\bWGS[ -]?(?:19)?84\b|\bWorld Geodetic System(?: of)? 1984\b/i, /wgs.?(?:19)?84|world geodetic system 1984/i, 'WGS 84'],
  [/\bNAD[ -]?(?:19)?27\b|\bNorth American Datum(?: of)? 1927\b/i, /north american(?: datum)? 1927|nad.?(?:19)?27/i, 'NAD27'],
  [/\bNAD[ -]?(?:19)?83\b|\bNorth American Datum(?: of)? 1983\b/i, /north american(?: datum)? 1983|nad.?(?:19)?83/i, 'NAD83'],
  [/\bETRS[ -]?(?:19)?89\b|\bEuropean Terrestrial Reference System 1989\b/i, /european terrestrial|etrs.?(?:19)?89/i, 'ETRS89'],
  [/\bED[ -]?(?:19)?50\b|\bEuropean Datum(?: of)? 1950\b/i, /european(?: datum)? 1950|\bed.?50/i, 'ED50'],
  [/\bOSGB[ -]?(?:19)?36\b/i, /osgb.?(?:19)?36|ordnance survey of great britain 1936/i, 'OSGB36'],
  [/\bGDA[ -]?(?:19)?94\b|\bGeocentric Datum of Australia(?: 1994)?\b/i, /geocentric datum of australia 1994|gda.?(?:19)?94/i, 'GDA94'],
  [/\bGDA[ -]?2020\b/i, /geocentric datum of australia 2020|gda.?2020/i, 'GDA2020'],
  [/\bNZGD[ -]?2000\b/i, /new zealand geodetic datum 2000|nzgd.?2000/i, 'NZGD2000'],
  [/\bRGF[ -]?(?:19)?93\b/i, /reseau geodesique francais 1993|rgf.?(?:19)?93/i, 'RGF93'],
  [/\bSIRGAS[ -]?2000\b/i, /sirgas.?2000|geocentrico para las americas 2000/i, 'SIRGAS 2000'],
];

/** A datum that words name; `matches` tells whether the name of another is one of it. Null: none that is known here. */
export function statedDatum(words: string): { readonly name: string; matches(datum: string): boolean } | null {
  const known = DATUMS.find(([sign]) => sign.test(words));
  return known ? { name: known[2], matches: (datum) => known[1].test(datum.normalize('NFD').replace(/\p{M}/gu, '')) } : null;
}

/** Denominators of scales that words name, the largest scale first. */
export const statedScales = (words: string): number[] =>
  [...words.matchAll(/\b1\s?:\s?(\d{1,3}(?:[ ,.'’\u00a0]\d{3})+|\d{3,9})(?!\d)/g)]
    .map((m) => Number(m[1]!.replace(/\D/g, '')))
    .filter((n) => n >= 100)
    .sort((a, b) => a - b);

const LENGTHS: readonly (readonly [RegExp, number])[] = [
  [/^(km|kilomet(?:re|er)s?)$/i, 1000],
  [/^(m|met(?:re|er)s?)$/i, 1],
  [/^(ft|foot|feet)$/i, 0.3048],
];

/** The resolution that words name, in metres: `10 m pixels`, `cell size: 30 metres`. Null: none. */
export function statedResolution(words: string): number | null {
  if (!/\b(resolution|pixels?|cells?|grid|raster|spacing)\b/i.test(words)) return null;
  const found = /(\d+(?:\.\d+)?)[\s-]?(km|kilomet(?:re|er)s?|met(?:re|er)s?|m|feet|foot|ft)\b/i.exec(words);
  const metres = found && LENGTHS.find(([unit]) => unit.test(found[2] ?? ''))?.[1];
  return found && metres ? Number(found[1]) * metres : null;
}

/** The newest year that words name, from 1800 on; null: none. */
export function statedYear(words: string): number | null {
  const years = [...words.matchAll(/(?<!\d)(1[89]\d{2}|20\d{2})(?!\d)/g)].map((m) => Number(m[1]));
  return years.length > 0 ? Math.max(...years) : null;
}
