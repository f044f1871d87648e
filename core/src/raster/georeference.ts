import type { Extent } from '../dataset/dataset.js';

/**
 * Pixel to world: x = c + a·col + b·row, y = f + d·col + e·row, for the outer corner of the upper-left pixel.
 * Order here: [c, a, b, f, d, e].
 */
export type Transform = readonly [number, number, number, number, number, number];

/** The six lines of a world file, which speaks of the centre of the upper-left pixel. Null where they are not numbers. */
export function parseWorldFile(text: string): Transform | null {
  const lines = text
    .trim()
    .split(/\s+/)
    .slice(0, 6)
    .map((t) => Number(t.replace(',', '.')));
  if (lines.length < 6 || !lines.every(Number.isFinite)) return null;
  const [a, d, b, e, x, y] = lines as [number, number, number, number, number, number];
  return [x - a / 2 - b / 2, a, b, y - d / 2 - e / 2, d, e];
}

export const apply = (t: Transform, col: number, row: number): [number, number] => [
  t[0] + t[1] * col + t[2] * row,
  t[3] + t[4] * col + t[5] * row,
];

/** The box around the four corners. */
export function extentOf(t: Transform, width: number, height: number): Extent {
  const corners = [apply(t, 0, 0), apply(t, width, 0), apply(t, 0, height), apply(t, width, height)];
  const xs = corners.map((c) => c[0]);
  const ys = corners.map((c) => c[1]);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export const pixelSize = (t: Transform): [number, number] => [Math.hypot(t[1], t[4]), Math.hypot(t[2], t[5])];

/** What an `.aux.xml` says of the numbers of the first band; null: it does not say. */
export interface AuxBand {
  readonly nodata: number | null;
  readonly factor: number | null;
  readonly offset: number | null;
}
const NO_AUX_BAND: AuxBand = { nodata: null, factor: null, offset: null };

/** @param xml as programs that keep what a raster's format has no place for write it (common practice of several programs) */
export function parseAuxBand(xml: string): AuxBand {
  const band = /<PAMRasterBand band="1"[^>]*>([^]*?)<\/PAMRasterBand>/.exec(xml)?.[1];
  if (band === undefined) return NO_AUX_BAND;
  const number = (name: string): number | null => {
    const text = new RegExp(`<${name}[^>]*>\\s*([^<]*?)\\s*</${name}>`).exec(band)?.[1];
    if (text === undefined || text === '') return null;
    return /^nan$/i.test(text) ? NaN : Number(text);
  };
  return { nodata: number('NoDataValue'), factor: number('Scale'), offset: number('Offset') };
}

/** Georeferencing in an `.aux.xml`: the transform and the CRS text. */
export function parseAuxXml(xml: string): { transform: Transform | null; wkt: string | null; georeferenceText: string } {
  const gt = /<GeoTransform>([^<]*)<\/GeoTransform>/.exec(xml)?.[1];
  const srs = /<SRS[^>]*>([^<]*)<\/SRS>/.exec(xml)?.[1];
  const n = gt?.split(',').map(Number) ?? [];
  const transform = n.length === 6 && n.every(Number.isFinite) ? (n as unknown as Transform) : null;
  const wkt = srs ? srs.replaceAll('&quot;', '"').replaceAll('&lt;', '<').replaceAll('&gt;', '>').replaceAll('&amp;', '&') : null;
  return { transform, wkt, georeferenceText: `${gt?.trim() ?? ''}\n${wkt?.trim() ?? ''}` };
}
