import { pieces, type ByteSource } from '../../bytes/byte-source.js';
import type { Field } from '../../dataset/dataset.js';
import type { Feature, FeatureStream, Value, Wanted } from '../../feature/feature.js';
import { geoJsonToWkb } from '../../geometry/geojson-to-wkb.js';
import type { Arrangement } from './scan-geojson.js';

const [QUOTE, BACKSLASH, OPEN, CLOSE, OPEN_LIST, CLOSE_LIST] = [0x22, 0x5c, 0x7b, 0x7d, 0x5b, 0x5d];
/** A feature stands in the list of the root: two brackets deep. */
const FEATURE_DEPTH = 3;

/**
 * Features of a GeoJSON text (RFC 7946), one at a time. Each object of the root's lists is cut out of the bytes and parsed
 * by itself; those whose `type` is not `Feature` are passed over.
 * @param fields as the scan of the file found them: values come in their order
 */
export function geoJsonFeatures(source: ByteSource, arrangement: Arrangement, fields: readonly Field[], wanted: Wanted): FeatureStream {
  const mayBeLong = wanted.values && fields.some((f) => f.type === 'integer64');
  return { fields, features: records() };

  function* records(): Generator<Feature> {
    let id = 0;
    if (arrangement === 'sequence') {
      for (const text of objectsAt(source, 1)) {
        const root = parsed(text, mayBeLong);
        if (root) yield toFeature(id++, asFeature(root));
      }
      return;
    }
    let isCollection = false;
    for (const text of objectsAt(source, FEATURE_DEPTH)) {
      const feature = parsed(text, mayBeLong);
      if (feature?.type !== 'Feature') continue; // members of a `crs`, say
      isCollection = true;
      yield toFeature(id++, feature);
    }
    if (isCollection) return;
    // A feature or a geometry that stands alone.
    for (const text of objectsAt(source, 1)) {
      const root = parsed(text, mayBeLong);
      if (root && root.type !== 'FeatureCollection') yield toFeature(id++, asFeature(root));
    }
  }

  function toFeature(id: number, f: RawFeature): Feature {
    const properties = f.properties ?? {};
    return {
      id,
      geometry: wanted.geometry ? geoJsonToWkb(f.geometry) : null,
      values: wanted.values ? fields.map(({ name, isFeatureId }) => toValue(isFeatureId ? f.id : properties[name])) : [],
    };
  }
}

/** A geometry that stands alone is a feature without properties. */
const asFeature = (root: RawFeature): RawFeature =>
  root.type === 'Feature' ? root : { type: 'Feature', geometry: root, properties: null };

interface RawFeature {
  readonly type?: unknown;
  readonly id?: unknown;
  readonly geometry?: unknown;
  readonly properties?: Readonly<Record<string, unknown>> | null;
}

/** What marks a whole number that a double does not hold, while it passes through the parser as text. */
const LONG = '\u0000long:';
const LONG_NUMBERS = /"(?:[^"\\]|\\.)*"|-?\d{16,}(?![\d.eE])/g;

/** @param mayBeLong whole numbers of more than 15 digits are kept to the last one */
function parsed(text: string, mayBeLong: boolean): RawFeature | null {
  try {
    const safe = mayBeLong ? text.replace(LONG_NUMBERS, (token) => (token.startsWith('"') ? token : JSON.stringify(LONG + token))) : text;
    return JSON.parse(safe) as RawFeature;
  } catch {
    return null; // what is damaged was told when the file was surveyed
  }
}

function toValue(value: unknown): Value {
  if (value === undefined || value === null) return null;
  if (typeof value === 'string') return value.startsWith(LONG) ? longOf(value.slice(LONG.length)) : value;
  if (typeof value === 'number' || typeof value === 'boolean') return value;
  return JSON.stringify(value).replaceAll(LONG_TOKEN, '$1');
}

/** As it stands in a text that is written again. */
const LONG_TOKEN = /"\\u0000long:(-?\d+)"/g;

function longOf(digits: string): Value {
  const whole = BigInt(digits);
  const isLong = BigInt.asIntN(64, whole) === whole;
  return isLong && !Number.isSafeInteger(Number(digits)) ? whole : Number(digits);
}

/** Texts of the objects that stand `depth` brackets deep, by counting brackets outside strings. */
function* objectsAt(source: ByteSource, depth: number): Generator<string> {
  const decoder = new TextDecoder('utf-8');
  let level = 0;
  let isString = false;
  let isEscaped = false;
  let held: Uint8Array[] = []; // the start of an object that began in an earlier piece
  for (const piece of pieces(source, 1 << 20)) {
    let from = held.length > 0 ? 0 : -1;
    for (let i = 0; i < piece.length; i++) {
      const byte = piece[i]!;
      if (isString) {
        if (isEscaped) isEscaped = false;
        else if (byte === BACKSLASH) isEscaped = true;
        else if (byte === QUOTE) isString = false;
      } else if (byte === QUOTE) isString = true;
      else if (byte === OPEN || byte === OPEN_LIST) {
        if (++level === depth && byte === OPEN) from = i;
      } else if (byte === CLOSE || byte === CLOSE_LIST) {
        if (level-- === depth && from >= 0) {
          const end = piece.subarray(from, i + 1);
          yield decoder.decode(held.length > 0 ? joined([...held, end]) : end);
          held = [];
          from = -1;
        }
      }
    }
    if (from >= 0) held.push(piece.slice(from));
  }
}

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
