import proj4, { type Converter } from 'proj4';
import { ProblemError } from '@rootmap/core';
import { readTable } from '../disk/crs-table.js';

/** `[code, proj4 string, WKT 1]`, made by scripts/make-crs-table.mjs. */
type Row = readonly [number, string, string];
export interface CrsDefinition {
  /** Null: it is computed wrongly or not at all here, as points of PROJ show. */
  readonly proj4: string | null;
  readonly wkt: string;
}

/** `[code, metres]`, made by scripts/make-crs-off.mjs; null metres: it is not computed. */
type OffRow = readonly [number, number | null];
let off: Map<string, number | null> | null = null;

/** By how many metres points of a projected CRS are computed wrongly, at most; null: it is not computed here. Read at first use. */
export function offBy(code: string): number | null {
  off ??= new Map(readTable<OffRow>('crs-off.json').map(([n, metres]) => [`EPSG:${n}`, metres]));
  return off.has(code) ? off.get(code)! : 0;
}

let rows: Map<string, CrsDefinition> | null = null;

/** How a registered CRS is computed and written; null: it is not known here. Read at first use. */
export function definitionOf(code: string): CrsDefinition | null {
  rows ??= new Map(
    readTable<Row>('crs-definition.json.gz').map(([n, string, wkt]) => {
      const of = `EPSG:${n}`;
      return [of, { proj4: offBy(of) === null ? null : string, wkt }];
    }),
  );
  return rows.get(code) ?? null;
}

/** Throws `not-found` where a code, `EPSG:n`, is registered for no CRS that is known here; null is no code. */
export function mustBeKnown(code: string | null): void {
  if (code !== null && definitionOf(code) === null) throw new ProblemError({ code: 'not-found', what: 'CRS', id: code });
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
