import { deflateSync } from 'node:zlib';
import { ProblemError } from '@rootmap/core';
import { FileSink } from './file-sink.js';

/** What a GeoTIFF says of its pixels. */
export interface GeoTiffSpec {
  readonly width: number;
  readonly height: number;
  /** Numbers of one band each, as many bits as they need; or four bytes of colours a pixel. */
  readonly samples: { readonly kind: 'numbers'; readonly bands: number; readonly bits: 32 | 64 } | { readonly kind: 'colours' };
  /** West, south, east, north of the outer edges of its pixels, in its CRS. */
  readonly extent: readonly [number, number, number, number];
  /** EPSG code; null: nobody knows its CRS. */
  readonly crs: { readonly code: number; readonly isGeographic: boolean } | null;
}

/** A strip of so many bytes before it is packed. */
const STRIP_BYTES = 256 * 1024;
const MOST_BYTES = 0xffff_ffff;
const [ASCII, SHORT, LONG, DOUBLE] = [2, 3, 4, 12] as const;
type Entry = readonly [tag: number, type: 2 | 3 | 4 | 12, values: readonly number[]];

export const rowsOfStrip = ({ width, samples }: Pick<GeoTiffSpec, 'width' | 'samples'>): number =>
  Math.max(1, Math.floor(STRIP_BYTES / (width * (samples.kind === 'colours' ? 4 : samples.bits / 8))));

/**
 * A GeoTIFF (OGC 19-008r4) of strips packed with Deflate (Adobe's TIFF Technical Notes, 2002), band after band. Where a number is
 * missing it is NaN, and GDAL_NODATA says so (GDAL's own tag, 42113).
 */
export class GeoTiffFile {
  private readonly sink: FileSink;
  private readonly offsets: number[] = [];
  private readonly counts: number[] = [];
  private readonly head = Buffer.from([0x49, 0x49, 42, 0, 0, 0, 0, 0]);

  constructor(
    private readonly path: string,
    private readonly spec: GeoTiffSpec,
  ) {
    this.sink = new FileSink(path);
    this.sink.write(this.head);
  }

  /** The next strip, little-endian. Throws `too-large` where the file would pass what a TIFF of 32-bit offsets holds. */
  strip(bytes: Uint8Array): void {
    const packed = deflateSync(bytes, { level: 6 });
    const at = this.sink.bytes;
    if (at + packed.length > MOST_BYTES - STRIP_BYTES)
      throw new ProblemError({ code: 'too-large', file: this.path, bytes: at + packed.length, limitBytes: MOST_BYTES });
    this.sink.write(packed);
    this.offsets.push(at);
    this.counts.push(packed.length);
  }

  /** Writes the directory behind the strips. */
  finish(): void {
    if (this.sink.bytes % 2 === 1) this.sink.write(Buffer.alloc(1)); // directories begin at words (TIFF 6.0, section 2)
    const at = this.sink.bytes;
    this.sink.write(directoryOf(this.entries(), at));
    this.head.writeUInt32LE(at, 4);
    this.sink.patchHead(this.head);
    this.sink.close();
  }

  abandon(): void {
    this.sink.close();
  }

  private entries(): Entry[] {
    const { width, height, samples, extent, crs } = this.spec;
    const isColour = samples.kind === 'colours';
    const bands = isColour ? 4 : samples.bands;
    const each = (value: number): number[] => new Array<number>(bands).fill(value);
    const [west, south, east, north] = extent;
    const keys = crs
      ? [1, 1, 0, 3, 1024, 0, 1, crs.isGeographic ? 2 : 1, 1025, 0, 1, 1, crs.isGeographic ? 2048 : 3072, 0, 1, crs.code]
      : [];
    const all: Entry[] = [
      [256, LONG, [width]],
      [257, LONG, [height]],
      [258, SHORT, each(isColour ? 8 : samples.bits)],
      [259, SHORT, [8]],
      [262, SHORT, [isColour ? 2 : 1]],
      [273, LONG, this.offsets],
      [277, SHORT, [bands]],
      [278, LONG, [rowsOfStrip(this.spec)]],
      [279, LONG, this.counts],
      [284, SHORT, [isColour ? 1 : 2]],
      [338, SHORT, isColour ? [2] : new Array<number>(bands - 1).fill(0)],
      [339, SHORT, each(isColour ? 1 : 3)],
      [33550, DOUBLE, [(east - west) / width, (north - south) / height, 0]],
      [33922, DOUBLE, [0, 0, 0, west, north, 0]],
      [34735, SHORT, keys],
      [42113, ASCII, isColour ? [] : [...Buffer.from('nan\0')]],
    ];
    return all.filter(([, , values]) => values.length > 0);
  }
}

const SIZES: Readonly<Record<Entry[1], number>> = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8 };

/** A directory with what does not fit into its entries behind it. @param at where it will stand */
function directoryOf(entries: readonly Entry[], at: number): Buffer {
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
  return out;
}
