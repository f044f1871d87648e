import type { WktNode } from './wkt-node.js';

type Json = Readonly<Record<string, unknown>>;

const isObject = (value: unknown): value is Json => typeof value === 'object' && value !== null && !Array.isArray(value);
const node = (keyword: string, values: readonly (string | number)[], children: readonly (WktNode | null)[] = []): WktNode => ({
  keyword,
  values,
  children: children.filter((c) => c !== null),
});
const nameOf = (json: Json): string => (typeof json['name'] === 'string' ? json['name'] : '');

/** Units that PROJJSON gives by their names alone (PROJ, schema v0.7, "unit"). */
const DEGREE = 0.0174532925199433;

/**
 * A CRS as JSON (PROJJSON; PROJ, schemas/v0.7/projjson.schema.json, which follows OGC 18-010r7 member by member) as the tree that
 * its newer WKT has. Null where the text is none.
 */
export function parseProjJson(text: string): WktNode | null {
  try {
    const json: unknown = JSON.parse(text);
    return isObject(json) ? crsOf(json, 0) : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

const DEEPEST = 4;

function crsOf(json: Json, depth: number): WktNode | null {
  if (depth > DEEPEST) return null;
  switch (json['type']) {
    case 'ProjectedCRS':
      return node('PROJCRS', [nameOf(json)], [baseOf(json), conversionOf(json), unitOf(axisOf(json), 'LENGTHUNIT'), idOf(json)]);
    case 'GeographicCRS':
    case 'GeodeticCRS':
      return node('GEOGCRS', [nameOf(json)], geodetic(json));
    case 'CompoundCRS': {
      const parts = Array.isArray(json['components']) ? json['components'].filter(isObject) : [];
      return node('COMPOUNDCRS', [nameOf(json)], [...parts.map((part) => crsOf(part, depth + 1)), idOf(json)]);
    }
    case 'BoundCRS': {
      const source = json['source_crs'];
      return isObject(source) ? crsOf(source, depth + 1) : null;
    }
    default:
      return null; // heights alone, engineering
  }
}

function baseOf(json: Json): WktNode | null {
  const base = json['base_crs'];
  return isObject(base) ? node('BASEGEOGCRS', [nameOf(base)], geodetic(base)) : null;
}

function geodetic(json: Json): (WktNode | null)[] {
  const datum = json['datum'] ?? json['datum_ensemble'];
  if (!isObject(datum)) return [];
  const { ellipsoid, prime_meridian: meridian } = datum;
  const unit = axisOf(json);
  return [
    node('DATUM', [nameOf(datum)], [isObject(ellipsoid) ? ellipsoidOf(ellipsoid) : null]),
    isObject(meridian) ? node('PRIMEM', [nameOf(meridian), numberOf(meridian['longitude']) ?? 0]) : null,
    unit === null ? null : unitOf(unit, 'ANGLEUNIT'),
    idOf(json),
  ];
}

function ellipsoidOf(json: Json): WktNode | null {
  const a = numberOf(json['semi_major_axis']) ?? numberOf(json['radius']);
  if (a === null) return null;
  const b = numberOf(json['semi_minor_axis']);
  const inverse = numberOf(json['inverse_flattening']) ?? (b !== null && b !== a ? a / (a - b) : 0);
  return node('ELLIPSOID', [nameOf(json), a, inverse]);
}

/** A length or an angle, plain or with its unit, in the unit that the tree tells: metres, degrees. */
function numberOf(value: unknown): number | null {
  if (typeof value === 'number') return value;
  if (!isObject(value) || typeof value['value'] !== 'number') return null;
  const factor = factorOf(value['unit']);
  return value['value'] * (factor === null ? 1 : isAngle(value['unit']) ? factor / DEGREE : factor);
}

const isAngle = (unit: unknown): boolean => unit === 'degree' || (isObject(unit) && unit['type'] === 'AngularUnit');
function factorOf(unit: unknown): number | null {
  if (unit === 'metre' || unit === 'unity') return 1;
  if (unit === 'degree') return DEGREE;
  return isObject(unit) && typeof unit['conversion_factor'] === 'number' ? unit['conversion_factor'] : null;
}

function conversionOf(json: Json): WktNode | null {
  const conversion = json['conversion'];
  if (!isObject(conversion) || !isObject(conversion['method'])) return null;
  const parameters = Array.isArray(conversion['parameters']) ? conversion['parameters'].filter(isObject) : [];
  return node(
    'CONVERSION',
    [nameOf(conversion)],
    [
      node('METHOD', [nameOf(conversion['method'])]),
      ...parameters.map((p) => {
        const value = typeof p['value'] === 'number' ? p['value'] : NaN;
        const isScale = p['unit'] === 'unity' || (isObject(p['unit']) && p['unit']['type'] === 'ScaleUnit');
        const keyword = isScale ? 'SCALEUNIT' : isAngle(p['unit']) ? 'ANGLEUNIT' : 'LENGTHUNIT';
        return node('PARAMETER', [nameOf(p), value], [unitOf(p, keyword)]);
      }),
    ],
  );
}
const unitName = (of: Json): string => (typeof of['unit'] === 'string' ? of['unit'] : isObject(of['unit']) ? nameOf(of['unit']) : '');

function axisOf(json: Json): Json | null {
  const system = json['coordinate_system'];
  const axes = isObject(system) && Array.isArray(system['axis']) ? system['axis'].filter(isObject) : [];
  return axes[0] ?? null;
}
function unitOf(axis: Json | null, keyword: string): WktNode | null {
  const factor = axis && factorOf(axis['unit']);
  return factor === null ? null : node(keyword, [unitName(axis!), factor]);
}

function idOf(json: Json): WktNode | null {
  const id = json['id'];
  if (!isObject(id)) return null;
  const { authority, code } = id;
  return typeof authority === 'string' && (typeof code === 'string' || typeof code === 'number') ? node('ID', [authority, code]) : null;
}
