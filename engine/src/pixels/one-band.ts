import type { PixelSource } from './pixel-source.js';

/** The numbers of one band of a raster, whatever it shows by itself. @param band from 0, of those that have values */
export function oneBand(pixels: PixelSource, band: number): PixelSource {
  const { width, height } = pixels;
  return {
    width,
    height,
    bands: 1,
    isReduced: pixels.isReduced ?? false,
    get damaged() {
      return pixels.damaged ?? 0;
    },
    values: (cols, rows, step, of = 0) => (of > 0 ? Promise.resolve(null) : pixels.values(cols, rows, step, band)),
    ...(pixels.window && { window: (of, box) => (of > 0 ? Promise.resolve(null) : pixels.window!(band, box)) }),
    colours: () => Promise.resolve(null),
    close: () => pixels.close(),
  };
}
