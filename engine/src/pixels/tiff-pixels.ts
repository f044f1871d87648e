import {
  auxBandOf,
  behindOf,
  furtherTiffTags,
  readTiffTags,
  TiffImage,
  type AuxBand,
  type ByteSource,
  type FileGroup,
  type Inflate,
  type Loss,
  type Platform,
  type TiffBlock,
} from '@rootmap/core';
import type { Band, PixelSource, Rgba, SampleType, Stored } from './pixel-source.js';
import { scaleOf, type Scale } from './tiff-scale.js';
import type { PixelWindow } from './pixel-window.js';
import { FURTHER_PACKINGS, furtherBlock, isReadHere } from './unpack-further.js';

/** Blocks that are held, once there are more than a few. */
const MOST_HELD_BYTES = 64 * 1024 * 1024;
const FEW_BLOCKS = 16;
/** NewSubfileType (TIFF 6.0, tag 254): a smaller picture, a mask. */
const REDUCED = 1;
const MASK = 4;

/**
 * Pixels of a GeoTIFF, through the reduced pictures and masks that stand in it or beside it (TIFF 6.0, NewSubfileType; `.ovr` and `.msk`
 * are TIFFs, common practice of several programs); null: not read here.
 */
export function tiffPixels(group: FileGroup, { open, inflate }: Pick<Platform, 'open' | 'inflate'>): PixelSource | null {
  const [main] = imagesIn(group.path, open(group.path), inflate);
  if (!main || main.isFurther || main.image.photometric > 6) return null;
  const first = main.image;
  const [reducing, masking] = [behindOf(group, 'ovr'), behindOf(group, 'msk')];
  // Reduced pictures that are older than the whole one may show what it was.
  const isCurrent = reducing !== null && reducing.modifiedMs >= group.main.modifiedMs - WRITTEN_TOGETHER_MS;
  const inside = imagesIn(group.path, open(group.path), inflate).slice(1);
  const further = [...inside, ...(isCurrent ? imagesIn(reducing.path, open(reducing.path), inflate) : [])];
  const reduced = further.flatMap(({ kind, image }) =>
    kind === REDUCED && image.samples === first.samples && image.width < first.width ? [image] : [],
  );
  // A file of its own for a mask needs not say that it is one.
  const masks = [
    ...inside.filter(({ kind }) => (kind & MASK) !== 0),
    ...(masking ? imagesIn(masking.path, open(masking.path), inflate) : []),
  ];
  const mask = masks.find(({ image }) => image.width === first.width && image.height === first.height)?.image;
  return new TiffPixels([first, ...reduced.sort((a, b) => b.width - a.width)], mask ?? null, auxBandOf(group, open), inflate);
}

const WRITTEN_TOGETHER_MS = 2000;

interface Inside {
  readonly kind: number;
  readonly image: TiffImage;
  /** It is not the first of its file. */
  readonly isFurther: boolean;
}

/** The images of a file that are read here, in their order. */
function imagesIn(path: string, source: ByteSource, inflate: Inflate): Inside[] {
  const tags = readTiffTags(path, source);
  if (!tags.ok) return [];
  return [tags.value, ...furtherTiffTags(path, source, tags.value)].flatMap((t, i) => {
    const image = TiffImage.of(t, source, inflate, FURTHER_PACKINGS);
    return image && isReadHere(image) ? [{ kind: t.numbers.get(254)?.[0] ?? 0, image, isFurther: i > 0 }] : [];
  });
}

class TiffPixels implements PixelSource {
  readonly width: number;
  readonly height: number;
  private readonly blocks = new Map<string, TiffBlock | null>();
  private heldBytes = 0;
  private readonly damagedBlocks = new Set<string>();
  /** Those beside the one of opacity. */
  readonly bands: number;
  private readonly scale: Scale | null;
  private readonly nodata: number | null;
  /** Colours are a palette's, or those of red, green and blue in bytes; anything else has values only. */
  private readonly kind: 'palette' | 'rgb' | 'values';

  /** @param images the whole one first, then ever smaller ones */
  constructor(
    private readonly images: readonly TiffImage[],
    private readonly mask: TiffImage | null,
    private readonly aux: AuxBand | null,
    private readonly inflate: Inflate,
  ) {
    const { width, height, photometric, palette, samples, alpha, bits, nodata } = images[0]!;
    this.bands = samples - (alpha === null ? 0 : 1);
    this.width = width;
    this.height = height;
    this.scale = this.scaleOfBand(0);
    this.nodata = nodata ?? aux?.nodata ?? null;
    const isColour = photometric === 2 || photometric === 6;
    this.kind = photometric === 3 && palette !== null && bits <= 8 ? 'palette' : isColour && bits === 8 && samples >= 3 ? 'rgb' : 'values';
  }

  private scaleOfBand(band: number): Scale | null {
    return scaleOf(this.images[0]!.tags, band === 0 ? this.aux : null, band);
  }

  /** Where a band stands among the samples: that of opacity is none. */
  private sampleOf(band: number): number {
    const { alpha } = this.images[0]!;
    return alpha !== null && band >= alpha ? band + 1 : band;
  }

  get isBytes(): boolean {
    const { bits, format } = this.images[0]!;
    return bits === 8 && format === 1 && Array.from({ length: this.bands }, (_, band) => this.scaleOfBand(band)).every((s) => s === null);
  }

  get isColour(): boolean {
    return this.kind === 'rgb';
  }

  get stored(): Stored {
    const { bits, format, palette } = this.images[0]!;
    const isScaled = Array.from({ length: this.bands }, (_, band) => this.scaleOfBand(band)).some((s) => s !== null);
    return {
      type: isScaled ? 'f64' : typeOf(bits, format),
      nodata: isScaled ? null : this.nodata,
      palette: this.kind === 'palette' ? palette : null,
    };
  }

  get damaged(): number {
    return this.damagedBlocks.size;
  }

  get leftOut(): readonly Loss[] {
    const { bits, format } = this.images[0]!;
    const { bands } = this;
    const taken = this.kind === 'rgb' ? 3 : 1;
    return [
      ...(bands > taken
        ? [
            {
              code: 'bands' as const,
              what: `${bands - taken === 1 ? 'band' : 'bands'} beyond ${taken === 1 ? 'the first' : 'red, green and blue'}`,
              count: bands - taken,
            },
          ]
        : []),
      ...(this.kind === 'palette' ? [{ code: 'palette' as const, what: 'the numbers under the colours of its palette', count: null }] : []),
      ...(this.kind === 'values' && (bits === 64 || (bits === 32 && format !== 3))
        ? [{ code: 'digits' as const, what: `digits beyond the 24 bits that a number of 32 bits keeps (it has ${bits})`, count: null }]
        : []),
    ];
  }

  private imageFor(step: number): TiffImage {
    return this.images.findLast((image) => this.width / image.width <= Math.max(1, step)) ?? this.images[0]!;
  }

  private async block(image: TiffImage, index: number, plane: number): Promise<TiffBlock | null> {
    const key = `${image === this.mask ? 'mask' : image.width} ${index} ${plane}`;
    let block = this.blocks.get(key);
    if (block === undefined) {
      block = image.isOwn ? image.block(index, plane) : await furtherBlock(image, index, plane, this.inflate);
      if (block === null && image.packed(index, plane) !== null) this.damagedBlocks.add(key);
      this.blocks.set(key, block);
      this.heldBytes += block?.bytes ?? 0;
      for (const [oldest, held] of this.blocks) {
        if (this.heldBytes <= MOST_HELD_BYTES || this.blocks.size <= FEW_BLOCKS) break;
        this.blocks.delete(oldest);
        this.heldBytes -= held?.bytes ?? 0;
      }
    }
    return block;
  }

  /** Calls back for each position that has a pixel, block by block. */
  private async each(
    image: TiffImage,
    cols: Int32Array,
    rows: Int32Array,
    plane: number,
    use: (i: number, block: TiffBlock, col: number, row: number) => void,
  ): Promise<void> {
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
      const block = await this.block(image, index, plane);
      if (!block) continue; // damaged: nothing is drawn there
      for (let k = 0; k < list.length; k += 3) use(list[k]!, block, list[k + 1]! - block.firstCol, list[k + 2]! - block.firstRow);
    }
  }

  /** Where the mask, or the sample of opacity, says that there is nothing. */
  private async eachHidden(cols: Int32Array, rows: Int32Array, step: number, hide: (i: number) => void): Promise<void> {
    const image = this.imageFor(step);
    const { alpha } = image;
    if (this.kind === 'values' && alpha !== null)
      await this.each(image, cols, rows, image.isTogether ? 0 : alpha, (i, block, col, row) => {
        if (block.value(col, row, image.isTogether ? alpha : 0) === 0) hide(i);
      });
    if (this.mask)
      await this.each(this.mask, cols, rows, 0, (i, block, col, row) => {
        if (block.value(col, row, 0) === 0) hide(i);
      });
  }

  async values(cols: Int32Array, rows: Int32Array, step: number, band = 0): Promise<Float64Array | null> {
    if (band >= this.bands) return null;
    const image = this.imageFor(step);
    const out = new Float64Array(cols.length).fill(NaN);
    const { nodata } = this;
    const scale = band === 0 ? this.scale : this.scaleOfBand(band);
    const sample = this.sampleOf(band);
    const [plane, at] = image.isTogether ? [0, sample] : [sample, 0];
    await this.each(image, cols, rows, plane, (i, block, col, row) => {
      const value = block.value(col, row, at);
      if (value !== nodata) out[i] = scale ? value * scale.factor + scale.offset : value;
    });
    await this.eachHidden(cols, rows, step, (i) => (out[i] = NaN));
    return out;
  }

  async window(band: number, box: PixelWindow): Promise<Float64Array | null> {
    if (band >= this.bands) return null;
    const image = this.images[0]!;
    const sample = this.sampleOf(band);
    const [plane, at] = image.isTogether ? [0, sample] : [sample, 0];
    const out = new Float64Array(box.width * box.height).fill(NaN);
    await this.fill(image, out, 1, 0, at, plane, box);
    const hidden = await this.hiddenIn(box);
    const { nodata } = this;
    const scale = band === 0 ? this.scale : this.scaleOfBand(band);
    if (nodata !== null || hidden || scale)
      for (let i = 0; i < out.length; i++)
        if (out[i] === nodata || hidden?.[i] === 0) out[i] = NaN;
        else if (scale) out[i] = out[i]! * scale.factor + scale.offset;
    return out;
  }

  async colours(cols: Int32Array, rows: Int32Array, step: number): Promise<Rgba | null> {
    if (this.kind === 'values') return null;
    const image = this.imageFor(step);
    const { nodata } = this;
    const { palette, isTogether, alpha } = this.images[0]!;
    const out = new Uint8ClampedArray(cols.length * 4);
    if (this.kind === 'palette') {
      const size = palette!.length / 3;
      await this.each(image, cols, rows, 0, (i, block, col, row) => {
        const value = block.value(col, row, 0);
        if (value === nodata) return;
        for (let band = 0; band < 3; band++) out[i * 4 + band] = palette![band * size + value]! / 257;
        out[i * 4 + 3] = 255;
      });
    } else {
      for (let band = 0; band < 3; band++)
        await this.each(image, cols, rows, isTogether ? 0 : band, (i, block, col, row) => {
          out[i * 4 + band] = block.value(col, row, isTogether ? band : 0);
          if (band === 0) out[i * 4 + 3] = 255;
        });
      if (alpha !== null)
        await this.each(image, cols, rows, isTogether ? 0 : alpha, (i, block, col, row) => {
          out[i * 4 + 3] = block.value(col, row, isTogether ? alpha : 0);
        });
    }
    await this.eachHidden(cols, rows, step, (i) => (out[i * 4 + 3] = 0));
    return out;
  }

  async band(row: number, rows: number): Promise<Band> {
    const box = { col: 0, row, width: this.width, height: rows };
    const colours = await this.colourWindow(box);
    if (colours) return { colours };
    const { nodata, scale } = this;
    const hidden = await this.hiddenIn(box);
    const values = new Float32Array(this.width * rows).fill(NaN);
    await this.fill(this.images[0]!, values, 1, 0, 0, 0, box);
    const none = nodata === null || Number.isNaN(nodata) ? null : Math.fround(nodata);
    for (let i = 0; i < values.length; i++)
      if (values[i] === none || hidden?.[i] === 0) values[i] = NaN;
      else if (scale) values[i] = values[i]! * scale.factor + scale.offset;
    return { values };
  }

  async colourWindow(box: PixelWindow): Promise<Rgba | null> {
    if (this.kind === 'values') return null;
    const image = this.images[0]!;
    const { palette, isTogether, alpha } = image;
    const all = box.width * box.height;
    const hidden = await this.hiddenIn(box);
    const colours = new Uint8ClampedArray(all * 4);
    if (this.kind === 'palette') {
      const index = new Float32Array(all).fill(NaN);
      await this.fill(image, index, 1, 0, 0, 0, box);
      paint(colours, index, palette!, this.nodata);
    } else {
      for (let band = 0; band < 3; band++) await this.fill(image, colours, 4, band, isTogether ? band : 0, isTogether ? 0 : band, box);
      if (alpha !== null) await this.fill(image, colours, 4, 3, isTogether ? alpha : 0, isTogether ? 0 : alpha, box);
      else for (let i = 3; i < colours.length; i += 4) colours[i] = 255;
    }
    if (hidden) for (let i = 0; i < all; i++) if (hidden[i] === 0) colours[i * 4 + 3] = 0;
    return colours;
  }

  /** 0 for each pixel of a part that the mask, or the sample of opacity, leaves out; null: there is none. */
  private async hiddenIn(box: PixelWindow): Promise<Float32Array | null> {
    const image = this.images[0]!;
    const alpha = this.kind === 'values' ? image.alpha : null;
    if (!this.mask && alpha === null) return null;
    const shown = new Float32Array(box.width * box.height).fill(1);
    if (alpha !== null) await this.fill(image, shown, 1, 0, image.isTogether ? alpha : 0, image.isTogether ? 0 : alpha, box);
    if (!this.mask) return shown;
    const mask = new Float32Array(shown.length).fill(1);
    await this.fill(this.mask, mask, 1, 0, 0, 0, box);
    return shown.map((v, i) => (mask[i] === 0 ? 0 : v));
  }

  /** One sample of all pixels of a part, block by block. Damaged blocks leave what is there. */
  private async fill(
    image: TiffImage,
    out: Float32Array | Float64Array | Uint8ClampedArray,
    stride: number,
    at: number,
    sample: number,
    plane: number,
    box: PixelWindow,
  ): Promise<void> {
    const { col: left, row: top, width, height } = box;
    const [firstAcross, lastAcross] = [Math.floor(left / image.blockWidth), Math.ceil((left + width) / image.blockWidth)];
    for (let line = Math.floor(top / image.blockHeight); line * image.blockHeight < top + height; line++)
      for (let across = firstAcross; across < lastAcross; across++) {
        const block = await this.block(image, line * image.across + across, plane);
        if (!block) continue;
        const from = Math.max(left, block.firstCol);
        const count = Math.min(left + width, block.firstCol + block.cols) - from;
        const last = Math.min(top + height, block.firstRow + block.rows);
        for (let r = Math.max(top, block.firstRow); r < last; r++)
          block.copyRow(
            r - block.firstRow,
            from - block.firstCol,
            count,
            sample,
            out,
            ((r - top) * width + from - left) * stride + at,
            stride,
          );
      }
  }

  close(): void {
    this.blocks.clear();
    this.heldBytes = 0;
  }
}

/** The smallest kind of number that holds each of a file's. */
function typeOf(bits: number, format: number): SampleType {
  if (format === 3) return bits > 32 ? 'f64' : 'f32';
  const size = Math.max(8, bits);
  return size > 32 ? 'f64' : (`${format === 2 ? 'i' : 'u'}${size}` as SampleType);
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
