import Lerc from 'lerc';
import { ZSTDDecoder } from 'zstddec';
import type { Inflate, TiffBlock, TiffImage } from '@rootmap/core';
import { loadSharp } from './load-sharp.js';

const JPEG = 7;
const ZSTD = 50000;
const WEBP = 50001;
const LERC = 34887;
/** TIFF tag 50674: version of Lerc, and what else it is packed with (0 nothing, 1 deflate, 2 Zstandard). Registered by GDAL's TIFF driver. */
const LERC_PARAMETERS = 50674;
const JPEG_TABLES = 347;

/** Packings (TIFF tag 259) that packages take off. */
export const FURTHER_PACKINGS: ReadonlySet<number> = new Set([JPEG, ZSTD, WEBP, LERC]);

/** Lerc of numbers whose highest byte is first is written in ways that differ, and the package does not read those of 32 bits without a sign. */
export const isReadHere = ({ packing, tags, bits, format }: TiffImage): boolean =>
  packing !== LERC || (tags.littleEndian && !(bits === 32 && format === 1));

let zstd: Promise<ZSTDDecoder> | null = null;
function zstdReady(): Promise<ZSTDDecoder> {
  zstd ??= (async () => {
    const decoder = new ZSTDDecoder();
    await decoder.init();
    return decoder;
  })();
  return zstd;
}

/** A block whose packing a package takes off; null: it is damaged, or not there. */
export async function furtherBlock(image: TiffImage, index: number, plane: number, inflate: Inflate): Promise<TiffBlock | null> {
  const packed = image.packed(index, plane);
  if (!packed) return null;
  try {
    const { bytes, samples } = image.heldShape(index);
    switch (image.packing) {
      case ZSTD:
        return image.blockOf(index, (await zstdReady()).decode(packed, bytes), image.tags.littleEndian);
      case LERC: {
        const data = lercBytes(image, await lercOf(image, packed, bytes, inflate), samples);
        return data && image.blockOf(index, data, true);
      }
      default: {
        const data = await pictureBytes(image, index, packed);
        return data && image.blockOf(index, data, true);
      }
    }
  } catch {
    return null; // damaged: nothing is drawn there, and an import says so
  }
}

async function lercOf(image: TiffImage, packed: Uint8Array, bytes: number, inflate: Inflate): Promise<Uint8Array | null> {
  const further = image.tags.numbers.get(LERC_PARAMETERS)?.[1] ?? 0;
  const most = bytes * 2 + 65536; // a block of Lerc that does not get smaller has a head
  return further === 1 ? inflate(packed, most) : further === 2 ? (await zstdReady()).decode(packed) : packed;
}

/**
 * Numbers with the lowest byte first, as this machine and a typed array have them. What Lerc says is no value becomes nodata, or NaN;
 * where opacity is only all or nothing, it stands there and not among the samples.
 */
function lercBytes(image: TiffImage, packed: Uint8Array | null, samples: number): Uint8Array | null {
  if (!packed) return null;
  const own = new Uint8Array(packed); // the package wants a buffer of its own
  const { pixels, mask, pixelType, width, height } = Lerc.decode(own.buffer, { returnPixelInterleavedDims: true });
  const values = pixels[0];
  if (!values || !pixelType.startsWith(image.format === 3 ? 'F' : image.format === 2 ? 'S' : 'U')) return null;
  const each = values.length / (width * height);
  if (each === samples - 1 && image.alpha === each) {
    const all = new (values.constructor as Uint8ArrayConstructor)(width * height * samples);
    for (let i = 0; i < width * height; i++) {
      all.set(values.subarray(i * each, (i + 1) * each), i * samples);
      all[i * samples + each] = mask === null || mask[i] ? 2 ** image.bits - 1 : 0;
    }
    return new Uint8Array(all.buffer);
  }
  if (mask) {
    const none = image.nodata ?? (image.format === 3 ? NaN : 0);
    for (let i = 0; i < mask.length; i++) if (!mask[i]) values.fill(none, i * each, (i + 1) * each);
  }
  return new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
}

/** Samples of a block that is a picture of its own. */
async function pictureBytes(image: TiffImage, index: number, packed: Uint8Array): Promise<Uint8Array | null> {
  const { cols, rows, samples } = image.heldShape(index);
  const picture = (await loadSharp())(image.packing === JPEG ? wholeJpeg(image, packed) : packed, { failOn: 'warning' });
  const { data, info } = await picture
    .toColourspace(samples < 3 ? 'b-w' : 'srgb')
    .raw({ depth: 'uchar' })
    .toBuffer({ resolveWithObject: true });
  return info.width === cols && info.height === rows && info.channels === samples ? data : null;
}

/** The tables that all blocks share, and the block (TIFF Technical Note 2, 1995); where its samples are red, green and blue, it says so. */
function wholeJpeg(image: TiffImage, packed: Uint8Array): Uint8Array {
  const tables = Uint8Array.from(image.tags.numbers.get(JPEG_TABLES) ?? []);
  const shared = tables.length > 4 ? tables.subarray(2, tables.length - 2) : tables.subarray(0, 0);
  const says = image.photometric === 2 ? ADOBE_RGB : tables.subarray(0, 0);
  return Buffer.concat([packed.subarray(0, 2), says, shared, packed.subarray(2)]);
}

/** Marker APP14 with the transform 0: three samples are not YCbCr. ITU-T T.872, 6.5.3. */
const ADOBE_RGB = Uint8Array.of(0xff, 0xee, 0, 14, 0x41, 0x64, 0x6f, 0x62, 0x65, 0, 100, 0, 0, 0, 0, 0);
