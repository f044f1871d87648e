import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import type { Resampling } from '@rootmap/core';
import { datasetsOfFile } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';
import { TestFolder } from '../../test/test-project.js';
import { openPixels } from './open-pixels.js';
import { resampled } from './resample.js';

// Outside reference: gdalwarp of Debian's gdal-bin, which puts pixels of half the size between those of each band of a raster.

const [W, H] = [30, 20];
const MAKE = `
import sys, numpy as np
from osgeo import gdal, osr
srs = osr.SpatialReference(); srs.ImportFromEPSG(32624)
t = gdal.GetDriverByName('GTiff').Create(sys.argv[1], ${W}, ${H}, 5, gdal.GDT_Float32, ['INTERLEAVE=BAND'])
t.SetProjection(srs.ExportToWkt()); t.SetGeoTransform((500000, 10, 0, 6000000, 0, -10))
rng = np.random.default_rng(4)
for b in range(5):
    t.GetRasterBand(b + 1).WriteArray((rng.random((${H}, ${W})) * 100 - 20 * b).astype('f4'))
t = None
for how in ('near', 'bilinear', 'cubic'):
    gdal.Warp(sys.argv[1] + '.' + how, sys.argv[1], format='ENVI', xRes=4, yRes=4, resampleAlg=how, outputBounds=(500000, 5999800, 500300, 6000000))
`;
let t: TestFolder;
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['-c', MAKE, t.at('five.tif')], { stdio: 'ignore' });
});
afterAll(() => t.remove());

test.each([
  ['nearest', 'near'],
  ['bilinear', 'bilinear'],
  ['cubic', 'cubic'],
] as const)('%s, band by band', async (resampling: Resampling, theirs) => {
  const [w, h] = [(W * 10) / 4, (H * 10) / 4];
  const raw = new Float32Array(new Uint8Array(readFileSync(`${t.at('five.tif')}.${theirs}`)).buffer);
  const platform = platformBelow(t.at('.'));
  const [found] = datasetsOfFile(t.at('five.tif'));
  const pixels = (await openPixels(t.at('.'), found!.dataset.group, null, platform))!;
  expect(pixels.bands).toBe(5);
  expect(await pixels.values(new Int32Array(1), new Int32Array(1), 1, 5)).toBeNull();
  const places = {
    cols: Float64Array.from({ length: w * h }, (_, i) => ((i % w) + 0.5) * 0.4),
    rows: Float64Array.from({ length: w * h }, (_, i) => (Math.floor(i / w) + 0.5) * 0.4),
  };
  for (let band = 0; band < 5; band++) {
    const read = async (c: Int32Array, r: Int32Array): Promise<Float64Array> => (await pixels.values(c, r, 1, band))!;
    const ours =
      resampling === 'nearest'
        ? await read(Int32Array.from(places.cols, Math.floor), Int32Array.from(places.rows, Math.floor))
        : await resampled(pixels, places, resampling, read);
    // At the edge gdalwarp counts only pixels that are there, where here the last one is repeated.
    const wrong = Array.from(ours.keys()).filter((i) => {
      const [c, r] = [places.cols[i]!, places.rows[i]!];
      const isInside = c > 2 && r > 2 && c < W - 2 && r < H - 2;
      return isInside && Math.abs(ours[i]! - raw[band * w * h + i]!) > 1e-3;
    });
    expect([band, wrong]).toEqual([band, []]);
  }
  pixels.close();
  platform.close();
});
