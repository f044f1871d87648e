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
  /** Column and row within the block; sample from 0, of those that stand together. */
  value(col: number, row: number, sample: number): number;
  /** A sample of the first `count` columns of a row, into every `stride`-th place of `out` from `at` on. */
  copyRow(row: number, count: number, sample: number, out: Float32Array | Uint8ClampedArray, at: number, stride: number): void;
}

/** The pixels of one image of a TIFF (TIFF 6.0; sections 9, 13, 14, 15 and 18), block by block. */
export class TiffImage {
  readonly width: number;
  readonly height: number;
  /** Samples a pixel. */
  readonly samples: number;
  readonly bits: number;
  readonly nodata: number | null;
  /** TIFF tag 262: 0 white is zero, 1 black is zero, 2 RGB, 3 palette. */
  readonly photometric: number;
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
  private readonly blockBytes: number;
  private readonly read: (view: DataView, at: number) => number;

  private constructor(
    private readonly tags: TiffTags,
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
    this.photometric = n(262, 1);
    this.palette = tags.numbers.get(320) ?? null;
    this.isTiled = tags.numbers.has(322);
    this.blockWidth = this.isTiled ? n(322, 0) : this.width;
    this.blockHeight = this.isTiled ? n(323, 0) : Math.min(this.height, n(278, this.height));
    this.together = n(284, 1) === 1 ? this.samples : 1;
    this.across = Math.ceil(this.width / this.blockWidth);
    this.blocks = this.across * Math.ceil(this.height / this.blockHeight);
    this.blockBytes = this.blockWidth * this.blockHeight * this.together * (this.bits / 8);
    this.read = sampleReader(this.bits, n(339, 1), tags.littleEndian);
    this.nodata = nodataOf(tags);
  }

  /** Null: laid out or packed in a way that is not read here. */
  static of(tags: TiffTags, source: ByteSource, inflate: Inflate): TiffImage | null {
    const isTiled = tags.numbers.has(322);
    const offsets = tags.numbers.get(isTiled ? 324 : 273);
    const sizes = tags.numbers.get(isTiled ? 325 : 279);
    if (!offsets || !sizes) return null;
    const image = new TiffImage(tags, source, inflate, offsets, sizes);
    const predictor = tags.numbers.get(317)?.[0] ?? 1;
    const packing = tags.numbers.get(259)?.[0] ?? 1;
    if (![8, 16, 32, 64].includes(image.bits) || predictor > 2 || ![1, 5, 8, 32946, 32773].includes(packing)) return null;
    return image.blockBytes > 0 && image.blockBytes <= LARGEST_BLOCK_BYTES ? image : null;
  }

  /**
   * @param plane of which sample, where each has a plane of its own
   * @returns null where the block is damaged or missing
   */
  block(index: number, plane = 0): TiffBlock | null {
    const at = index + (this.together === this.samples ? 0 : plane * this.blocks);
    const size = this.sizes[at];
    const offset = this.offsets[at];
    if (size === undefined || offset === undefined || size > LARGEST_BLOCK_BYTES) return null;
    const firstCol = (index % this.across) * this.blockWidth;
    const firstRow = Math.floor(index / this.across) * this.blockHeight;
    const rows = Math.min(this.blockHeight, this.height - firstRow);
    const { together, blockWidth, bits, read } = this;
    const step = bits / 8;
    const held = this.isTiled ? this.blockHeight : rows; // only tiles are always whole
    const packing = this.tags.numbers.get(259)?.[0] ?? 1;
    const data = unpackBlock(this.source.read(offset, size), packing, held * blockWidth * together * step, this.inflate);
    if (!data) return null;
    if (this.tags.numbers.get(317)?.[0] === 2) undoPredictor(data, blockWidth, together, bits, this.tags.littleEndian);
    const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
    return {
      firstCol,
      firstRow,
      cols: Math.min(blockWidth, this.width - firstCol),
      rows,
      value: (col, row, sample) => read(view, ((row * blockWidth + col) * together + Math.min(sample, together - 1)) * step),
      copyRow: (row, count, sample, out, at, stride) => {
        let from = (row * blockWidth * together + Math.min(sample, together - 1)) * step;
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

function nodataOf(tags: TiffTags): number | null {
  const text = tags.texts.get(42113)?.trim();
  return text ? Number(text) : null;
}

const readByte = (view: DataView, at: number): number => view.getUint8(at);

function sampleReader(bits: number, format: number, little: boolean): (view: DataView, at: number) => number {
  if (format === 3) return bits === 64 ? (v, at) => v.getFloat64(at, little) : (v, at) => v.getFloat32(at, little);
  const signed = format === 2;
  if (bits === 8) return signed ? (v, at) => v.getInt8(at) : readByte;
  if (bits === 16) return signed ? (v, at) => v.getInt16(at, little) : (v, at) => v.getUint16(at, little);
  if (bits === 32) return signed ? (v, at) => v.getInt32(at, little) : (v, at) => v.getUint32(at, little);
  return signed ? (v, at) => Number(v.getBigInt64(at, little)) : (v, at) => Number(v.getBigUint64(at, little));
}

/** Horizontal differencing, undone in place. TIFF 6.0 section 14. */
function undoPredictor(data: Uint8Array, width: number, samples: number, bits: number, little: boolean): void {
  const view = new DataView(data.buffer, data.byteOffset, data.byteLength);
  const step = bits / 8;
  const rowBytes = width * samples * step;
  for (let row = 0; row + rowBytes <= data.length; row += rowBytes)
    for (let at = row + samples * step; at < row + rowBytes; at += step) {
      const before = at - samples * step;
      if (bits === 8) view.setUint8(at, view.getUint8(at) + view.getUint8(before));
      else if (bits === 16) view.setUint16(at, view.getUint16(at, little) + view.getUint16(before, little), little);
      else if (bits === 32) view.setUint32(at, view.getUint32(at, little) + view.getUint32(before, little), little);
    }
}
