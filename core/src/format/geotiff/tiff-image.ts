import type { ByteSource } from '../../bytes/byte-source.js';
import { unpackBlock, type Inflate } from './decode-block.js';
import type { TiffTags } from './read-tiff-tags.js';

const LARGEST_BLOCK_BYTES = 64 * 1024 * 1024;

/** One decoded strip or tile, cut to the image. */
export interface TiffBlock {
  readonly firstCol: number;
  readonly firstRow: number;
  readonly cols: number;
  readonly rows: number;
  /** That it holds in memory. */
  readonly bytes: number;
  /** Column and row within the block; sample from 0, of those that stand together. */
  value(col: number, row: number, sample: number): number;
  /** A sample of `count` columns of a row, from `col` on, into every `stride`-th place of `out` from `at` on. */
  copyRow(
    row: number,
    col: number,
    count: number,
    sample: number,
    out: Float32Array | Float64Array | Uint8ClampedArray,
    at: number,
    stride: number,
  ): void;
}

/** The pixels of one image of a TIFF (TIFF 6.0; sections 9, 13, 14, 15 and 18), block by block. */
export class TiffImage {
  readonly width: number;
  readonly height: number;
  /** Samples a pixel. */
  readonly samples: number;
  readonly bits: number;
  /** TIFF tag 339: 1 whole numbers, 2 with a sign, 3 with a floating point. */
  readonly format: number;
  readonly nodata: number | null;
  /** TIFF tag 259. */
  readonly packing: number;
  /** TIFF tag 262: 0 white is zero, 1 black is zero, 2 RGB, 3 palette, 4 mask, 6 YCbCr. */
  readonly photometric: number;
  /** The sample that tells how opaque a pixel is, as ExtraSamples (TIFF tag 338) says; null: none does. */
  readonly alpha: number | null;
  /** Red, green and blue of each value, 0 to 65535, one after the other; null: there is no palette. */
  readonly palette: readonly number[] | null;
  /** Blocks of one plane. */
  readonly blocks: number;
  readonly across: number;
  readonly blockWidth: number;
  readonly blockHeight: number;
  private readonly isTiled: boolean;
  /** Samples that stand together in a block: all of them, or one where each has a plane of its own. */
  private readonly together: number;
  private readonly rowBytes: number;
  private readonly predictor: number;

  private constructor(
    readonly tags: TiffTags,
    private readonly source: ByteSource,
    private readonly inflate: Inflate,
    private readonly offsets: readonly number[],
    private readonly sizes: readonly number[],
  ) {
    const n = (tag: number, otherwise: number): number => tags.numbers.get(tag)?.[0] ?? otherwise;
    this.width = n(256, 0);
    this.height = n(257, 0);
    this.bits = n(258, 1);
    this.samples = n(277, 1);
    this.format = n(339, 1) === 4 ? 1 : n(339, 1);
    this.packing = n(259, 1);
    this.photometric = n(262, 1);
    this.predictor = n(317, 1);
    const extra = (tags.numbers.get(338) ?? []).findIndex((kind) => kind === 1 || kind === 2);
    this.alpha = extra < 0 ? null : this.samples - tags.numbers.get(338)!.length + extra;
    this.palette = tags.numbers.get(320) ?? null;
    this.isTiled = tags.numbers.has(322);
    this.blockWidth = this.isTiled ? n(322, 0) : this.width;
    this.blockHeight = this.isTiled ? n(323, 0) : Math.min(this.height, n(278, this.height));
    this.together = n(284, 1) === 1 ? this.samples : 1;
    this.across = Math.ceil(this.width / this.blockWidth);
    this.blocks = this.across * Math.ceil(this.height / this.blockHeight);
    this.rowBytes = Math.ceil((this.blockWidth * this.together * this.bits) / 8);
    this.nodata = nodataOf(tags);
  }

  /**
   * Null: laid out or packed in a way that is not read here.
   * @param further packings (TIFF tag 259) that are not taken off here, but by whoever asks for `packed` blocks
   */
  static of(tags: TiffTags, source: ByteSource, inflate: Inflate, further: ReadonlySet<number> = NONE): TiffImage | null {
    const isTiled = tags.numbers.has(322);
    const offsets = tags.numbers.get(isTiled ? 324 : 273);
    const sizes = tags.numbers.get(isTiled ? 325 : 279);
    if (!offsets || !sizes) return null;
    const image = new TiffImage(tags, source, inflate, offsets, sizes);
    if (!OWN_PACKINGS.has(image.packing) && !further.has(image.packing)) return null;
    if (!image.isReadable()) return null;
    const bytes = image.rowBytes * image.blockHeight;
    return bytes > 0 && bytes <= LARGEST_BLOCK_BYTES ? image : null;
  }

  /** All samples are alike, of a kind that there is, and stand in an order that is known. */
  private isReadable(): boolean {
    const { bits, format, predictor, tags } = this;
    const isAlike = (tag: number): boolean => new Set(tags.numbers.get(tag) ?? []).size <= 1;
    if (!isAlike(258) || !isAlike(339) || (tags.numbers.get(266)?.[0] ?? 1) !== 1 || (tags.numbers.get(274)?.[0] ?? 1) !== 1) return false;
    if (![1, 2, 3].includes(format) || !(format === 3 ? [16, 32, 64] : [1, 2, 4, 8, 16, 32, 64]).includes(bits)) return false;
    if (bits < 8 && (format !== 1 || this.together > 1)) return false;
    return predictor === 1 || (predictor === 2 && bits >= 8) || (predictor === 3 && format === 3 && tags.littleEndian);
  }

  /**
   * @param plane of which sample, where each has a plane of its own
   * @returns null where the block is damaged or missing
   */
  block(index: number, plane = 0): TiffBlock | null {
    const packed = this.packed(index, plane);
    const data = packed && unpackBlock(packed, this.packing, this.heldRows(index) * this.rowBytes, this.inflate);
    return data && this.blockOf(index, data, this.tags.littleEndian);
  }

  /** Its packing is taken off here. */
  get isOwn(): boolean {
    return OWN_PACKINGS.has(this.packing);
  }

  /** The bytes of a block as they are in the file; null: there is none, as where a file leaves out what is empty. */
  packed(index: number, plane = 0): Uint8Array | null {
    const at = index + (this.together === this.samples ? 0 : plane * this.blocks);
    const size = this.sizes[at];
    const offset = this.offsets[at];
    if (size === undefined || offset === undefined || size === 0 || size > LARGEST_BLOCK_BYTES) return null;
    return this.source.read(offset, size);
  }

  /** Rows that a block holds: only tiles are always whole. */
  private heldRows(index: number): number {
    return this.isTiled ? this.blockHeight : Math.min(this.blockHeight, this.height - Math.floor(index / this.across) * this.blockHeight);
  }

  /** How a block is laid out once its packing is off. */
  heldShape(index: number): { readonly cols: number; readonly rows: number; readonly samples: number; readonly bytes: number } {
    const rows = this.heldRows(index);
    return { cols: this.blockWidth, rows, samples: this.together, bytes: rows * this.rowBytes };
  }

  /**
   * A block whose packing was taken off; null where bytes are missing.
   * @param data is changed in place where a predictor is undone
   */
  blockOf(index: number, data: Uint8Array, isLittle: boolean): TiffBlock | null {
    if (data.length < this.heldRows(index) * this.rowBytes) return null;
    const firstCol = (index % this.across) * this.blockWidth;
    const firstRow = Math.floor(index / this.across) * this.blockHeight;
    const rows = Math.min(this.blockHeight, this.height - firstRow);
    const { together, blockWidth, bits, rowBytes } = this;
    const step = bits / 8;
    if (this.predictor === 2) undoDifferences(data, rowBytes, together, bits, isLittle);
    if (this.predictor === 3) undoFloatingPoint(data, rowBytes, together, step);
    const read = sampleReader(bits, this.format, this.predictor === 3 ? false : isLittle);
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    const typed = isLittle && this.predictor !== 3 ? typedOver(data, bits, this.format, rowBytes) : null;
    return {
      firstCol,
      firstRow,
      cols: Math.min(blockWidth, this.width - firstCol),
      rows,
      value:
        bits < 8
          ? (col, row) => bitsAt(data, row * rowBytes, col, bits)
          : (col, row, sample) => read(view, row * rowBytes + (col * together + Math.min(sample, together - 1)) * step),
      bytes: data.byteLength,
      copyRow: (row, col, count, sample, out, at, stride) => {
        if (bits < 8) {
          for (let i = 0; i < count; i++) out[at + i * stride] = bitsAt(data, row * rowBytes, col + i, bits);
          return;
        }
        if (typed) {
          let from = (row * rowBytes) / step + col * together + Math.min(sample, together - 1);
          for (let i = 0; i < count; i++, from += together) out[at + i * stride] = typed[from]!;
          return;
        }
        let from = row * rowBytes + (col * together + Math.min(sample, together - 1)) * step;
        if (bits === 8 && read === readByte) for (let i = 0; i < count; i++, from += together) out[at + i * stride] = data[from]!;
        else for (let i = 0; i < count; i++, from += together * step) out[at + i * stride] = read(view, from);
      },
    };
  }

  /** All samples of a pixel stand in one block. */
  get isTogether(): boolean {
    return this.together === this.samples;
  }
}

const NONE: ReadonlySet<number> = new Set();
const OWN_PACKINGS: ReadonlySet<number> = new Set([1, 5, 8, 32946, 32773]);

/** Values of less than a byte, the first in the highest bits; each row begins with a byte of its own. TIFF 6.0, section 4. */
const bitsAt = (data: Uint8Array, row: number, col: number, bits: number): number =>
  (data[row + ((col * bits) >> 3)]! >> (8 - bits - ((col * bits) & 7))) & ((1 << bits) - 1);

function nodataOf(tags: TiffTags): number | null {
  const text = tags.texts.get(42113)?.trim();
  if (!text) return null;
  const isFloat32 = tags.numbers.get(339)?.[0] === 3 && tags.numbers.get(258)?.[0] === 32;
  return isFloat32 ? Math.fround(Number(text)) : Number(text);
}

/** Bytes as the numbers that they are, which is quicker than to read each; null: they are laid out in another way, or of another kind. */
function typedOver(data: Uint8Array, bits: number, format: number, rowBytes: number): ArrayLike<number> | null {
  const step = bits / 8;
  if (!IS_LITTLE_ENDIAN || bits < 16 || data.byteOffset % step !== 0 || rowBytes % step !== 0) return null;
  const kind =
    format === 3
      ? { 32: Float32Array, 64: Float64Array }[bits]
      : format === 2
        ? { 16: Int16Array, 32: Int32Array }[bits]
        : { 16: Uint16Array, 32: Uint32Array }[bits];
  return kind ? new kind(data.buffer as ArrayBuffer, data.byteOffset, Math.floor(data.length / step)) : null;
}
const IS_LITTLE_ENDIAN = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

const readByte = (view: DataView, at: number): number => view.getUint8(at);

function sampleReader(bits: number, format: number, little: boolean): (view: DataView, at: number) => number {
  if (format === 3 && bits === 16) return (v, at) => half(v.getUint16(at, little));
  if (format === 3) return bits === 64 ? (v, at) => v.getFloat64(at, little) : (v, at) => v.getFloat32(at, little);
  const signed = format === 2;
  if (bits === 8) return signed ? (v, at) => v.getInt8(at) : readByte;
  if (bits === 16) return signed ? (v, at) => v.getInt16(at, little) : (v, at) => v.getUint16(at, little);
  if (bits === 32) return signed ? (v, at) => v.getInt32(at, little) : (v, at) => v.getUint32(at, little);
  return signed ? (v, at) => Number(v.getBigInt64(at, little)) : (v, at) => Number(v.getBigUint64(at, little));
}

/** A number of 16 bits with a floating point. IEEE 754-2008, binary16. */
function half(bits: number): number {
  const sign = bits & 0x8000 ? -1 : 1;
  const exponent = (bits >> 10) & 31;
  const fraction = bits & 1023;
  if (exponent === 0) return sign * fraction * 2 ** -24;
  if (exponent === 31) return fraction ? NaN : sign * Infinity;
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15);
}

/**
 * Differencing of numbers with a floating point, undone in place: each row holds the highest bytes of all its numbers, then the next
 * ones, and so on, as differences of bytes. What is left has its highest byte first. Adobe Photoshop TIFF Technical Note 3 (2005).
 */
function undoFloatingPoint(data: Uint8Array, rowBytes: number, samples: number, step: number): void {
  const count = rowBytes / step;
  const row = new Uint8Array(rowBytes);
  for (let from = 0; from + rowBytes <= data.length; from += rowBytes) {
    for (let i = from + samples; i < from + rowBytes; i++) data[i] = (data[i]! + data[i - samples]!) & 255;
    row.set(data.subarray(from, from + rowBytes));
    for (let i = 0; i < count; i++) for (let byte = 0; byte < step; byte++) data[from + i * step + byte] = row[byte * count + i]!;
  }
}

/** Horizontal differencing, undone in place. TIFF 6.0 section 14. */
function undoDifferences(data: Uint8Array, rowBytes: number, samples: number, bits: number, little: boolean): void {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const step = bits / 8;
  for (let row = 0; row + rowBytes <= data.length; row += rowBytes)
    for (let at = row + samples * step; at < row + rowBytes; at += step) {
      const before = at - samples * step;
      if (bits === 8) view.setUint8(at, view.getUint8(at) + view.getUint8(before));
      else if (bits === 16) view.setUint16(at, view.getUint16(at, little) + view.getUint16(before, little), little);
      else if (bits === 32) view.setUint32(at, view.getUint32(at, little) + view.getUint32(before, little), little);
      else view.setBigUint64(at, view.getBigUint64(at, little) + view.getBigUint64(before, little), little);
    }
}
