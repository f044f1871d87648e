import { expect, test } from '@jest/globals';
import sharp from 'sharp';
import { PLAIN_RASTER, type RasterLook } from '@rootmap/core';
import type { PixelSource, Rgba } from '../pixels/pixel-source.js';
import { rasterPicture, stretchOf, type RasterInPlace } from './raster-picture.js';

/** Two pixels side by side, of four bands; the second has no value in the last. With colours of its own, or none. */
const BANDS = [
  [0, 100],
  [10, 20],
  [5, 5],
  [7, NaN],
];
function raster(colours: readonly number[] | null): RasterInPlace {
  const pixels: PixelSource = {
    width: 2,
    height: 1,
    bands: BANDS.length,
    values: (cols, _rows, _step, band = 0) => Promise.resolve(Float64Array.from(cols, (c) => (c < 0 ? NaN : (BANDS[band]?.[c] ?? NaN)))),
    colours: (cols) =>
      Promise.resolve<Rgba | null>(colours && Uint8ClampedArray.from([...cols].flatMap((c) => (c < 0 ? [0, 0, 0, 0] : colours)))),
    close: () => undefined,
  };
  return { pixels, transform: [0, 1, 0, 1, 0, -1], back: (x, y) => [x, y] };
}
async function drawn(
  look: Partial<RasterLook>,
  stretches: ({ from: number; to: number } | null)[],
  colours: readonly number[] | null = null,
) {
  const png = await rasterPicture(raster(colours), [0, 0, 2, 1], 2, 1, stretches, { ...PLAIN_RASTER, ...look });
  const raw = await sharp(png).ensureAlpha().raw().toBuffer();
  return [[...raw.subarray(0, 4)], [...raw.subarray(4, 8)]];
}
const unit = { from: 0, to: 100 };

test('the band that a look names is drawn, by its own range or the one that is set', async () => {
  expect(await drawn({}, [unit])).toEqual([
    [0, 0, 0, 255],
    [255, 255, 255, 255],
  ]);
  expect(await drawn({ band: 2 }, [{ from: 10, to: 20 }])).toEqual([
    [0, 0, 0, 255],
    [255, 255, 255, 255],
  ]);
  expect(await drawn({ band: 2, stretch: { from: 0, to: 40 } }, [unit])).toEqual([
    [64, 64, 64, 255],
    [128, 128, 128, 255],
  ]);
  expect(await drawn({ band: 4 }, [{ from: 0, to: 7 }])).toEqual([
    [255, 255, 255, 255],
    [0, 0, 0, 0],
  ]);
  expect(await stretchOf(raster(null), [0, 0, 2, 1], 1)).toEqual({ from: 10, to: 20 });
});

test('three bands are red, green and blue, each by its own range; a pixel that lacks one is not drawn', async () => {
  const bands = [1, 2, 3] as const;
  expect(await drawn({ bands }, [unit, { from: 0, to: 20 }, { from: 5, to: 6 }])).toEqual([
    [0, 128, 0, 255],
    [255, 255, 0, 255],
  ]);
  expect(await drawn({ bands, stretch: { from: 0, to: 51 } }, [unit, unit, unit])).toEqual([
    [0, 50, 25, 255],
    [255, 100, 25, 255],
  ]);
  expect((await drawn({ bands: [1, 2, 4] }, [unit, unit, unit]))[1]).toEqual([0, 0, 0, 0]);
});

test('colours of its own are drawn until a look says otherwise', async () => {
  const own = [9, 8, 7, 255];
  expect(await drawn({}, [unit], own)).toEqual([own, own]);
  expect(await drawn({ stretch: unit }, [unit], own)).toEqual([
    [0, 0, 0, 255],
    [255, 255, 255, 255],
  ]);
});
