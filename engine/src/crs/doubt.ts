import { crsFacts } from '@rootmap/core';
import { readTable } from '../disk/crs-table.js';
import { definitionOf, offBy, ownBaseOf } from './definitions.js';
import { gridsFor } from './grids.js';

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

/** One side of a change: how exactly its datum is shifted to WGS 84, in metres. */
interface Side {
  /** By the registered shift; null: nobody can say. */
  readonly metres: number | null;
  readonly isLeftOut: boolean;
  /** The most exact grid of the person that is used, where it reaches. */
  readonly grid: { readonly file: string; readonly metres: number } | null;
  /** Names of grids that are known and not there. */
  readonly missing: readonly string[];
  readonly damaged: readonly string[];
}

/**
 * Between CRSs of one datum, coordinates are computed exactly. From one datum to another they are shifted by a grid that the person
 * has; else by a rule that fits within some metres, or, where only a grid has the shift, not at all: grids do not ship with the app.
 */
export function doubtOf(from: string, to: string): Doubt {
  const [a, b] = [baseOf(from), baseOf(to)];
  const off = Math.max(offBy(from) ?? 0, offBy(to) ?? 0);
  if (a !== null && a === b)
    return off === 0 ? EXACT : { metres: off, why: `Positions are right to within about ${length(off)}, as the two are computed here.` };
  const sides = [sideOf(from, a), sideOf(to, b)];
  const plain = sum(sides.map((s) => s.metres));
  const byGrid = sum(sides.map((s) => s.grid?.metres ?? s.metres));
  const files = sides.flatMap((s) => (s.grid ? [s.grid.file] : []));
  const metres = byGrid === null ? null : Math.ceil((byGrid + off) * 1000) / 1000;
  if (metres === 0 && files.length === 0) return EXACT;
  const elsewhere = plain === null ? 'by an amount that nobody can say' : `by up to ${length(plain + off)}`;
  const better = sides.flatMap((s) => (s.grid ? [] : s.missing));
  const why = [
    files.length > 0 && metres !== null
      ? `By the grid ${files.join(' and ')} positions are right to within about ${length(metres)} where it reaches; elsewhere they can be off ${elsewhere}.`
      : metres === null
        ? 'The two have different datums, and how well the shift between them fits is not known here.'
        : sides.some((s) => s.isLeftOut)
          ? `The two have different datums, and the shift between them needs a grid that is not here: positions can be off by up to ${length(metres)}.`
          : `The two have different datums: positions are right to within about ${length(metres)}.`,
    ...(better.length > 0 ? [betterBy(better)] : []),
    ...sides.flatMap((s) => s.damaged.map((d) => `The grid ${d}; it is not used.`)),
  ].join(' ');
  return { metres, why };
}

/** Several grids of one datum have each a region of their own. */
function betterBy(names: readonly string[]): string {
  const named = names.slice(0, MOST_NAMED).join(', ') + (names.length > MOST_NAMED ? ` and ${names.length - MOST_NAMED} more` : '');
  return names.length === 1
    ? `The grid ${named}, put into the folder "grids" of the app's data, would tell it better.`
    : `A grid for the region, put into the folder "grids" of the app's data, would tell it better: ${named}.`;
}
const MOST_NAMED = 5;

const sum = (parts: readonly (number | null)[]): number | null =>
  parts.includes(null) ? null : parts.reduce<number>((all, part) => all + part!, 0);

function sideOf(key: string, base: string | null): Side {
  rows ??= new Map(readTable<Row>('datum-shift.json').map((r) => [`EPSG:${r[0]}`, r]));
  const row = base === null ? undefined : rows.get(base);
  const { there, missing, damaged } = gridsFor(key);
  return {
    metres: !row || row[1] === null || row[2] === null ? null : row[1] + row[2],
    isLeftOut: (row?.[2] ?? 0) > 0,
    grid: there[0] ?? null,
    missing,
    damaged,
  };
}

const length = (metres: number): string => (metres < 0.01 ? `${Math.ceil(metres * 1000)} mm` : `${Number(metres.toPrecision(3))} m`);

function baseOf(code: string): string | null {
  const own = ownBaseOf(code);
  if (own !== null) return own;
  const definition = definitionOf(code);
  return definition && (crsFacts(definition.wkt)?.base ?? null);
}
