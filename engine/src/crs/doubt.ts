import { crsFacts } from '@rootmap/core';
import { readTable } from '../disk/crs-table.js';
import { definitionOf, offBy, ownBaseOf } from './definitions.js';

/** `[code, metres to which the shift that is applied is known, metres of the shift where none is]`, by scripts/make-datum-table.mjs. */
type Row = readonly [number, number | null, number | null];

/** How far a change of CRS may be off on the ground. */
export interface Doubt {
  /** Null: nobody can say. */
  readonly metres: number | null;
  /** A sentence for people; null: no shift between datums is needed, as far as the table knows. */
  readonly why: string | null;
}

const EXACT: Doubt = { metres: 0, why: null };
let rows: Map<string, Row> | null = null;

/**
 * Between CRSs of one datum, coordinates are computed exactly. From one datum to another they are shifted by a rule that fits
 * within some metres, or, where only a grid has the shift, not at all: grids do not ship with the app.
 */
export function doubtOf(from: string, to: string): Doubt {
  const [a, b] = [baseOf(from), baseOf(to)];
  const off = Math.max(offBy(from) ?? 0, offBy(to) ?? 0);
  if (a !== null && a === b)
    return off === 0 ? EXACT : { metres: off, why: `Positions are right to within about ${length(off)}, as the two are computed here.` };
  rows ??= new Map(readTable<Row>('datum-shift.json').map((r) => [`EPSG:${r[0]}`, r]));
  const sides = [a, b].map((code) => (code === null ? undefined : rows!.get(code)));
  const parts = sides.map((r) => (!r || r[1] === null || r[2] === null ? null : r[1] + r[2]));
  if (parts.includes(null))
    return { metres: null, why: 'The two have different datums, and how well the shift between them fits is not known here.' };
  const metres = Math.ceil((parts[0]! + parts[1]! + off) * 1000) / 1000;
  if (metres === 0) return EXACT;
  const isLeftOut = sides.some((r) => r![2]! > 0);
  return {
    metres,
    why: isLeftOut
      ? `The two have different datums, and the shift between them needs a grid that is not here: positions can be off by up to ${length(metres)}.`
      : `The two have different datums: positions are right to within about ${length(metres)}.`,
  };
}

const length = (metres: number): string => (metres < 0.01 ? `${Math.ceil(metres * 1000)} mm` : `${Number(metres.toPrecision(3))} m`);

function baseOf(code: string): string | null {
  const own = ownBaseOf(code);
  if (own !== null) return own;
  const definition = definitionOf(code);
  return definition && (crsFacts(definition.wkt)?.base ?? null);
}
