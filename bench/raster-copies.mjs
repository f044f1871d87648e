// A raster in another CRS on the command line, with smaller pictures of itself: beside gdalwarp and gdaladdo, which write the same.
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, report, root } from './lib.mjs';

const SIDE = 4000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-'));
const made = spawnSync(
  '/usr/bin/python3',
  [
    '-c',
    `
import sys, numpy as np
from osgeo import gdal, osr
srs = osr.SpatialReference(); srs.ImportFromEPSG(32624)
def write(name, side, kind, bands=1, options=()):
    y, x = np.mgrid[0:side, 0:side].astype('f4')
    z = 80 * np.sin(x / 210) + 60 * np.cos(y / 170) + np.hypot(x - 2000, y - 1500) / 25 + 3 * np.sin(x / 7) * np.cos(y / 9)
    if kind == gdal.GDT_Byte: z = (z - z.min()) / (z.max() - z.min()) * 255
    d = gdal.GetDriverByName('GTiff').Create(sys.argv[1] + '/' + name, side, side, bands, kind, ['COMPRESS=DEFLATE', 'TILED=YES', *options])
    d.SetGeoTransform((400000, 12.5, 0, 4900000, 0, -12.5)); d.SetProjection(srs.ExportToWkt())
    for b in range(bands): d.GetRasterBand(b + 1).WriteArray(z if bands == 1 else (z * (b + 1) / 3))
write('heights.tif', ${SIDE}, gdal.GDT_Float32)
write('whole.tif', ${SIDE}, gdal.GDT_Int16)
write('photo.tif', ${SIDE}, gdal.GDT_Byte, 3, ['PHOTOMETRIC=RGB'])
write('large.tif', ${SIDE * 2}, gdal.GDT_Float32)
`,
    folder,
  ],
  { encoding: 'utf8' },
);
if (made.status !== 0) throw new Error(made.stderr);
const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data') };
const timed = (command, args) => {
  const started = performance.now();
  const r = spawnSync(command, args, { env, cwd: root, encoding: 'utf8' });
  if (r.status !== 0) throw new Error(r.stderr);
  return performance.now() - started;
};
const cleared = (path) => (rmSync(path, { force: true }), path);
function ours(name) {
  const into = join(folder, 'out');
  rmSync(into, { recursive: true, force: true });
  const ms = timed(process.execPath, [
    ...['cli/bin/rootmap.js', 'copies', into, join(folder, name), '--to-crs', 'EPSG:3857', '--resampling', 'cubic', '--apply'],
  ]);
  if (!existsSync(join(into, name.replace('.tif', '_3857.tif')))) throw new Error(`no copy of ${name}`);
  return ms;
}
function theirs(name) {
  const out = cleared(join(folder, 'theirs.tif'));
  const ms = timed('gdalwarp', ['-q', '-t_srs', 'EPSG:3857', '-r', 'cubic', '-co', 'COMPRESS=DEFLATE', join(folder, name), out]);
  return ms + timed('gdaladdo', ['-q', '-r', 'average', out, '2', '4', '8']);
}
for (const name of ['heights.tif', 'whole.tif', 'photo.tif']) {
  const [a, b] = [[], []];
  for (let i = 0; i < 3; i++) {
    a.push(ours(name));
    b.push(theirs(name));
  }
  const [mine, other] = [median(a), median(b)];
  console.log(`${name}, ${SIDE} × ${SIDE}: ${(mine / 1000).toFixed(2)} s, gdalwarp and gdaladdo ${(other / 1000).toFixed(2)} s`);
  report(`a raster in another CRS, ${name}, beside gdalwarp and gdaladdo`, mine / other, 1.9, ' ×');
}
const peak = (name) => {
  rmSync(join(folder, 'out'), { recursive: true, force: true });
  const script = `import(${JSON.stringify(new URL('../cli/dist/bundle/main.js', import.meta.url).href)}).then(async (m) => { await m.run(process.argv.slice(1)); process.stderr.write(String(process.resourceUsage().maxRSS / 1024)); })`;
  const args = ['--input-type=module', '-e', script, 'copies', join(folder, 'out'), join(folder, name), '--to-crs', 'EPSG:3857', '--apply'];
  const r = spawnSync(process.execPath, args, { env, cwd: root, encoding: 'utf8' });
  return Number(/([\d.]+)$/.exec(r.stderr)[1]);
};
const [small, large] = [peak('heights.tif'), peak('large.tif')];
console.log(`peak memory: ${small.toFixed(0)} MiB for ${SIDE} × ${SIDE}, ${large.toFixed(0)} MiB for ${SIDE * 2} × ${SIDE * 2}`);
report('memory of four times the pixels', large / small, 1.5, ' ×');
rmSync(folder, { recursive: true, force: true });
