import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { secondEyes } from '../geodatabase/second-eyes.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';
import { TestFolder } from '../../test/test-project.js';
import { maskLost } from './masked.js';
import { openPixels } from './open-pixels.js';

// Outside reference: GDAL (Debian's python3-gdal) writes pictures with masks beside them, and says which of their pixels count.
const [W, H] = [40, 30];
const SCRIPT = `
import sys
from osgeo import gdal
import numpy
folder = sys.argv[1]
src = gdal.GetDriverByName('MEM').Create('', ${W}, ${H}, 3, gdal.GDT_Byte)
src.SetGeoTransform([500000, 10, 0, 4870000, 0, -10])
for b in range(3): src.GetRasterBand(b + 1).WriteArray(((numpy.indices((${H}, ${W})).sum(0) * (b + 2)) % 256).astype('uint8'))
src.CreateMaskBand(gdal.GMF_PER_DATASET)
mask = ((numpy.indices((${H}, ${W}))[1] + numpy.indices((${H}, ${W}))[0] * 3) % 7 > 1) * 255
src.GetRasterBand(1).GetMaskBand().WriteArray(mask.astype('uint8'))
for driver, ending in (('PNG', 'png'), ('JPEG', 'jpg')):
    gdal.GetDriverByName(driver).CreateCopy(folder + '/a.' + ending, src, options=['WORLDFILE=YES'] + (['INTERNAL_MASK=NO'] if ending == 'jpg' else []))
    read = gdal.Open(folder + '/a.' + ending)
    open(folder + '/a.' + ending + '.shown', 'wb').write(read.GetRasterBand(1).GetMaskBand().ReadAsArray().tobytes())
`;

let t: TestFolder;
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['-c', SCRIPT, t.at('.')], { stdio: 'ignore' });
});
afterAll(() => t.remove());

const found = (file: string) => datasetsOfFile(t.at(file))[0]!;
async function opacities(file: string): Promise<number[]> {
  const { folder, dataset } = found(file);
  const platform = platformBelow(folder);
  const pixels = (await openPixels(folder, dataset.group, null, platform))!;
  const cols = Int32Array.from({ length: W * H }, (_, i) => i % W);
  const rows = Int32Array.from({ length: W * H }, (_, i) => Math.floor(i / W));
  const colours = (await pixels.colours(cols, rows, 1))!;
  pixels.close();
  platform.close();
  return Array.from({ length: W * H }, (_, i) => colours[i * 4 + 3]!);
}

test.each(['a.png', 'a.jpg'])('%s: what GDAL says is hidden is hidden', async (file) => {
  expect(statSync(t.at(`${file}.msk`)).size).toBeGreaterThan(100);
  const shown = [...readFileSync(t.at(`${file}.shown`))];
  expect(new Set(shown)).toEqual(new Set([0, 255]));
  expect(await opacities(file)).toEqual(shown);
});

test('the judge of an import sees it, too', async () => {
  const png = found('a.png');
  const platform = platformBelow(png.folder);
  const eyes = (await secondEyes(png, platform))!;
  const rows = await eyes.rows(0, H);
  platform.close();
  const shown = [...readFileSync(t.at('a.png.shown'))];
  expect('colours' in rows! && Array.from({ length: W * H }, (_, i) => rows.colours[i * 4 + 3])).toEqual(shown);
});

test('one that cannot be read is told', () => {
  const lost = (file: string) => {
    const { folder, dataset } = found(file);
    const platform = platformBelow(folder);
    try {
      return maskLost(dataset.group, dataset.raster, platform);
    } finally {
      platform.close();
    }
  };
  expect(lost('a.png')).toEqual([]);
  writeFileSync(t.at('a.jpg.msk'), 'no TIFF');
  expect(lost('a.jpg')).toEqual([{ code: 'mask', what: 'its mask, which cannot be read: what it hides is shown', count: null }]);
});
