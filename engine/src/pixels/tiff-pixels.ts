import { furtherTiffTags, readTiffTags, TiffImage, type ByteSource, type Inflate, type TiffBlock } from '@rootmap/core';
import type { Band, PixelSource, Rgba } from './pixel-source.js';

const MOST_BLOCKS = 64;

/** Pixels of a GeoTIFF, through the reduced pictures that stand in it (TIFF 6.0, NewSubfileType bit 0); null: not read here. */
export function tiffPixels(path: string, source: ByteSource, inflate: Inflate): PixelSource | null {
  const tags = readTiffTags(path, source);
  if (!tags.ok) return null;
  const first = TiffImage.of(tags.value, source, inflate);
  if (!first) return null;
  const reduced = [...furtherTiffTags(path, source, tags.value)].flatMap((t) => {
    const kind = t.numbers.get(254)?.[0] ?? 0;
    const image = kind === 1 ? TiffImage.of(t, source, inflate) : null;
    return image && image.samples === first.samples && image.width < first.width ? [image] : [];
  });
  return new TiffPixels([first, ...reduced.sort((a, b) => b.width - a.width)]);
}

class TiffPixels implements PixelSource {
  readonly width: number;
  readonly height: number;
  private readonly blocks = new Map<string, TiffBlock | null>();

  /** @param images the whole one first, then ever smaller ones */
  constructor(private readonly images: readonly TiffImage[]) {
    this.width = images[0]!.width;
    this.height = images[0]!.height;
  }

  private imageFor(step: number): TiffImage {
    return this.images.findLast((image) => this.width / image.width <= Math.max(1, step)) ?? this.images[0]!;
  }

  private block(image: TiffImage, index: number, plane: number): TiffBlock | null {
    const key = `${image.width} ${index} ${plane}`;
    let block = this.blocks.get(key);
    if (block === undefined) {
      block = image.block(index, plane);
      if (this.blocks.size >= MOST_BLOCKS) this.blocks.delete(this.blocks.keys().next().value!);
      this.blocks.set(key, block);
    }
    return block;
  }

  /** Calls back for each position that has a pixel, block by block. */
  private each(
    cols: Int32Array,
    rows: Int32Array,
    step: number,
    plane: number,
    use: (i: number, block: TiffBlock, col: number, row: number) => void,
  ): void {
    const image = this.imageFor(step);
    const [sx, sy] = [image.width / this.width, image.height / this.height];
    const wanted = new Map<number, number[]>();
    for (let i = 0; i < cols.length; i++) {
      if (cols[i]! < 0) continue;
      const col = Math.min(image.width - 1, Math.floor(cols[i]! * sx));
      const row = Math.min(image.height - 1, Math.floor(rows[i]! * sy));
      const index = Math.floor(row / image.blockHeight) * image.across + Math.floor(col / image.blockWidth);
      const list = wanted.get(index);
      if (list) list.push(i, col, row);
      else wanted.set(index, [i, col, row]);
    }
    for (const [index, list] of [...wanted].sort((a, b) => a[0] - b[0])) {
      const block = this.block(image, index, plane);
      if (!block) continue; // damaged: nothing is drawn there
      for (let k = 0; k < list.length; k += 3) use(list[k]!, block, list[k + 1]! - block.firstCol, list[k + 2]! - block.firstRow);
    }
  }

  values(cols: Int32Array, rows: Int32Array, step: number): Promise<Float64Array | null> {
    const image = this.images[0]!;
    const out = new Float64Array(cols.length).fill(NaN);
    this.each(cols, rows, step, 0, (i, block, col, row) => {
      const value = block.value(col, row, 0);
      if (value !== image.nodata) out[i] = value;
    });
    return Promise.resolve(out);
  }

  /** Bytes of red, green and blue, or a palette; anything else has values only. */
  colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null> {
    const { photometric, palette, samples, bits, isTogether, nodata } = this.images[0]!;
    const isPalette = photometric === 3 && palette !== null;
    if (bits !== 8 || !(isPalette || (photometric === 2 && samples >= 3))) return Promise.resolve(null);
    const out = new Uint8ClampedArray(cols.length * 4);
    if (isPalette) {
      const size = palette.length / 3;
      this.each(cols, rows, step, 0, (i, block, col, row) => {
        const value = block.value(col, row, 0);
        if (value === nodata) return;
        for (let band = 0; band < 3; band++) out[i * 4 + band] = palette[band * size + value]! / 257;
        out[i * 4 + 3] = 255;
      });
      return Promise.resolve(out);
    }
    for (let band = 0; band < 3; band++)
      this.each(cols, rows, step, band, (i, block, col, row) => {
        out[i * 4 + band] = block.value(col, row, isTogether ? band : 0);
        if (band === 0) out[i * 4 + 3] = samples === 4 && isTogether ? block.value(col, row, 3) : 255;
      });
    return Promise.resolve(out);
  }

  band(row: number, rows: number): Band {
    const image = this.images[0]!;
    const { photometric, palette, samples, bits, isTogether } = image;
    const isPalette = photometric === 3 && palette !== null;
    const isColour = bits === 8 && (isPalette || (photometric === 2 && samples >= 3));
    if (!isColour) {
      const values = new Float32Array(this.width * rows).fill(NaN);
      this.fill(values, 1, 0, 0, 0, row, rows);
      const { nodata } = image;
      if (nodata !== null && !Number.isNaN(nodata)) {
        const none = Math.fround(nodata);
        for (let i = 0; i < values.length; i++) if (values[i] === none) values[i] = NaN;
      }
      return { values };
    }
    const colours = new Uint8ClampedArray(this.width * rows * 4);
    if (isPalette) {
      const index = new Float32Array(this.width * rows).fill(NaN);
      this.fill(index, 1, 0, 0, 0, row, rows);
      paint(colours, index, palette, image.nodata);
      return { colours };
    }
    for (let band = 0; band < 3; band++) this.fill(colours, 4, band, isTogether ? band : 0, band, row, rows);
    if (samples === 4 && isTogether) this.fill(colours, 4, 3, 3, 0, row, rows);
    else for (let i = 3; i < colours.length; i += 4) colours[i] = 255;
    return { colours };
  }

  /** One sample of all pixels of some rows, block by block. Damaged blocks leave what is there. */
  private fill(
    out: Float32Array | Uint8ClampedArray,
    stride: number,
    at: number,
    sample: number,
    plane: number,
    row: number,
    rows: number,
  ): void {
    const image = this.images[0]!;
    for (let line = Math.floor(row / image.blockHeight); line * image.blockHeight < row + rows; line++)
      for (let across = 0; across < image.across; across++) {
        const block = this.block(image, line * image.across + across, plane);
        if (!block) continue;
        const last = Math.min(row + rows, block.firstRow + block.rows);
        for (let r = Math.max(row, block.firstRow); r < last; r++)
          block.copyRow(r - block.firstRow, block.cols, sample, out, ((r - row) * this.width + block.firstCol) * stride + at, stride);
      }
  }

  close(): void {
    this.blocks.clear();
  }
}

/** The colours of a palette, 0 to 65535 in the file. */
function paint(colours: Rgba, index: Float32Array, palette: readonly number[], nodata: number | null): void {
  const size = palette.length / 3;
  for (let i = 0; i < index.length; i++) {
    const value = index[i]!;
    if (Number.isNaN(value) || value === nodata) continue;
    for (let band = 0; band < 3; band++) colours[i * 4 + band] = palette[band * size + value]! / 257;
    colours[i * 4 + 3] = 255;
  }
}
