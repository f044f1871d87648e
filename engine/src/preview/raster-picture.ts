import sharp from 'sharp';
import type { Extent, RasterLook, Transform } from '@rootmap/core';
import type { Transformer } from '../crs/transformer.js';
import type { PixelSource, Rgba } from '../pixels/pixel-source.js';

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

/** Pixels of the raster that stand at those of a picture of an extent, -1 where there are none, and how many one stands for. */
function positions({ pixels, transform, back }: RasterInPlace, [minx, miny, maxx, maxy]: Extent, width: number, height: number) {
  const [c, a, b, f, d, e] = transform;
  const determinant = a * e - b * d;
  const cols = new Int32Array(width * height).fill(-1);
  const rows = new Int32Array(width * height).fill(-1);
  let [least, most, seen] = [Infinity, -Infinity, 0];
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const image = back(minx + ((i + 0.5) / width) * (maxx - minx), maxy - ((j + 0.5) / height) * (maxy - miny));
      if (!image) continue;
      const [x, y] = [image[0] - c, image[1] - f];
      const col = Math.floor((e * x - b * y) / determinant);
      const row = Math.floor((a * y - d * x) / determinant);
      if (col < 0 || row < 0 || col >= pixels.width || row >= pixels.height) continue;
      cols[j * width + i] = col;
      rows[j * width + i] = row;
      least = Math.min(least, col);
      most = Math.max(most, col);
      seen++;
    }
  const across = Math.max(1, Math.sqrt((seen * width) / height)); // about as many pixels as lie side by side
  return { cols, rows, step: seen === 0 ? 1 : Math.max(1, (most - least) / across) };
}

/** 2 % of the values are darker than black and 2 % lighter than white (common practice, no source). */
const CUT = 0.02;

/** How the values of a raster without colours become grey; null: it has colours, or no values. */
export async function stretchOf(raster: RasterInPlace, extent: Extent): Promise<Stretch | null> {
  const { cols, rows, step } = positions(raster, extent, 256, 256);
  const values = await raster.pixels.values(cols, rows, step);
  const sorted = values?.filter((v) => Number.isFinite(v)).sort();
  if (!sorted || sorted.length === 0) return null;
  const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
  const [from, to] = [at(CUT), at(1 - CUT)];
  return from < to ? { from, to } : { from: sorted[0]!, to: Math.max(sorted.at(-1)!, sorted[0]! + 1) };
}

/** A picture of an extent, in the CRS that is drawn, as PNG. */
export async function rasterPicture(
  raster: RasterInPlace,
  extent: Extent,
  width: number,
  height: number,
  stretch: Stretch | null,
  look: RasterLook | null = null,
): Promise<Buffer> {
  const { cols, rows, step } = positions(raster, extent, width, height);
  const colours = (await raster.pixels.colours(cols, rows, step)) ?? coloured(await raster.pixels.values(cols, rows, step), stretch, look);
  const data = colours ?? new Uint8ClampedArray(width * height * 4);
  return sharp(data, { raw: { width, height, channels: 4 } })
    .png({ compressionLevel: 6 })
    .toBuffer();
}

function coloured(values: Float64Array | null, stretch: Stretch | null, look: RasterLook | null): Rgba | null {
  if (!values) return null;
  if (look?.nodata !== null && look?.nodata !== undefined) values.forEach((v, i) => v === look.nodata && (values[i] = NaN));
  return look?.ramp ? ramped(values, look.ramp, look.isStepped) : grey(values, look?.stretch ?? stretch);
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
