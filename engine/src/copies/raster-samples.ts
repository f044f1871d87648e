import type { Samples } from '../export/geotiff-file.js';
import type { PixelSource, SampleType } from '../pixels/pixel-source.js';

export const RANGES: Readonly<Partial<Record<SampleType, readonly [number, number]>>> = {
  u8: [0, 0xff],
  i8: [-0x80, 0x7f],
  u16: [0, 0xffff],
  i16: [-0x8000, 0x7fff],
  u32: [0, 0xffff_ffff],
  i32: [-0x8000_0000, 0x7fff_ffff],
};
const WIDER: Readonly<Partial<Record<SampleType, SampleType>>> = { i8: 'i16', u16: 'u32', i16: 'i32', u32: 'f64', i32: 'f64' };

/** What the copy's pixels are: as in the source, and something that says where there is none. */
export async function samplesOf(pixels: PixelSource): Promise<Samples> {
  const plain = { bands: pixels.bands, shows: 'numbers', hasOpacity: false, isTogether: false } as const;
  const { type = 'f32', nodata = null, palette = null } = pixels.stored ?? {};
  const isColour = palette === null && (await pixels.colours(Int32Array.of(0), Int32Array.of(0), 1)) !== null;
  if (isColour) return { ...plain, type: 'u8', bands: 3, shows: 'red-green-blue', hasOpacity: true, nodata: null };
  const range = RANGES[type];
  if (!range) return { ...plain, type, nodata: NaN };
  const fits = nodata !== null && Number.isInteger(nodata) && nodata >= range[0] && nodata <= range[1];
  const shows = palette ? { palette } : 'numbers';
  if (fits) return { ...plain, type, shows, nodata };
  if (type === 'u8') return { ...plain, type, shows, hasOpacity: true, nodata: null };
  return { ...plain, type, nodata: unusedOf(type) };
}

/** A value that is rarely one; where it is, a wider kind of number is taken. */
const unusedOf = (type: SampleType): number => {
  const range = RANGES[type];
  return range ? (type.startsWith('i') ? range[0] : range[1]) : NaN;
};
/** A value of the pixels is the one that was to say that there is none. */
export class NodataIsTaken extends Error {}
export const wider = (samples: Samples): Samples => {
  const type = WIDER[samples.type] ?? 'f64';
  return { ...samples, type, nodata: unusedOf(type) };
};
