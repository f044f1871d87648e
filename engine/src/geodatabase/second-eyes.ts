import { crc32 } from 'node:zlib';
import { decode as decodePng } from 'fast-png';
import { GeoTIFF, getDecoder, type GeoTIFFImage } from 'geotiff';
import { memorySource, pieces, type ByteSource, type FileGroup } from '@rootmap/core';
import { basename, dirname } from '../disk/native-path.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { platformBelow, type NodePlatform } from '../survey/platform.js';

/** Rows of a raster: numbers of its first band in full, NaN where there is none; or four bytes of colours a pixel. */
export type SeenRows = { readonly values: Float64Array } | { readonly colours: Uint8Array };

/** A raster as another reader reads it, by packages that share no code with the reader and the writer of an import. */
export interface SecondEyes {
  readonly width: number;
  readonly height: number;
  /** @param row from 0, in the order of the file */
  rows(row: number, count: number): Promise<SeenRows | null>;
}

/** Pixels of a grid that are held at once. */
const MOST_HELD = 16_000_000;

/**
 * Null: none of the other readers reads it, or not to the same numbers (packings that lose something are unpacked differently by each).
 * @param band from 1, of those beside the one of opacity; null: colours, or the first
 */
export async function secondEyes(
  { dataset: { group } }: FoundDataset,
  platform: NodePlatform,
  band: number | null = null,
): Promise<SecondEyes | null> {
  const source = platform.open(group.path);
  try {
    if (group.format === 'geotiff') return await tiffEyes(source, await beside(group, platform), band);
    if (group.format === 'ascii-grid') return gridEyes(source);
    return group.format === 'image' && /\.png$/i.test(group.path) ? await pngEyes(source, (await beside(group, platform)).mask) : null;
  } catch {
    return null;
  }
}

/**
 * Three bands, from 1, as the red, green and blue of a picture; null: another reader does not read one of them.
 * @param levels of each the value that has no colour, and the one that has all of it
 */
export async function eyesOfComposite(
  found: FoundDataset,
  platform: NodePlatform,
  bands: readonly number[],
  levels: readonly { readonly from: number; readonly to: number }[],
): Promise<SecondEyes | null> {
  const eyes = (await Promise.all(bands.map((band) => secondEyes(found, platform, band)))).filter((e) => e !== null);
  const [one] = eyes;
  if (!one || eyes.length < bands.length) return null;
  return {
    width: one.width,
    height: one.height,
    async rows(row, count) {
      const seen = await Promise.all(eyes.map((e) => e.rows(row, count)));
      const colours = new Uint8Array(one.width * count * 4);
      for (let i = 0; i < one.width * count; i++) {
        const three = seen.map((s, k) => {
          const value = s && 'values' in s ? s.values[i]! : NaN;
          return ((value - levels[k]!.from) / (levels[k]!.to - levels[k]!.from)) * 255;
        });
        if (three.some((v) => !Number.isFinite(v))) continue;
        three.forEach((v, k) => (colours[i * 4 + k] = Math.min(255, Math.max(0, Math.round(v)))));
        colours[i * 4 + 3] = 255;
      }
      return { colours };
    },
  };
}

/** A TIFF that was written here, as that reader reads it. @param band from 1; null: its colours */
export const eyesOfTiff = async (path: string, platform: NodePlatform, band: number | null): Promise<SecondEyes> =>
  (await tiffEyes(platform.open(basename(path)), NOTHING_BESIDE, band))!;

/** What a TIFF should be: its planes as strips of numbers without gaps, each by its CRC-32. */
export interface StripsOfTiff {
  readonly width: number;
  readonly height: number;
  /** `u8`, `i16`, `f32` and so on. */
  readonly type: string;
  readonly nodata: number | null;
  readonly strips: readonly (readonly number[])[];
}

/** Some of the strips: those whose number leaves `part` when it is divided by `of`. */
export interface ShareOfStrips {
  readonly part: number;
  readonly of: number;
}
const ALL: ShareOfStrips = { part: 0, of: 1 };

/** Whether that reader finds just this in a file: its size, the kind of its numbers, and each byte of each strip, or of a share of them. */
export async function isFoundIn(path: string, what: StripsOfTiff, { part, of } = ALL): Promise<boolean> {
  const { width, height, type, nodata, strips } = what;
  const platform = platformBelow(dirname(path));
  try {
    const image = await (await openTiff(platform.open(basename(path)))).getImage(0);
    const packing = Number(await image.fileDirectory.loadValue('Compression'));
    const decoder = await getDecoder(packing, {
      tileWidth: image.getTileWidth(),
      tileHeight: image.getTileHeight(),
      predictor: 1,
      bitsPerSample: image.getBitsPerSample(),
      planarConfiguration: image.planarConfiguration,
    });
    if (image.getWidth() !== width || image.getHeight() !== height || image.getSamplesPerPixel() !== strips.length) return false;
    if (!Object.is(image.getGDALNoData(), nodata)) return false;
    for (const [plane, sums] of strips.entries())
      for (const [index, sum] of sums.entries()) {
        if (index % of !== part) continue;
        const { data } = await image.getTileOrStrip(0, index, plane, decoder);
        const numbers = image.getArrayForSample(plane, data) as unknown as ArrayBufferView;
        if (KINDS[numbers.constructor.name] !== type) return false;
        if (crc32(new Uint8Array(numbers.buffer, numbers.byteOffset, numbers.byteLength)) !== sum) return false;
      }
    return true;
  } finally {
    platform.close();
  }
}
const KINDS: Readonly<Record<string, string>> = {
  Uint8Array: 'u8',
  Int8Array: 'i8',
  Uint16Array: 'u16',
  Int16Array: 'i16',
  Uint32Array: 'u32',
  Int32Array: 'i32',
  Float32Array: 'f32',
  Float64Array: 'f64',
};

const NOTHING_BESIDE = { mask: null, nodata: null, factor: null, offset: null };

/** Bytes as that reader asks for them. */
function openTiff(source: ByteSource): Promise<GeoTIFF> {
  const slices = {
    fileSize: source.sizeBytes,
    fetch: (wanted: readonly { offset: number; length: number }[]) =>
      Promise.resolve(wanted.map(({ offset, length }) => new Uint8Array(source.read(offset, length)).buffer)),
    close: () => Promise.resolve(),
  };
  return GeoTIFF.fromSource(slices as unknown as Parameters<typeof GeoTIFF.fromSource>[0]);
}

/** JPEG and WebP lose something, and are unpacked differently by each reader; of Lerc that reader leaves out which pixels count. */
const NOT_ALIKE = new Set([6, 7, 50001, 34887]);

/** What stands beside a TIFF: which pixels count, and what its numbers are. */
interface Beside {
  readonly mask: GeoTIFF | null;
  readonly nodata: number | null;
  readonly factor: number | null;
  readonly offset: number | null;
}

async function beside({ path, companions }: FileGroup, platform: NodePlatform): Promise<Beside> {
  const named = (ending: string): ByteSource | null => {
    const file = companions.find((f) => f.path.toLowerCase() === path.toLowerCase() + ending);
    return file ? platform.open(file.path) : null;
  };
  const [mask, aux] = [named('.msk'), named('.aux.xml')];
  const text = aux ? Buffer.from(aux.read(0, aux.sizeBytes)).toString('utf8') : '';
  const band = text.split('<PAMRasterBand band="1">')[1]?.split('</PAMRasterBand>')[0] ?? '';
  const number = (tag: string): number | null => {
    const after = band.split(`<${tag}`)[1]?.split('>')[1]?.split('<')[0]?.trim();
    return after ? Number(after) : null;
  };
  return { mask: mask && (await openTiff(mask)), nodata: number('NoDataValue'), factor: number('Scale'), offset: number('Offset') };
}

async function tiffEyes(source: ByteSource, side: Beside, chosen: number | null): Promise<SecondEyes | null> {
  const tiff = await openTiff(source);
  const image = await tiff.getImage(0);
  const directory = image.fileDirectory;
  const [packing, predictor, photometric, bits, palette, extra] = await Promise.all([
    directory.loadValue('Compression') as Promise<unknown>,
    directory.loadValue('Predictor') as Promise<unknown>,
    directory.loadValue('PhotometricInterpretation') as Promise<unknown>,
    directory.loadValue('BitsPerSample') as Promise<unknown>,
    directory.loadValue('ColorMap') as Promise<unknown>,
    directory.loadValue('ExtraSamples') as Promise<unknown>,
  ]);
  if (NOT_ALIKE.has(Number(packing))) return null;
  if (!tiff.littleEndian && predictor !== undefined && Number(predictor) !== 1) return null; // that reader takes them for little-endian
  const bytes = Number(first(bits)) === 8;
  const samples = image.getSamplesPerPixel();
  const kinds = extra === undefined ? [] : Array.from(extra as ArrayLike<number>);
  const opaque = kinds.findIndex((k) => k === 1 || k === 2);
  const alpha = opaque < 0 ? null : samples - kinds.length + opaque;
  const mask = (await maskOf(tiff, image, 1)) ?? (side.mask && (await maskOf(side.mask, image, 0)));
  const nodata = image.getGDALNoData() ?? side.nodata;
  const number = (chosen ?? 1) - 1;
  const sample = alpha !== null && number >= alpha ? number + 1 : number;
  const words = sample === 0 ? side : { factor: null, offset: null };
  const scale = (await image.getGDALMetadata(sample)) as Record<string, string> | null;
  const [factor, offset] = [
    Number(scale?.['SCALE'] ?? scale?.['scale'] ?? words.factor ?? 1),
    Number(scale?.['OFFSET'] ?? scale?.['offset'] ?? words.offset ?? 0),
  ];
  const isPalette = Number(photometric) === 3 && palette !== undefined;
  const isColour = chosen === null && (isPalette || (Number(photometric) === 2 && bytes && samples >= 3));
  const width = image.getWidth();
  const height = image.getHeight();
  const read = async (from: GeoTIFFImage, row: number, count: number, wanted: number[]): Promise<ArrayLike<number>[]> =>
    await from.readRasters({ window: [0, row, width, row + count], samples: wanted });
  return {
    width,
    height,
    async rows(row, count) {
      const all = width * count;
      const isShown = mask ? (await read(mask, row, count, [0]))[0]! : null;
      if (!isColour) {
        const wanted = alpha === null ? [sample] : [sample, alpha];
        const [band, opacity] = await read(image, row, count, wanted);
        const values = new Float64Array(all).fill(NaN);
        for (let i = 0; i < all; i++) {
          if (band![i] === nodata || opacity?.[i] === 0 || isShown?.[i] === 0) continue;
          values[i] = band![i]! * factor + offset;
        }
        return { values };
      }
      const colours = new Uint8Array(all * 4);
      const bands = await read(image, row, count, isPalette ? [0] : alpha === null ? [0, 1, 2] : [0, 1, 2, alpha]);
      const table = Array.from((palette as ArrayLike<number> | undefined) ?? []);
      for (let i = 0; i < all; i++) {
        if (isPalette && bands[0]![i] === nodata) continue;
        for (let k = 0; k < 3; k++)
          colours[i * 4 + k] = isPalette ? Math.round(table[(k * table.length) / 3 + bands[0]![i]!]! / 257) : bands[k]![i]!;
        colours[i * 4 + 3] = isShown?.[i] === 0 ? 0 : isPalette || alpha === null ? 255 : bands[3]![i]!;
      }
      return { colours };
    },
  };
}

const first = (value: unknown): unknown => (typeof value === 'number' ? value : (value as ArrayLike<number> | undefined)?.[0]);

/** The image that says which pixels count. TIFF 6.0, NewSubfileType bit 2. */
async function maskOf(tiff: GeoTIFF, image: GeoTIFFImage, from: number): Promise<GeoTIFFImage | null> {
  const count = await tiff.getImageCount();
  for (let i = from; i < count; i++) {
    const other = await tiff.getImage(i);
    const kind: unknown = await other.fileDirectory.loadValue('NewSubfileType');
    if ((from === 0 || kind === 4 || kind === 5) && other.getWidth() === image.getWidth() && other.getHeight() === image.getHeight())
      return other;
  }
  return null;
}

/** A text of words: six or so say the shape, the rest are numbers, line by line from the north. */
function gridEyes(source: ByteSource): SecondEyes | null {
  const decoder = new TextDecoder('latin1');
  const head = new Map<string, number>();
  let values: Float64Array | null = null;
  let at = 0;
  let rest = '';
  const take = (word: string): void => {
    if (values === null) return;
    const value = Number(word);
    if (at < values.length) values[at] = value === head.get('nodata_value') ? NaN : value;
    at++;
  };
  let key: string | null = null;
  for (const piece of pieces(source)) {
    const words = (rest + decoder.decode(piece, { stream: true })).split(/\s+/);
    rest = words.pop() ?? '';
    for (const word of words) {
      if (word === '') continue;
      if (values === null && key !== null) {
        head.set(key, Number(word));
        key = null;
      } else if (values === null && /^[a-z]/i.test(word) && word.toLowerCase() !== 'nan') key = word.toLowerCase();
      else {
        if (values === null) {
          const all = (head.get('ncols') ?? 0) * (head.get('nrows') ?? 0);
          if (all <= 0 || all > MOST_HELD) return null;
          values = new Float64Array(all).fill(NaN);
        }
        take(word);
      }
    }
  }
  if (rest !== '') take(rest);
  const [width, height] = [head.get('ncols') ?? 0, head.get('nrows') ?? 0];
  const all = values;
  if (all === null || at !== all.length) return null;
  return { width, height, rows: (row, count) => Promise.resolve({ values: all.slice(row * width, (row + count) * width) }) };
}

async function pngEyes(source: ByteSource, masking: GeoTIFF | null): Promise<SecondEyes | null> {
  const colours = coloursOfPng(source.read(0, source.sizeBytes));
  if (!colours) return null;
  const { width, height, data } = colours;
  const mask = masking && (await masking.getImage(0));
  if (mask?.getWidth() === width && mask.getHeight() === height) {
    const [shown] = (await mask.readRasters({ samples: [0] })) as unknown as ArrayLike<number>[];
    for (let i = 0; i < width * height; i++) if (shown![i] === 0) data[i * 4 + 3] = 0;
  }
  return {
    width,
    height,
    rows: (row, count) => Promise.resolve({ colours: data.slice(row * width * 4, (row + count) * width * 4) }),
  };
}

/** Four bytes a pixel; null: it has more than a byte a sample. */
export function coloursOfPng(bytes: Uint8Array): { readonly width: number; readonly height: number; readonly data: Uint8Array } | null {
  const { width, height, depth, channels, data, palette, transparency } = decodePng(bytes);
  if (depth !== 8 || transparency !== undefined) return null;
  const out = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const colour = palette ? palette[data[i]!]! : Array.from(data.subarray(i * channels, (i + 1) * channels));
    const isGrey = !palette && channels < 3;
    for (let k = 0; k < 3; k++) out[i * 4 + k] = isGrey ? colour[0]! : colour[k]!;
    out[i * 4 + 3] = palette ? (colour[3] ?? 255) : channels === 2 ? colour[1]! : channels === 4 ? colour[3]! : 255;
  }
  return { width, height, data: out };
}

/** Numbers of a coverage's tile, as another reader reads a TIFF. */
export async function numbersOfTile(data: Uint8Array): Promise<ArrayLike<number>> {
  const tiff = await openTiff(memorySource(data));
  const [band] = (await (await tiff.getImage(0)).readRasters({ samples: [0] })) as unknown as ArrayLike<number>[];
  return band!;
}
