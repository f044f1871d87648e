import type { FoundCrs } from '../crs/found-crs.js';
import { statedCodes, statedDatum, statedResolution, statedScales, statedUnit, statedYear, type StatedUnit } from '../note/read-stated.js';
import type { Origin } from '../origin/origin.js';
import { checked, type CheckCode, type QualityCheck } from './quality-check.js';
import { scaleWords } from './scale.js';

/** What else was found of it. */
export interface FoundFacts extends FoundCrs {
  /** Denominator of the scale that the distance of corners, or the size of pixels, bears. */
  readonly scale: number | null;
  /** Size of its pixels in metres; null: it has none, or their unit is not known. */
  readonly pixel: number | null;
  readonly modifiedMs: number;
  readonly nowMs: number;
}

type Stated = Pick<Origin, 'statedCrs' | 'statedUnits' | 'statedScale' | 'statedDate'>;

/** Corners may be further apart than what is drawn needs; beyond this it is worth a look (common practice, no source). */
const MUCH_COARSER = 2;
/** Editions older than this are worth a look for a newer one (common practice, no source). */
const OLD_YEARS = 5;

/**
 * What the publisher states against what was found: CRS and datum, units, scale, date. Where nothing is stated there is no check;
 * words that cannot be read are shown and not judged.
 */
export function statedChecks(stated: Stated, found: FoundFacts): QualityCheck[] {
  return [...statedCrsChecks(stated, found), sizeCheck(stated.statedScale, found), dateCheck(stated.statedDate, found)].filter(
    (check) => check !== null,
  );
}

/** Those that need no reading of records: CRS with its datum, and units. */
export const statedCrsChecks = (stated: Pick<Stated, 'statedCrs' | 'statedUnits'>, found: FoundCrs): QualityCheck[] =>
  [crsCheck(stated.statedCrs, found), unitCheck(stated.statedUnits, found)].filter((check) => check !== null);

const quote = (words: string): string => `“${words.length > 160 ? `${words.slice(0, 157)}…` : words}”`;
const same = (code: CheckCode, detail: string): QualityCheck => checked(code, 'pass', [0, 1], detail);
const other = (code: CheckCode, detail: string): QualityCheck => checked(code, 'note', [1, 1], detail);

function crsCheck(words: string, { crs, datum }: FoundCrs): QualityCheck | null {
  if (words === '') return null;
  const [codes, named] = [statedCodes(words), statedDatum(words)];
  const states = `Its publisher states ${quote(words)}`;
  if (crs === null) return other('stated-crs', `${states}, and the data itself says nothing.`);
  if (codes.includes(crs)) return same('stated-crs', `${states}, and the data is in ${crs}.`);
  if (named && datum !== null && !named.matches(datum))
    return other('stated-crs', `${states}, which names another datum (${named.name}) than the data has: ${datum}, in ${crs}.`);
  if (codes.length > 0) return other('stated-crs', `${states}, and the data is in ${crs}.`);
  if (named && datum !== null) return same('stated-crs', `${states}; the datum of ${crs} is that one.`);
  return same('stated-crs', `${states}, which could not be held against ${crs}: look yourself.`);
}

const FEET: ReadonlySet<string> = new Set(['foot', 'US survey foot', "Clarke's foot"]);
/** `feet` alone may be either foot. */
const isSameUnit = (stated: StatedUnit['unit'], found: string): boolean =>
  stated === found || (stated === 'foot' && FEET.has(found)) || (stated === 'degree' && found.startsWith('degree'));

function unitCheck(words: string, { unit }: FoundCrs): QualityCheck | null {
  if (words === '') return null;
  const read = statedUnit(words);
  const states = `Its publisher states ${quote(words)}`;
  if (!read) return same('stated-units', `${states}, in which no unit could be read: look yourself.`);
  if (read.isVertical)
    return same('stated-units', `${states}: that is of heights or depths, which the CRS of its coordinates does not tell.`);
  if (unit === null) return other('stated-units', `${states}, and the data does not tell the unit of its coordinates.`);
  return isSameUnit(read.unit, unit)
    ? same('stated-units', `${states}, and the unit of its coordinates is ${unit}.`)
    : other('stated-units', `${states}, and the unit of its coordinates is ${unit}.`);
}

/** Pixels that are as large as stated differ by rounding alone (common practice, no source). */
const SAME_PIXEL = 0.05;

/** Of pixels the stated resolution counts, where one is stated; else the scale. */
function sizeCheck(words: string, found: FoundFacts): QualityCheck | null {
  const resolution = found.pixel === null ? null : statedResolution(words);
  if (resolution === null || found.pixel === null) return scaleCheck(words, found);
  const states = `Its publisher states ${quote(words)}, and its pixels are ${Number(found.pixel.toPrecision(3))} m`;
  return Math.abs(found.pixel / resolution - 1) <= SAME_PIXEL
    ? same('stated-scale', `${states}.`)
    : other('stated-scale', `${states}, not ${resolution} m.`);
}

function scaleCheck(words: string, { scale }: FoundFacts): QualityCheck | null {
  const [stated] = statedScales(words);
  if (words === '') return null;
  const states = `Its publisher states ${quote(words)}`;
  if (stated === undefined) return same('stated-scale', `${states}, in which no scale could be read: look yourself.`);
  if (scale === null) return same('stated-scale', `${states}; what the data itself bears is not known.`);
  const bears = `what is in it bears about ${scaleWords(scale)} (Tobler 1987)`;
  return scale > stated * MUCH_COARSER
    ? other('stated-scale', `${states}, but ${bears}: it shows less than is stated.`)
    : same('stated-scale', `${states}, and ${bears}${scale * MUCH_COARSER < stated ? ', which looks finer than it was made for' : ''}.`);
}

function dateCheck(words: string, { modifiedMs, nowMs }: FoundFacts): QualityCheck | null {
  if (words === '') return null;
  const year = statedYear(words);
  const states = `Its publisher states ${quote(words)}`;
  if (year === null) return same('stated-date', `${states}, in which no year could be read: look yourself.`);
  const [changed, now] = [new Date(modifiedMs).getUTCFullYear(), new Date(nowMs).getUTCFullYear()];
  if (year > changed) return other('stated-date', `${states}, and its files were changed last in ${changed}, before that.`);
  return now - year > OLD_YEARS
    ? other('stated-date', `${states}, ${now - year} years before it was looked at.`)
    : same('stated-date', `${states}; its files were changed last in ${changed}.`);
}
