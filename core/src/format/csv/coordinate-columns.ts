import type { Field } from '../../dataset/dataset.js';

/** Positions of the columns that hold coordinates. */
export interface CoordinateColumns {
  readonly kind: 'xy';
  readonly x: number;
  readonly y: number;
  /** Their names say longitude and latitude. */
  readonly isGeographic: boolean;
}
/** One column holds shapes as well-known text. */
interface TextColumn {
  readonly kind: 'wkt';
  readonly column: number;
}
export type ShapeColumns = CoordinateColumns | TextColumn;

/** Common practice, no source: what people call such columns, best first. */
const PAIRS: readonly (readonly [RegExp, RegExp, boolean])[] = [
  [/^(lon|long|longitude|lng|x_?lon|lon_?dd|decimal_?longitude)$/i, /^(lat|latitude|y_?lat|lat_?dd|decimal_?latitude)$/i, true],
  [/^(e|east|easting|eastings|x_?east)$/i, /^(n|north|northing|northings|y_?north)$/i, false],
  [/^(x|x_?coord|xcoordinate|coord_?x|point_?x|x_?utm)$/i, /^(y|y_?coord|ycoordinate|coord_?y|point_?y|y_?utm)$/i, false],
];

const TEXT = /^(wkt|geom_?wkt|wkt_?geom|geom|geometry|the_geom|shape)$/i;
const isWkt = (text: string): boolean =>
  /^\s*(SRID=\d+;)?\s*(MULTI)?(POINT|LINESTRING|POLYGON|GEOMETRYCOLLECTION)\s*(Z|M|ZM)?\s*(\(|EMPTY)/i.test(text);

/**
 * The two columns whose names say so and whose values are numbers, or one of well-known text; null where there are none.
 * @param sample a row of values
 */
export function findCoordinates(fields: readonly Field[], sample: readonly string[]): ShapeColumns | null {
  const column = fields.findIndex((f, i) => TEXT.test(f.name.trim()) && isWkt(sample[i] ?? ''));
  if (column >= 0) return { kind: 'wkt', column };
  const isNumber = (f: Field): boolean => f.type === 'integer' || f.type === 'real';
  const at = (name: RegExp): number => fields.findIndex((f) => name.test(f.name.trim()) && isNumber(f));
  for (const [xs, ys, isGeographic] of PAIRS) {
    const [x, y] = [at(xs), at(ys)];
    if (x >= 0 && y >= 0) return { kind: 'xy', x, y, isGeographic };
  }
  return null;
}

/**
 * What a `.csvt` beside the table says: a list of types, of which `CoordX`, `CoordY` and `WKT` name the columns that hold coordinates
 * (common practice of several programs). Null: it names none, so the table has no shape.
 */
export function coordinatesOfCsvt(text: string): ShapeColumns | null {
  const types = text
    .trim()
    .split(',')
    .map((t) => t.replaceAll('"', '').trim().toLowerCase());
  const [x, y] = [types.indexOf('coordx'), types.indexOf('coordy')];
  if (x >= 0 && y >= 0) return { kind: 'xy', x, y, isGeographic: false };
  const column = types.indexOf('wkt');
  return column >= 0 ? { kind: 'wkt', column } : null;
}

/** A `.csvt` that says which columns hold coordinates; null: none does. */
export function writeCsvt(fields: readonly Field[], columns: Pick<CoordinateColumns, 'x' | 'y'> | null): string {
  const typed = fields.map((f, i) =>
    columns && i === columns.x
      ? 'CoordX'
      : columns && i === columns.y
        ? 'CoordY'
        : f.type === 'integer'
          ? 'Integer'
          : f.type === 'integer64'
            ? 'Integer64'
            : f.type === 'real'
              ? 'Real'
              : 'String',
  );
  return `${typed.map((t) => `"${t}"`).join(',')}\n`;
}
