import type { Extent, Field } from './dataset.js';

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

/** Common practice in several languages, no source: what people call such columns, best first. */
const PAIRS: readonly (readonly [RegExp, RegExp, boolean])[] = [
  [
    /^(lon|long|longitude|lng|x_?lon|(gps_?)?lon(g|gitude)?(_?(dd|dms|wgs_?84|deg))?|decimal_?longitude|longitud|longitudine|(geo(gr)?_?)?l(ä|ae)nge(ngrad)?)$/i,
    /^(lat|latitude|y_?lat|(gps_?)?lat(itude)?(_?(dd|dms|wgs_?84|deg))?|decimal_?latitude|latitud|latitudine|(geo(gr)?_?)?breite(ngrad)?)$/i,
    true,
  ],
  [
    /^(e|east|easting|eastings|x_?east|este|rechtswert|rechts_?wert|rw|r_wert|ostwert|ost|oost|est)(_?m|_?\[m\])?$/i,
    /^(n|north|northing|northings|y_?north|norte|hochwert|hoch_?wert|hw|h_wert|nordwert|nord|noord)(_?m|_?\[m\])?$/i,
    false,
  ],
  [
    /^(x|x_?coord|xcoordinate|coord_?x|coordenada_?x|koordinate_?x|x_?koordinate|point_?x|x_?utm|utm_?x|x_?l(ambert)?_?93|x_?rd)$/i,
    /^(y|y_?coord|ycoordinate|coord_?y|coordenada_?y|koordinate_?y|y_?koordinate|point_?y|y_?utm|utm_?y|y_?l(ambert)?_?93|y_?rd)$/i,
    false,
  ],
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
  const isNumber = (f: Field): boolean => f.type === 'integer' || f.type === 'integer64' || f.type === 'real' || f.writtenAs === 'degrees';
  const at = (name: RegExp): number => fields.findIndex((f) => name.test(f.name.trim()) && isNumber(f));
  for (const [xs, ys, isGeographic] of PAIRS) {
    const [x, y] = [at(xs), at(ys)];
    if (x >= 0 && y >= 0) return { kind: 'xy', x, y, isGeographic: isGeographic || fields[x]!.writtenAs === 'degrees' };
  }
  return null;
}

/** Numbers that can be degrees. */
export const isOnGlobe = ([minx, miny, maxx, maxy]: Extent): boolean => minx >= -180 && maxx <= 180 && miny >= -90 && maxy <= 90;
