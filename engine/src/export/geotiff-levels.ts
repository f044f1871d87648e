import { crc32 } from 'node:zlib';
import type { GeoTiffFile, GeoTiffSpec } from './geotiff-file.js';
import { planesOf, rowsOfStrip, sizeOfLevel } from './geotiff-file.js';
import { firstOfFour, meanOfFour } from './halve.js';
import { numbersFor, type Numbers } from './numbers.js';

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
  private readonly room: Numbers[] = [];
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

  /** Memory of a plane that is good until it is asked for again: new memory takes longer to get than its numbers to compute. */
  private roomFor(plane: number, length: number): Numbers {
    if ((this.room[plane]?.length ?? 0) < length) this.room[plane] = numbersFor(this.spec.samples.type, length);
    return this.room[plane]!.subarray(0, length);
  }

  /** @param rows an even number, or one row alone */
  private halved(planes: readonly Numbers[], from: number, rows: number): Numbers[] {
    const { type, bands, hasOpacity, nodata } = this.spec.samples;
    const [to] = sizeOfLevel(this.spec, this.level + 1);
    const lines = Math.ceil(rows / 2);
    const opacity = hasOpacity ? planes[bands]! : null;
    const size = { from: this.width, to, rows };
    return planes.map((plane, k) => {
      const out = this.roomFor(k, to * lines);
      const part = plane.subarray(from * this.width, (from + rows) * this.width);
      if (this.halving === 'first') firstOfFour(part, out, size);
      else {
        const shown = opacity !== null && k < bands ? opacity.subarray(from * this.width) : null;
        meanOfFour(part, out, size, { nodata, opacity: shown }, !type.startsWith('f'));
      }
      return out;
    });
  }
}

function joined(a: Numbers, b: Numbers): Numbers {
  const out = new (a.constructor as new (length: number) => Numbers)(a.length + b.length);
  out.set(a);
  out.set(b, a.length);
  return out;
}
