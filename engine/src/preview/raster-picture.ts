import { isAsItIs, PLAIN_RASTER, type Extent, type RasterLook, type Resampling, type Transform } from '@rootmap/core';
import type { Transformer } from '../crs/transformer.js';
import type { PixelSource, Rgba } from '../pixels/pixel-source.js';
import { isResampled, resampled, type Places } from '../pixels/resample.js';
import { loadSharp } from '../pixels/load-sharp.js';

/** From the value that is black to the one that is white. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

export interface RasterInPlace {
  readonly pixels: PixelSource;
  readonly transform: Transform;
  /** From the CRS that is drawn to the raster's own. */
  readonly back: Transformer;
}

interface Positions {
  /** -1 where there is none. */
  readonly cols: Int32Array;
  readonly rows: Int32Array;
  readonly places: Places;
  /** How many pixels of the raster one of the picture stands for. */
  readonly step: number;
}

/** Where on the raster a position of the drawn CRS lies, in columns and rows from its upper left; null: beside it. */
function placeOn({ pixels, transform, back }: RasterInPlace): (x: number, y: number) => { col: number; row: number } | null {
  const [c, a, b, f, d, e] = transform;
  const determinant = a * e - b * d;
  return (drawnX, drawnY) => {
    const image = back(drawnX, drawnY);
    if (!image) return null;
    const [x, y] = [image[0] - c, image[1] - f];
    const col = (e * x - b * y) / determinant;
    const row = (a * y - d * x) / determinant;
    return col >= 0 && row >= 0 && col < pixels.width && row < pixels.height ? { col, row } : null;
  };
}

/** As many bands are told of one pixel. */
const MOST_BANDS = 64;

/** What the pixel at a position of the drawn CRS holds: its values, or its colour; nothing beside the raster. */
export async function pixelAt(
  raster: RasterInPlace,
  [x, y]: readonly [number, number],
): Promise<{ bands?: (number | null)[]; colour?: string | null }> {
  const place = placeOn(raster)(x, y);
  if (!place) return {};
  const [col, row] = [Int32Array.of(Math.floor(place.col)), Int32Array.of(Math.floor(place.row))];
  const bands: (number | null)[] = [];
  for (let band = 0; band < Math.min(raster.pixels.bands, MOST_BANDS); band++) {
    const value = (await raster.pixels.values(col, row, 1, band))?.[0] ?? NaN;
    bands.push(Number.isNaN(value) ? null : value);
  }
  const rgba = await raster.pixels.colours(col, row, 1);
  const hex = rgba && rgba[3]! > 0 ? `#${[...rgba.subarray(0, 3)].map((v) => v.toString(16).padStart(2, '0')).join('')}` : null;
  return { bands, colour: hex };
}

/** Pixels of the raster that stand at those of a picture of an extent. */
function positions(raster: RasterInPlace, [minx, miny, maxx, maxy]: Extent, width: number, height: number): Positions {
  const placed = placeOn(raster);
  const places = { cols: new Float64Array(width * height).fill(-1), rows: new Float64Array(width * height).fill(-1) };
  let [least, most, seen] = [Infinity, -Infinity, 0];
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const place = placed(minx + ((i + 0.5) / width) * (maxx - minx), maxy - ((j + 0.5) / height) * (maxy - miny));
      if (!place) continue;
      const { col, row } = place;
      places.cols[j * width + i] = col;
      places.rows[j * width + i] = row;
      least = Math.min(least, col);
      most = Math.max(most, col);
      seen++;
    }
  const across = Math.max(1, Math.sqrt((seen * width) / height)); // about as many pixels as lie side by side
  return {
    cols: Int32Array.from(places.cols, Math.floor),
    rows: Int32Array.from(places.rows, Math.floor),
    places,
    step: seen === 0 ? 1 : Math.max(1, (most - least) / across),
  };
}

/** 2 % of the values are darker than black and 2 % lighter than white (common practice, no source). */
const CUT = 0.02;

/** How the values of a band become grey; null: it has none. */
export async function stretchOf(raster: RasterInPlace, extent: Extent, band = 0): Promise<Stretch | null> {
  const { cols, rows, step } = positions(raster, extent, 256, 256);
  const values = await raster.pixels.values(cols, rows, step, band);
  const sorted = values?.filter((v) => Number.isFinite(v)).sort();
  if (!sorted || sorted.length === 0) return null;
  const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
  const [from, to] = [at(CUT), at(1 - CUT)];
  return from < to ? { from, to } : { from: sorted[0]!, to: Math.max(sorted.at(-1)!, sorted[0]! + 1) };
}

/**
 * A picture of an extent, in the CRS that is drawn, as PNG.
 * @param stretches of the bands that the look draws, in its order
 */
export async function rasterPicture(
  raster: RasterInPlace,
  extent: Extent,
  width: number,
  height: number,
  stretches: readonly (Stretch | null)[],
  look: RasterLook = PLAIN_RASTER,
): Promise<Buffer> {
  const at = positions(raster, extent, width, height);
  const own = isAsItIs(look) ? await ownColours(raster.pixels, at, look.resampling) : null;
  const colours = own ?? (await colouredBands(raster.pixels, at, stretches, look));
  const data = colours ?? new Uint8ClampedArray(width * height * 4);
  return (await loadSharp())(data, { raw: { width, height, channels: 4 } })
    .png({ compressionLevel: 6 })
    .toBuffer();
}

/** Bands that a look draws, from 0: one, or those of red, green and blue. */
export const bandsOf = ({ band, bands }: RasterLook): readonly number[] => (bands ?? [band]).map((b) => b - 1);

async function ownColours(pixels: PixelSource, { cols, rows, places, step }: Positions, resampling: Resampling): Promise<Rgba | null> {
  const plain = await pixels.colours(cols, rows, step);
  if (!plain || !isResampled(resampling, step)) return plain;
  for (let k = 0; k < 3; k++) {
    const read = async (c: Int32Array, r: Int32Array): Promise<Float64Array> => {
      const colours = (await pixels.colours(c, r, 1))!;
      return Float64Array.from(c, (_, i) => (colours[i * 4 + 3] === 0 ? NaN : colours[i * 4 + k]!));
    };
    (await resampled(pixels, places, resampling, read)).forEach((v, i) => {
      if (!Number.isNaN(v)) plain[i * 4 + k] = v;
    });
  }
  return plain;
}

async function colouredBands(
  pixels: PixelSource,
  { cols, rows, places, step }: Positions,
  stretches: readonly (Stretch | null)[],
  look: RasterLook,
): Promise<Rgba | null> {
  const valuesOf = async (band: number, c: Int32Array, r: Int32Array, s: number): Promise<Float64Array> => {
    const values = (await pixels.values(c, r, s, band)) ?? new Float64Array(c.length).fill(NaN);
    if (look.nodata !== null) values.forEach((v, i) => v === look.nodata && (values[i] = NaN));
    return values;
  };
  const drawn = await Promise.all(
    bandsOf(look).map((band) =>
      isResampled(look.resampling, step)
        ? resampled(pixels, places, look.resampling, (c, r) => valuesOf(band, c, r, 1))
        : valuesOf(band, cols, rows, step),
    ),
  );
  const [red, green, blue] = drawn;
  if (green && blue)
    return together(
      [red!, green, blue],
      stretches.map((s) => look.stretch ?? s),
    );
  return look.ramp ? ramped(red!, look.ramp, look.isStepped) : grey(red!, look.stretch ?? stretches[0] ?? null);
}

/** Three bands as red, green and blue; a pixel that lacks one of them is not drawn. */
function together(bands: readonly Float64Array[], stretches: readonly (Stretch | null)[]): Rgba {
  const count = bands[0]!.length;
  const out = new Uint8ClampedArray(count * 4);
  for (let i = 0; i < count; i++) {
    if (bands.some((b) => !Number.isFinite(b[i]))) continue;
    bands.forEach((b, k) => {
      const { from, to } = stretches[k] ?? { from: 0, to: 255 };
      out[i * 4 + k] = ((b[i]! - from) / (to - from)) * 255;
    });
    out[i * 4 + 3] = 255;
  }
  return out;
}

type Stop = readonly [value: number, red: number, green: number, blue: number, opacity: number];

/** Between stops colours are mixed; in steps a value has the colour of the first stop that is not below it (SLD intervals). */
function ramped(values: Float64Array, ramp: NonNullable<RasterLook['ramp']>, isStepped: boolean): Rgba {
  const stops = ramp
    .map(({ value, colour, opacity }): Stop => {
      const n = parseInt(colour.slice(1), 16);
      return [value, n >> 16, (n >> 8) & 255, n & 255, opacity * 255];
    })
    .sort((a, b) => a[0] - b[0]);
  const out = new Uint8ClampedArray(values.length * 4);
  values.forEach((v, i) => {
    if (!Number.isFinite(v)) return;
    let at = 0;
    while (at < stops.length && stops[at]![0] < v) at++;
    const [low, high] = [stops[Math.max(0, at - 1)]!, stops[Math.min(at, stops.length - 1)]!];
    const t = isStepped || high[0] === low[0] ? 1 : Math.min(1, Math.max(0, (v - low[0]) / (high[0] - low[0])));
    for (let k = 0; k < 4; k++) out[i * 4 + k] = low[k + 1]! + t * (high[k + 1]! - low[k + 1]!);
  });
  return out;
}

function grey(values: Float64Array, stretch: Stretch | null): Rgba | null {
  if (!stretch) return null;
  const out = new Uint8ClampedArray(values.length * 4);
  values.forEach((v, i) => {
    if (!Number.isFinite(v)) return;
    const level = ((v - stretch.from) / (stretch.to - stretch.from)) * 255;
    out.fill(level, i * 4, i * 4 + 3);
    out[i * 4 + 3] = 255;
  });
  return out;
}
