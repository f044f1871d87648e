import { crc32 } from 'node:zlib';
import type { GeoTiffFile, GeoTiffSpec } from './geotiff-file.js';
import { planesOf, rowsOfStrip, sizeOfLevel } from './geotiff-file.js';
import type { SampleType } from '../pixels/pixel-source.js';

export type Numbers =
  | Uint8Array<ArrayBuffer>
  | Int8Array<ArrayBuffer>
  | Uint16Array<ArrayBuffer>
  | Int16Array<ArrayBuffer>
  | Uint32Array<ArrayBuffer>
  | Int32Array<ArrayBuffer>
  | Float32Array<ArrayBuffer>
  | Float64Array<ArrayBuffer>;
const ARRAYS = {
  u8: Uint8Array,
  i8: Int8Array,
  u16: Uint16Array,
  i16: Int16Array,
  u32: Uint32Array,
  i32: Int32Array,
  f32: Float32Array,
  f64: Float64Array,
} satisfies Record<SampleType, new (length: number) => Numbers>;
export const numbersFor = (type: SampleType, length: number): Numbers => new ARRAYS[type](length);

/** Pictures are halved until their longer side has no more pixels than this. */
const SMALLEST = 512;
export function levelsBelow(width: number, height: number): number {
  let levels = 0;
  while (Math.max(...sizeOfLevel({ width, height }, levels)) > SMALLEST) levels++;
  return levels;
}

/** How one pixel is made of four: their mean, of those that have a value; or the upper left one. */
export type Halving = 'mean' | 'first';

/** Rows of planes of a picture as strips of a file, and of all smaller pictures behind it while they come. */
export class GeoTiffLevels {
  private readonly width: number;
  private readonly stripRows: number;
  private readonly strips: number;
  private readonly next: GeoTiffLevels | null;
  private strip: Numbers[];
  private filled = 0;
  private index = 0;
  /** The upper row of a pair whose lower one is still to come. */
  private upper: Numbers[] | null = null;
  /** CRC-32 of each strip of each plane, as it was before it was packed. */
  readonly sums: readonly number[][];

  constructor(
    private readonly file: GeoTiffFile,
    private readonly spec: GeoTiffSpec,
    private readonly halving: Halving,
    private readonly level = 0,
  ) {
    const [width, height] = sizeOfLevel(spec, level);
    this.width = width;
    this.stripRows = rowsOfStrip(width, spec.samples);
    this.strips = Math.ceil(height / this.stripRows);
    this.strip = this.emptyStrip();
    this.sums = this.strip.map(() => []);
    this.next = level < (spec.reduced ?? 0) ? new GeoTiffLevels(file, spec, halving, level + 1) : null;
  }

  /** The next rows. @param planes one for each sample, row by row */
  async add(planes: readonly Numbers[], rows: number): Promise<void> {
    const { width } = this;
    for (let done = 0; done < rows;) {
      const count = Math.min(rows - done, this.stripRows - this.filled);
      planes.forEach((plane, k) => this.strip[k]!.set(plane.subarray(done * width, (done + count) * width), this.filled * width));
      this.filled += count;
      done += count;
      if (this.filled === this.stripRows) await this.flush();
    }
    if (this.next) await this.addHalved(this.next, planes, rows);
  }

  async finish(): Promise<void> {
    if (this.filled > 0) await this.flush();
    if (this.next && this.upper) await this.next.add(this.halved(this.upper, 0, 1), 1);
    await this.next?.finish();
  }

  private emptyStrip(): Numbers[] {
    const { samples } = this.spec;
    return Array.from({ length: planesOf(samples) }, () => numbersFor(samples.type, this.stripRows * this.width));
  }

  private async flush(): Promise<void> {
    for (const [plane, numbers] of this.strip.entries()) {
      const part = numbers.subarray(0, this.filled * this.width);
      const bytes = new Uint8Array(part.buffer, part.byteOffset, part.byteLength);
      this.sums[plane]!.push(crc32(bytes));
      await this.file.put(this.level, plane * this.strips + this.index, bytes);
    }
    this.index++;
    this.filled = 0;
    this.strip = this.emptyStrip(); // the one before is still being packed
  }

  private async addHalved(next: GeoTiffLevels, planes: readonly Numbers[], rows: number): Promise<void> {
    const { width } = this;
    let from = 0;
    if (this.upper) {
      const pair = this.upper.map((row, k) => joined(row, planes[k]!.subarray(0, width)));
      await next.add(this.halved(pair, 0, 2), 1);
      this.upper = null;
      from = 1;
    }
    const pairs = Math.floor((rows - from) / 2);
    if (pairs > 0) await next.add(this.halved(planes, from, pairs * 2), pairs);
    const left = from + pairs * 2;
    if (left < rows) this.upper = planes.map((plane) => plane.slice(left * width, (left + 1) * width));
  }

  /** @param rows an even number, or one row alone */
  private halved(planes: readonly Numbers[], from: number, rows: number): Numbers[] {
    const { type, bands, hasOpacity, nodata } = this.spec.samples;
    const [to] = sizeOfLevel(this.spec, this.level + 1);
    const lines = Math.ceil(rows / 2);
    const opacity = hasOpacity ? planes[bands]! : null;
    const size = { from: this.width, to, rows };
    return planes.map((plane, k) => {
      const out = numbersFor(type, to * lines);
      const part = plane.subarray(from * this.width, (from + rows) * this.width);
      if (this.halving === 'first') firstOfFour(part, out, size);
      else {
        const shown = opacity !== null && k < bands ? opacity.subarray(from * this.width) : null;
        meanOfFour(part, out, size, nodata, shown, !type.startsWith('f'));
      }
      return out;
    });
  }
}

interface Halved {
  /** Columns before and after. */
  readonly from: number;
  readonly to: number;
  readonly rows: number;
}

function firstOfFour(plane: Numbers, out: Numbers, { from, to, rows }: Halved): void {
  for (let row = 0; row < rows; row += 2) for (let col = 0; col < to; col++) out[(row >> 1) * to + col] = plane[row * from + col * 2]!;
}

/** @param shown 0 where a pixel has nothing; null: its value tells */
function meanOfFour(
  plane: Numbers,
  out: Numbers,
  { from, to, rows }: Halved,
  nodata: number | null,
  shown: Numbers | null,
  isWhole: boolean,
): void {
  const none = nodata ?? NaN; // which equals nothing
  const isNone = (i: number): boolean => plane[i] === none || Number.isNaN(plane[i]) || (shown !== null && shown[i] === 0);
  for (let row = 0; row < rows; row += 2) {
    const down = row + 1 < rows ? from : 0;
    for (let col = 0; col < to; col++) {
      const i = row * from + col * 2;
      const across = col * 2 + 1 < from ? 1 : 0;
      let mean = across > 0 && down > 0 ? ofAll(plane, i, down, none, shown) : NaN;
      if (Number.isNaN(mean)) {
        let sum = 0;
        let count = 0;
        // At an odd edge there are two, or one.
        for (let k = 0; k < 4; k++) {
          const at = i + (k & 1) * across + (k >> 1) * down;
          if ((k & 1 && across === 0) || (k > 1 && down === 0) || isNone(at)) continue;
          sum += plane[at]!;
          count++;
        }
        mean = count === 0 ? (nodata ?? 0) : sum / count;
      }
      out[(row >> 1) * to + col] = isWhole ? Math.round(mean) : mean;
    }
  }
}

/** The mean where all four have a value, as nearly everywhere; else NaN. */
function ofAll(plane: Numbers, i: number, down: number, none: number, shown: Numbers | null): number {
  const a = plane[i]!;
  const b = plane[i + 1]!;
  const c = plane[i + down]!;
  const d = plane[i + down + 1]!;
  if (a === none || b === none || c === none || d === none) return NaN;
  if (shown !== null && (shown[i] === 0 || shown[i + 1] === 0 || shown[i + down] === 0 || shown[i + down + 1] === 0)) return NaN;
  return (a + b + c + d) / 4;
}

function joined(a: Numbers, b: Numbers): Numbers {
  const out = new (a.constructor as new (length: number) => Numbers)(a.length + b.length);
  out.set(a);
  out.set(b, a.length);
  return out;
}
