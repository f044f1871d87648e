import Papa from 'papaparse';
import type { Field } from '../../dataset/dataset.js';
import type { Feature, Value } from '../../feature/feature.js';
import { viewOf } from '../../bytes/byte-source.js';
import { wkbToWkt } from '../../geometry/wkb-to-wkt.js';

/** How shapes stand in the table: two columns for points, well-known text for others, or not at all. */
export type CsvShape = 'xy' | 'wkt' | 'none';

export interface CsvPlan {
  readonly fields: readonly Field[];
  readonly shape: CsvShape;
  readonly header: readonly string[];
}

/** Columns of the shape come first, under names that no field has. */
export function csvPlan(fields: readonly Field[], shape: CsvShape): CsvPlan {
  const used = new Set(fields.map((f) => f.name.toLowerCase()));
  const free = (name: string): string => {
    let found = name;
    for (let n = 1; used.has(found.toLowerCase()); n++) found = `${name}_${n}`;
    return found;
  };
  const own = shape === 'xy' ? [free('x'), free('y')] : shape === 'wkt' ? [free('wkt')] : [];
  return { fields, shape, header: [...own, ...fields.map((f) => f.name)] };
}

/** Lines as RFC 4180 has them, each with its end. */
export const csvLines = (rows: readonly (readonly string[])[]): string =>
  rows.length === 0 ? '' : `${Papa.unparse(rows as string[][], { newline: '\r\n' })}\r\n`;

/** The cells of one record; null where the shape is damaged. */
export function csvRow({ geometry, values }: Feature, { fields, shape }: CsvPlan): string[] | null {
  const own = shape === 'none' ? [] : shape === 'xy' ? pointOf(geometry) : geometry === null ? [''] : wktOf(geometry);
  return own && [...own, ...fields.map((f, i) => textOf(values[i] ?? null, f))];
}

function pointOf(wkb: Uint8Array | null): string[] {
  if (wkb === null || wkb.length < 21) return ['', ''];
  const [x, y] = [viewOf(wkb).getFloat64(5, wkb[0] === 1), viewOf(wkb).getFloat64(13, wkb[0] === 1)];
  return Number.isNaN(x) || Number.isNaN(y) ? ['', ''] : [String(x), String(y)];
}

function wktOf(wkb: Uint8Array): string[] | null {
  const text = wkbToWkt(wkb);
  return text === null ? null : [text];
}

function textOf(value: Value, field: Field): string {
  if (value === null || value instanceof Uint8Array) return '';
  if (field.type === 'boolean') return value === true || value === 1 ? 'true' : 'false';
  return String(value);
}
