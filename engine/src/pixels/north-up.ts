import { readBand, type Band, type PixelSource } from './pixel-source.js';

/** A raster whose rows begin in the south, with its north first. */
export function northUp(pixels: PixelSource): PixelSource {
  const { width, height } = pixels;
  const flipped = (rows: Int32Array): Int32Array => rows.map((row) => height - 1 - row);
  return {
    width,
    height,
    isReduced: pixels.isReduced ?? false,
    leftOut: pixels.leftOut ?? [],
    get damaged() {
      return pixels.damaged ?? 0;
    },
    bands: pixels.bands,
    values: (cols, rows, step, band) => pixels.values(cols, flipped(rows), step, band),
    colours: (cols, rows, step) => pixels.colours(cols, flipped(rows), step),
    async band(row, rows) {
      return upsideDown(await readBand(pixels, height - row - rows, rows), width, rows);
    },
    close: () => pixels.close(),
  };
}

function upsideDown(band: Band, width: number, rows: number): Band {
  const from = 'values' in band ? band.values : band.colours;
  const to = from.slice();
  const each = width * ('values' in band ? 1 : 4);
  for (let row = 0; row < rows; row++) to.set(from.subarray(row * each, (row + 1) * each), (rows - 1 - row) * each);
  return 'values' in band ? { values: to as Float32Array } : { colours: to as Uint8ClampedArray<ArrayBuffer> };
}
