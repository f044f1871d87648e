import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import { ProblemError } from '@rootmap/core';
import type { SampleType } from '../pixels/pixel-source.js';
import { definitionOf } from '../crs/definitions.js';
import { FileSink } from './file-sink.js';

/** What a GeoTIFF says of its pixels. */
export interface GeoTiffSpec {
  readonly width: number;
  readonly height: number;
  readonly samples: Samples;
  /** West, south, east, north of the outer edges of its pixels, in its CRS. */
  readonly extent: readonly [number, number, number, number];
  /** EPSG code; null: nobody knows its CRS. */
  readonly crs: { readonly code: number; readonly isGeographic: boolean } | null;
  /** How many smaller pictures stand behind it, each half as wide and high as the one before. */
  readonly reduced?: number;
}
/** Samples of a pixel, each in a plane of its own, or all side by side. */
export interface Samples {
  readonly type: SampleType;
  readonly bands: number;
  /** What numbers stand for. */
  readonly shows: 'numbers' | 'red-green-blue' | { readonly palette: readonly number[] };
  /** Beside the bands, one of opacity: 0 where there is nothing. */
  readonly hasOpacity: boolean;
  readonly isTogether: boolean;
  /** What stands where there is no value; null: something else tells. */
  readonly nodata: number | null;
}
/** Codes in the keys of a GeoTIFF have 16 bits. @param epsg null, or another than these hold: null */
export function geoTiffCrs(epsg: string | null): GeoTiffSpec['crs'] {
  const code = Number(/^EPSG:(\d+)$/.exec(epsg ?? '')?.[1] ?? 0);
  const definition = code > 0 && code < 65_535 ? definitionOf(`EPSG:${code}`) : null;
  return definition ? { code, isGeographic: /^(GEOGC|GEODC|GEOGR)/i.test(definition.wkt) } : null;
}

/** Four bytes of colours a pixel. */
export const COLOURS: Samples = { type: 'u8', bands: 3, shows: 'red-green-blue', hasOpacity: true, isTogether: true, nodata: null };

/** A strip of so many bytes before it is packed. */
const STRIP_BYTES = 256 * 1024;
const MOST_BYTES = 0xffff_ffff;
/** Strips that are packed at once, besides the one that is being filled. */
const PACKED_AT_ONCE = 32;
const [ASCII, SHORT, LONG, DOUBLE] = [2, 3, 4, 12] as const;
type Entry = readonly [tag: number, type: 2 | 3 | 4 | 12, values: readonly number[]];

const bitsOf = (type: SampleType): number => Number(type.slice(1));
export const planesOf = ({ isTogether, bands, hasOpacity }: Samples): number => (isTogether ? 1 : bands + (hasOpacity ? 1 : 0));
/** Width and height of the n-th smaller picture; 0: the whole one. */
export const sizeOfLevel = ({ width, height }: Pick<GeoTiffSpec, 'width' | 'height'>, level: number): readonly [number, number] => [
  Math.ceil(width / 2 ** level),
  Math.ceil(height / 2 ** level),
];

/** Rows of a strip of a picture that is so wide. */
export const rowsOfStrip = (width: number, { type, bands, hasOpacity, isTogether }: Samples): number =>
  Math.max(1, Math.floor(STRIP_BYTES / (width * (isTogether ? bands + (hasOpacity ? 1 : 0) : 1) * (bitsOf(type) / 8))));

/**
 * A GeoTIFF (OGC 19-008r4) of strips packed with Deflate (Adobe's TIFF Technical Notes, 2002), with smaller pictures of itself
 * (TIFF 6.0, NewSubfileType). What stands where a number is missing is told by GDAL_NODATA (GDAL's own tag, 42113).
 */
export class GeoTiffFile {
  private readonly sink: FileSink;
  private readonly head = Buffer.from([0x49, 0x49, 42, 0, 0, 0, 0, 0]);
  /** Of each picture, the whole one first: where its strips stand, and how long they are. */
  private readonly strips: { readonly offsets: number[]; readonly counts: number[] }[];
  private readonly waiting: Promise<void>[] = [];
  private last: Promise<void> = Promise.resolve();

  constructor(
    private readonly path: string,
    private readonly spec: GeoTiffSpec,
  ) {
    this.strips = Array.from({ length: 1 + (spec.reduced ?? 0) }, () => ({ offsets: [], counts: [] }));
    this.sink = new FileSink(path);
    this.sink.write(this.head);
  }

  /**
   * A strip of a picture, little-endian; it is packed beside what goes on, and stands in the file in the order of the calls. Throws
   * `too-large` where the file would pass what a TIFF of 32-bit offsets holds.
   * @param index from 0, plane after plane
   */
  async put(level: number, index: number, bytes: Uint8Array): Promise<void> {
    // In one piece: a callback for each 16 KiB takes longer than the packing.
    const packed = pack(bytes, { level: DEFLATE_LEVEL, chunkSize: bytes.length + ROOM });
    packed.catch(() => undefined); // told by `last`, which waits for it
    const before = this.last;
    this.last = before.then(async () => this.write(level, index, await packed));
    this.last.catch(() => undefined); // told by whoever waits below, or by `finish`
    this.waiting.push(this.last);
    if (this.waiting.length > PACKED_AT_ONCE) await this.waiting.shift();
  }

  private write(level: number, index: number, packed: Uint8Array): void {
    const at = this.sink.bytes;
    if (at + packed.length > MOST_BYTES - STRIP_BYTES)
      throw new ProblemError({ code: 'too-large', file: this.path, bytes: at + packed.length, limitBytes: MOST_BYTES });
    this.sink.write(packed);
    const { offsets, counts } = this.strips[level]!;
    offsets[index] = at;
    counts[index] = packed.length;
  }

  /** Writes the directories behind the strips. */
  async finish(): Promise<void> {
    await this.last;
    if (this.sink.bytes % 2 === 1) this.sink.write(Buffer.alloc(1)); // directories begin at words (TIFF 6.0, section 2)
    this.head.writeUInt32LE(this.sink.bytes, 4);
    this.strips.forEach((_, level) => {
      const isLast = level === this.strips.length - 1;
      this.sink.write(directoryOf(this.entries(level), this.sink.bytes, isLast));
    });
    this.sink.patchHead(this.head);
    this.sink.close();
  }

  async abandon(): Promise<void> {
    await this.last.catch(() => undefined); // whoever abandons it knows why
    this.sink.close();
  }

  private entries(level: number): Entry[] {
    const { samples, extent, crs } = this.spec;
    const { type, bands, shows, hasOpacity, isTogether, nodata } = samples;
    const [width, height] = sizeOfLevel(this.spec, level);
    const { offsets, counts } = this.strips[level]!;
    const each = (value: number): number[] => new Array<number>(bands + (hasOpacity ? 1 : 0)).fill(value);
    const [west, south, east, north] = extent;
    const keys = crs
      ? [1, 1, 0, 3, 1024, 0, 1, crs.isGeographic ? 2 : 1, 1025, 0, 1, 1, crs.isGeographic ? 2048 : 3072, 0, 1, crs.code]
      : [];
    const [photometric, colours] = shows === 'numbers' ? [1, 1] : shows === 'red-green-blue' ? [2, 3] : [3, 1];
    const place: Entry[] = [
      [33550, DOUBLE, [(east - west) / width, (north - south) / height, 0]],
      [33922, DOUBLE, [0, 0, 0, west, north, 0]],
      [34735, SHORT, keys],
    ];
    const all: Entry[] = [
      [254, LONG, level === 0 ? [] : [REDUCED]],
      [256, LONG, [width]],
      [257, LONG, [height]],
      [258, SHORT, each(bitsOf(type))],
      [259, SHORT, [8]],
      [262, SHORT, [photometric]],
      [273, LONG, offsets],
      [277, SHORT, [each(0).length]],
      [278, LONG, [rowsOfStrip(width, samples)]],
      [279, LONG, counts],
      [284, SHORT, [isTogether ? 1 : 2]],
      [320, SHORT, typeof shows === 'object' ? shows.palette : []],
      [338, SHORT, [...new Array<number>(bands - colours).fill(0), ...(hasOpacity ? [UNASSOCIATED] : [])]],
      [339, SHORT, each(type.startsWith('f') ? 3 : type.startsWith('i') ? 2 : 1)],
      ...(level === 0 ? place : []),
      [42113, ASCII, nodata === null ? [] : [...Buffer.from(`${Number.isNaN(nodata) ? 'nan' : nodata}\0`)]],
    ];
    return all.filter(([, , values]) => values.length > 0);
  }
}
const pack = promisify(deflate);
/** A twentieth larger than at 6, the usual one, in three quarters of its time; numbers with a fraction come out alike. */
const DEFLATE_LEVEL = 5;
/** What Deflate adds at most to a strip that cannot be packed, and more. */
const ROOM = 4096;
/** NewSubfileType, and a sample of opacity by which colours were not multiplied (ExtraSamples). TIFF 6.0. */
const REDUCED = 1;
const UNASSOCIATED = 2;

const SIZES: Readonly<Record<Entry[1], number>> = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8 };

/**
 * A directory with what does not fit into its entries behind it.
 * @param at where it will stand
 * @param isLast no other follows right behind it
 */
function directoryOf(entries: readonly Entry[], at: number, isLast: boolean): Buffer {
  const fixed = 2 + entries.length * 12 + 4;
  const sizes = entries.map(([, type, values]) => values.length * SIZES[type]);
  const out = Buffer.alloc(fixed + sizes.reduce((sum, size) => sum + (size > 4 ? size + (size % 2) : 0), 0));
  out.writeUInt16LE(entries.length, 0);
  let behind = fixed;
  for (const [i, [tag, type, values]] of entries.entries()) {
    const entry = 2 + i * 12;
    out.writeUInt16LE(tag, entry);
    out.writeUInt16LE(type, entry + 2);
    out.writeUInt32LE(values.length, entry + 4);
    const size = sizes[i] ?? 0;
    const to = size > 4 ? behind : entry + 8;
    values.forEach((value, n) => {
      const spot = to + n * SIZES[type];
      if (type === ASCII) out.writeUInt8(value, spot);
      else if (type === SHORT) out.writeUInt16LE(value, spot);
      else if (type === LONG) out.writeUInt32LE(value, spot);
      else out.writeDoubleLE(value, spot);
    });
    if (size > 4) {
      out.writeUInt32LE(at + behind, entry + 8);
      behind += size + (size % 2);
    }
  }
  if (!isLast) out.writeUInt32LE(at + out.length, fixed - 4);
  return out;
}
