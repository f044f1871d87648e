import type { CoordinateColumns, ShapeColumns } from '../../dataset/coordinate-columns.js';
import type { Field, FieldType } from '../../dataset/dataset.js';

/** The types that a `.csvt` beside a table lists, in lower case and without the widths behind them (common practice of several programs). */
export const typesOfCsvt = (text: string): string[] =>
  [...text.trim().matchAll(/"([^"]*)"|([^,"]+)/g)].map((m) =>
    (m[1] ?? m[2]!)
      .trim()
      .toLowerCase()
      .replace(/\([\d.]+\)$/, ''),
  );

/** The type that such a word states; null: none that is known, or one of coordinates. */
export function fieldTypeOf(word: string): FieldType | null {
  if (word === 'string' || word === 'text' || word.startsWith('string(')) return 'text';
  if (word === 'integer64') return 'integer64';
  if (word.startsWith('integer')) return 'integer';
  if (word.startsWith('real') || word === 'double' || word === 'float') return 'real';
  return word === 'date' ? 'date' : null;
}

/**
 * What a `.csvt` beside the table says: a list of types, of which `CoordX`, `CoordY` and `WKT` name the columns that hold coordinates
 * (common practice of several programs). Null: it names none, so the table has no shape.
 */
export function coordinatesOfCsvt(types: readonly string[]): ShapeColumns | null {
  const [x, y] = [types.findIndex((t) => /^(coord|point\()x\)?$/.test(t)), types.findIndex((t) => /^(coord|point\()y\)?$/.test(t))];
  if (x >= 0 && y >= 0) return { kind: 'xy', x, y, isGeographic: false };
  const column = types.indexOf('wkt');
  return column >= 0 ? { kind: 'wkt', column } : null;
}

const CSVT_TYPE: Readonly<Partial<Record<FieldType, string>>> = { integer: 'Integer', integer64: 'Integer64', real: 'Real', date: 'Date' };

/**
 * A `.csvt` that says what type each column has, and which hold coordinates, if any do. Of days that are not written as 2025-12-31
 * it says nothing: other programs would find no day in them.
 */
export function writeCsvt(fields: readonly Field[], columns: Pick<CoordinateColumns, 'x' | 'y'> | null): string {
  const typed = fields.map((f, i) => {
    if (columns && i === columns.x) return 'CoordX';
    if (columns && i === columns.y) return 'CoordY';
    if (f.type === 'date' && f.writtenAs !== undefined) return '';
    return CSVT_TYPE[f.type] ?? 'String';
  });
  return `${typed.map((t) => `"${t}"`).join(',')}\n`;
}
