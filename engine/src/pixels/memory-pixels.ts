import type { PixelSource, Rgba } from './pixel-source.js';

/** Pixels that stand in memory, of a raster that may be larger than they are. */
export class MemoryPixels implements PixelSource {
  /**
   * @param held width and height of what is held
   * @param content one band of numbers, or four of colours side by side
   */
  constructor(
    readonly width: number,
    readonly height: number,
    private readonly held: readonly [number, number],
    private readonly content: { readonly values: Float32Array } | { readonly colours: Uint8Array },
  ) {}

  get bands(): number {
    return 'values' in this.content ? 1 : 0;
  }

  get isReduced(): boolean {
    return this.held[0] < this.width || this.held[1] < this.height;
  }

  private at(col: number, row: number): number {
    const [w, h] = this.held;
    return Math.min(h - 1, Math.floor((row * h) / this.height)) * w + Math.min(w - 1, Math.floor((col * w) / this.width));
  }

  values(cols: Int32Array, rows: Int32Array, _step: number, band = 0): Promise<Float64Array | null> {
    if (!('values' in this.content) || band > 0) return Promise.resolve(null);
    const { values } = this.content;
    return Promise.resolve(Float64Array.from(cols, (col, i) => (col < 0 ? NaN : values[this.at(col, rows[i]!)]!)));
  }

  colours(cols: Int32Array, rows: Int32Array): Promise<Rgba | null> {
    if (!('colours' in this.content)) return Promise.resolve(null);
    const { colours } = this.content;
    const out = new Uint8ClampedArray(cols.length * 4);
    cols.forEach((col, i) => {
      if (col < 0) return;
      const from = this.at(col, rows[i]!) * 4;
      out.set(colours.subarray(from, from + 4), i * 4);
    });
    return Promise.resolve(out);
  }

  close(): void {
    return; // memory goes by itself
  }
}
