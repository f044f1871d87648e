import type { PixelWindow } from './pixel-window.js';
import { readBand, type Band, type PixelSource } from './pixel-source.js';

/** The pixels of a part of a raster, as a raster of its own. */
export function windowOf(pixels: PixelSource, { col, row, width, height }: PixelWindow): PixelSource {
  const cols = (of: Int32Array): Int32Array => of.map((c) => (c < 0 || c >= width ? -1 : c + col));
  const rows = (of: Int32Array): Int32Array => of.map((r) => (r < 0 || r >= height ? -1 : r + row));
  return {
    width,
    height,
    bands: pixels.bands,
    isReduced: pixels.isReduced ?? false,
    get damaged() {
      return pixels.damaged ?? 0;
    },
    values: (c, r, step, band) => pixels.values(cols(c), rows(r), step, band),
    colours: (c, r, step) => pixels.colours(cols(c), rows(r), step),
    async band(first, count): Promise<Band> {
      const whole = await readBand(pixels, first + row, count);
      const each = 'colours' in whole ? 4 : 1;
      const from = 'colours' in whole ? whole.colours : whole.values;
      const part = 'colours' in whole ? new Uint8ClampedArray(width * count * 4) : new Float32Array(width * count);
      for (let i = 0; i < count; i++) {
        const at = (i * pixels.width + col) * each;
        part.set(from.subarray(at, at + width * each), i * width * each);
      }
      return part instanceof Float32Array ? { values: part } : { colours: part };
    },
    close: () => pixels.close(),
  };
}
