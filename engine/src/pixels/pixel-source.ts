import type { Loss } from '@rootmap/core';

/** Colours of a picture: red, green, blue, opacity, 0 to 255 each. */
export type Rgba = Uint8ClampedArray<ArrayBuffer>;

/**
 * The pixels of a raster, at any of its own positions. `cols` and `rows` are in its full resolution, whole numbers; -1 stands
 * for outside. `step` is how many of its pixels one that is asked for stands for: a reduced picture may serve.
 */
export interface PixelSource {
  readonly width: number;
  readonly height: number;
  /** Bands that have values; 0: colours only. */
  readonly bands: number;
  /** All of its bands are whole numbers from 0 to 255. */
  readonly isBytes?: boolean;
  /** A band's values, the first being 0; NaN where there is none. Null: colours only, or no such band. */
  values(cols: Int32Array, rows: Int32Array, step: number, band?: number): Promise<Float64Array | null>;
  colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null>;
  /** A band's values in whole rows; missing where a source cannot give them faster than one by one. */
  wholeRows?(band: number, row: number, rows: number): Promise<Float64Array | null>;
  /** All pixels of whole rows at their own resolution; missing where a source cannot give them faster than one by one. */
  band?(row: number, rows: number): Promise<Band>;
  /** Blocks that were asked for and could not be unpacked: what stood in them is missing. */
  readonly damaged?: number;
  /** What of the raster is not among these values or colours. */
  readonly leftOut?: readonly Loss[];
  /** Fewer pixels are held than the raster has: enough for a picture, not for a copy. */
  readonly isReduced?: boolean;
  close(): void;
}

/** Rows of a raster one below the other: four bytes of colours, or one number, a pixel. NaN where there is no value. */
export type Band = { readonly colours: Rgba } | { readonly values: Float32Array };

/** Whole rows of any source. */
export async function readBand(pixels: PixelSource, row: number, rows: number): Promise<Band> {
  if (pixels.band) return pixels.band(row, rows);
  const { width } = pixels;
  const cols = Int32Array.from({ length: width * rows }, (_, i) => i % width);
  const lines = Int32Array.from({ length: width * rows }, (_, i) => row + Math.floor(i / width));
  const colours = await pixels.colours(cols, lines, 1);
  return colours ? { colours } : { values: Float32Array.from((await pixels.values(cols, lines, 1))!) };
}
