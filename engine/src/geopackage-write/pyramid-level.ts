import { ProblemError } from '@rootmap/core';
import { floatTile } from './float-tile.js';
import { loadSharp } from '../pixels/load-sharp.js';

export const TILE = 256;
/** What stands for no value in a coverage. */
export const NO_VALUE = -9999;
/** Tiles that are packed side by side, in the threads of the image library. */
const AT_ONCE = 8;

export interface EncodedTile {
  readonly data: Uint8Array;
  readonly min: number | null;
  readonly max: number | null;
}

/** One zoom of a pyramid while it is written: the row of tiles that is being filled. */
export class PyramidLevel {
  private readonly channels: number;
  private readonly pixels: Float32Array | Uint8ClampedArray<ArrayBuffer>;
  private rows = 0;
  private tileRow = 0;

  /** @param width pixels of this zoom from side to side */
  constructor(
    private readonly width: number,
    private readonly isCoverage: boolean,
  ) {
    this.channels = isCoverage ? 1 : 4;
    const length = width * TILE * this.channels;
    this.pixels = isCoverage ? new Float32Array(length) : new Uint8ClampedArray(length);
  }

  get isFull(): boolean {
    return this.rows === TILE;
  }

  take(pixels: Float32Array | Uint8ClampedArray, rows: number): void {
    this.pixels.set(pixels, this.rows * this.width * this.channels);
    this.rows += rows;
  }

  /** Packs what is there into tiles; those without anything are left out. */
  async flush(put: (column: number, row: number, tile: EncodedTile) => void): Promise<void> {
    if (this.rows === 0) return;
    const columns = Math.ceil(this.width / TILE);
    for (let from = 0; from < columns; from += AT_ONCE) {
      const part = Array.from({ length: Math.min(AT_ONCE, columns - from) }, (_, i) => from + i);
      const tiles = await Promise.all(part.map(async (column) => (this.isCoverage ? this.numbers(column) : this.colours(column))));
      tiles.forEach((tile, i) => tile && put(part[i]!, this.tileRow, tile));
    }
  }

  /** Every second pixel of every second row goes to the next coarser zoom. */
  handDown(next: PyramidLevel): void {
    const [from, to] = [this.pixels, next.pixels];
    const { channels } = this;
    for (let row = 0; row < this.rows; row += 2, next.rows++) {
      let at = next.rows * next.width * channels;
      const end = (row + 1) * this.width * channels;
      for (let i = row * this.width * channels; i < end; i += 2 * channels) for (let k = 0; k < channels; k++) to[at++] = from[i + k]!;
    }
  }

  clear(): void {
    if (this.rows > 0) this.tileRow++;
    this.rows = 0;
  }

  private numbers(column: number): EncodedTile | null {
    const out = new Float32Array(TILE * TILE).fill(NO_VALUE);
    const count = Math.min(TILE, this.width - column * TILE);
    let [min, max] = [Infinity, -Infinity];
    for (let row = 0; row < this.rows; row++)
      for (let i = 0; i < count; i++) {
        const value = this.pixels[row * this.width + column * TILE + i]!;
        if (!Number.isFinite(value)) continue;
        if (value === NO_VALUE)
          throw new ProblemError({
            code: 'wrong-use',
            message: `It has ${NO_VALUE} as a value, which stands for "no value" in a geodatabase.`,
          });
        out[row * TILE + i] = value;
        if (value < min) min = value;
        if (value > max) max = value;
      }
    return max < min ? null : { data: floatTile(out, TILE), min, max };
  }

  /** Without opacity where all of it is opaque, which takes less room. */
  private async colours(column: number): Promise<EncodedTile | null> {
    const count = Math.min(TILE, this.width - column * TILE);
    const out = new Uint8ClampedArray(TILE * TILE * 4);
    let [isOpaque, isEmpty] = [count === TILE && this.rows === TILE, true];
    for (let row = 0; row < this.rows; row++) {
      const from = (row * this.width + column * TILE) * 4;
      out.set(this.pixels.subarray(from, from + count * 4), row * TILE * 4);
      for (let i = 3; i < count * 4; i += 4) {
        const opacity = out[row * TILE * 4 + i]!;
        if (opacity > 0) isEmpty = false;
        if (opacity < 255) isOpaque = false;
      }
    }
    if (isEmpty) return null;
    const image = (await loadSharp())(out, { raw: { width: TILE, height: TILE, channels: 4 } });
    const data = await (isOpaque ? image.removeAlpha() : image).png({ compressionLevel: 3, adaptiveFiltering: true }).toBuffer();
    return { data, min: null, max: null };
  }
}
