import type { Loss } from '@rootmap/core';
import type { PixelWindow } from './pixel-window.js';

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
  /** It is a picture of red, green and blue. */
  readonly isColour?: boolean;
  /** A band's values, the first being 0; NaN where there is none. Null: colours only, or no such band. */
  values(cols: Int32Array, rows: Int32Array, step: number, band?: number): Promise<Float64Array | null>;
  colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null>;
  /** A band's values in a part, row by row; missing where a source cannot give them faster than one by one. */
  window?(band: number, box: PixelWindow): Promise<Float64Array | null>;
  /** The colours of a part, likewise. */
  colourWindow?(box: PixelWindow): Promise<Rgba | null>;
  /** How its numbers stand in the file, where a format says so. */
  readonly stored?: Stored;
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

/** Kinds of numbers: with and without a sign, with a floating point; the number is of bits. */
export type SampleType = 'u8' | 'i8' | 'u16' | 'i16' | 'u32' | 'i32' | 'f32' | 'f64';

export interface Stored {
  readonly type: SampleType;
  /** What stands where there is no value; null: the file does not say. */
  readonly nodata: number | null;
  /** Of numbers that stand for colours: red, green and blue of each, 0 to 65535, one after the other. */
  readonly palette: readonly number[] | null;
}

/** Rows of a raster one below the other: four bytes of colours, or one number, a pixel. NaN where there is no value. */
export type Band = { readonly colours: Rgba } | { readonly values: Float32Array };

/** Whole rows of any source. */
export async function readBand(pixels: PixelSource, row: number, rows: number): Promise<Band> {
  if (pixels.band) return pixels.band(row, rows);
  const box = { col: 0, row, width: pixels.width, height: rows };
  const colours = await readColours(pixels, box);
  return colours ? { colours } : { values: Float32Array.from((await readWindow(pixels, 0, box))!) };
}

/** A band's numbers in a part of any source; null: it has no such band. */
export async function readWindow(pixels: PixelSource, band: number, box: PixelWindow): Promise<Float64Array | null> {
  return pixels.window ? pixels.window(band, box) : pixels.values(...positionsIn(box), 1, band);
}

/** The colours in a part of any source; null: it has none. */
export async function readColours(pixels: PixelSource, box: PixelWindow): Promise<Rgba | null> {
  return pixels.colourWindow ? pixels.colourWindow(box) : pixels.colours(...positionsIn(box), 1);
}

function positionsIn({ col, row, width, height }: PixelWindow): [Int32Array, Int32Array] {
  return [
    Int32Array.from({ length: width * height }, (_, i) => col + (i % width)),
    Int32Array.from({ length: width * height }, (_, i) => row + Math.floor(i / width)),
  ];
}
