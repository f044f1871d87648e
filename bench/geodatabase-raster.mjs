// A raster of 1 GB is brought into a geodatabase against gdal_translate and gdaladdo on the same file.
import { spawnSync } from 'node:child_process';
import { closeSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { report } from './lib.mjs';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-raster-'));
process.env.ROOTMAP_DATA = join(folder, 'data');
const run = (command, ...args) => {
  const r = spawnSync(command, args, { encoding: 'utf8', cwd: folder });
  if (r.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${r.stderr}`);
  return r.stdout;
};

/** Raw rows of a surface, side by side for each band, made a GeoTIFF by gdal_translate. */
function makeRaster(name, size, type, bands, valueAt) {
  const Row = type === 'Float32' ? Float32Array : Uint8Array;
  const raw = openSync(join(folder, `${name}.img`), 'w');
  const row = new Row(size * bands);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) for (let b = 0; b < bands; b++) row[x * bands + b] = valueAt(x, y, b);
    writeSync(raw, new Uint8Array(row.buffer));
  }
  closeSync(raw);
  const code = type === 'Float32' ? 4 : 1;
  writeFileSync(
    join(folder, `${name}.hdr`),
    `ENVI\nsamples = ${size}\nlines = ${size}\nbands = ${bands}\nheader offset = 0\nfile type = ENVI Standard\ndata type = ${code}\ninterleave = bip\nbyte order = 0\n`,
  );
  run(
    'gdal_translate',
    '-q',
    '-a_srs',
    'EPSG:32624',
    '-a_ullr',
    '400000',
    '5000000',
    String(400_000 + size),
    String(5_000_000 - size),
    ...(bands === 3 ? ['-co', 'PHOTOMETRIC=RGB'] : []),
    `${name}.img`,
    `${name}.tif`,
  );
  rmSync(join(folder, `${name}.img`));
}
const surface = (x, y) => Math.sin(x / 500) * Math.cos(y / 700) * 100 + ((x * 7 + y * 13) % 17) / 10;

const cli = new URL('../cli/bin/rootmap.js', import.meta.url).pathname;
const bundle = new URL('../cli/dist/bundle/main.js', import.meta.url).href;
const seconds = (work) => {
  const started = performance.now();
  work();
  return (performance.now() - started) / 1000;
};
const theirs = (name, ...options) => {
  rmSync(join(folder, 'theirs.gpkg'), { force: true });
  return seconds(() => {
    run('gdal_translate', '-q', '-of', 'GPKG', ...options, `${name}.tif`, 'theirs.gpkg');
    run('gdaladdo', '-q', 'theirs.gpkg', '2', '4', '8', '16', '32', '64');
  });
};
const ours = (name) => {
  rmSync(join(folder, 'ours.gpkg'), { force: true });
  return seconds(() =>
    run(process.execPath, cli, 'geodatabase', 'import', join(folder, 'ours.gpkg'), join(folder, `${name}.tif`), '--quiet'),
  );
};
const memory = (name) => {
  rmSync(join(folder, 'ours.gpkg'), { force: true });
  const script = `import(${JSON.stringify(bundle)}).then(async (m) => { await m.run(process.argv.slice(1)); console.log(process.resourceUsage().maxRSS / 1024); })`;
  return Number(
    run(process.execPath, '-e', script, 'geodatabase', 'import', join(folder, 'ours.gpkg'), join(folder, `${name}.tif`), '--quiet')
      .trim()
      .split('\n')
      .at(-1),
  );
};

makeRaster('quarter', 8192, 'Float32', 1, surface);
makeRaster('dem', 16_384, 'Float32', 1, surface);
const [a, b] = [theirs('dem'), ours('dem')];
console.log(`1 GB of heights: gdal_translate and gdaladdo ${a.toFixed(1)} s, ours ${b.toFixed(1)} s, whole rows read back and compared`);
report('time to bring 1 GB of heights in with all zooms, against gdal_translate', b / a, 1.5, ' ×');
const [quarter, whole] = [memory('quarter'), memory('dem')];
console.log(`most memory: ${quarter.toFixed(0)} MB for 256 MB, ${whole.toFixed(0)} MB for 1 GB`);
report('most memory while 1 GB of heights comes in', whole, 600, ' MB');
rmSync(join(folder, 'dem.tif'));

// A photograph keeps every pixel here, so the yardstick is asked to keep them too: its own choice would be JPEG.
makeRaster('photo', 8192, 'Byte', 3, (x, y, k) => 128 + 60 * Math.sin(x / (50 + k * 20)) + 60 * Math.cos(y / 70) + ((x * 7 + y * 13) % 5));
const [c, d] = [theirs('photo', '-co', 'TILE_FORMAT=PNG'), ours('photo')];
console.log(`a picture of 200 MB: gdal_translate (PNG) and gdaladdo ${c.toFixed(1)} s, ours ${d.toFixed(1)} s`);
report('time to bring a picture in with all zooms, lossless, against gdal_translate', d / c, 1.5, ' ×');
rmSync(folder, { recursive: true, force: true });
