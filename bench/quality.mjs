// Checks of data against ogrinfo and gdalinfo on the same files, through the command line; a sheet that is known, over HTTP.
import { spawnSync } from 'node:child_process';
import { closeSync, mkdirSync, mkdtempSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeShapefile } from '@rootmap/core';
import { makeArea, random } from './polygons.mjs';
import { median, report, root, Server } from './lib.mjs';

const AREAS = 200_000;
const FIELDS = 20;
const RASTER_SIDE = 16_000; // two bytes a pixel, four bands: 2 GB
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-quality-'));
const cli = join(root, 'cli', 'bin', 'rootmap.js');
const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data') };
mkdirSync(join(folder, 'p'));
writeFileSync(join(folder, 'p/p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'q', name: 'p', title: 'P' }));

const next = random(3);
const fields = Array.from({ length: FIELDS }, (_, k) =>
  k % 2 ? { name: `text_${k}`, code: 'C', lengthBytes: 12 } : { name: `num_${k}`, code: 'N', lengthBytes: 9 },
);
const parts = writeShapefile({
  shapeType: 5,
  shapes: Array.from({ length: AREAS }, (_, i) => makeArea(i, AREAS, next)),
  fields,
  rows: Array.from({ length: AREAS }, (_, i) => fields.map((f, k) => (f.code === 'N' ? i + k : `v${(i * k) % 977}`))),
  date: { year: 2026, month: 1, day: 5 },
});
for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(folder, 'p', `areas.${ending}`), bytes);

/** Seconds of wall time, and the most memory in MB; ended with 1 where something was found. */
function measured(command, args) {
  const r = spawnSync('/usr/bin/env', ['bash', '-c', 'TIMEFORMAT=%R; time "$@"', '_', command, ...args], {
    encoding: 'utf8',
    cwd: folder,
    env,
    maxBuffer: 1 << 28,
  });
  if (r.status > 1) throw new Error(`${command} ${args.join(' ')}: ${r.stderr.slice(0, 400)}`);
  return Number(r.stderr.trim().split('\n').at(-1));
}
const memoryOf = (file) => {
  const script = `import(${JSON.stringify(new URL('../cli/dist/bundle/main.js', import.meta.url).href)}).then(async (m) => { await m.run(process.argv.slice(1)); process.stderr.write(String(process.resourceUsage().maxRSS / 1024)); })`;
  const r = spawnSync(process.execPath, ['-e', script, 'quality', file, '--quiet'], { encoding: 'utf8', env, maxBuffer: 1 << 28 });
  return Number(r.stderr.trim().split('\n').at(-1));
};
const areas = join(folder, 'p', 'areas.shp');
const sql = 'SELECT COUNT(*), SUM(ST_IsValid(geometry)) FROM areas';
const ratios = Array.from({ length: 3 }, () => {
  const their = measured('ogrinfo', [areas, '-dialect', 'SQLite', '-sql', sql]);
  const own = measured(process.execPath, [cli, 'quality', areas, '--quiet']);
  console.log(`200,000 areas with 20 fields: ogrinfo with ST_IsValid ${their.toFixed(2)} s, all checks ${own.toFixed(2)} s`);
  return own / their;
});
report('all checks of 200,000 areas with 20 fields, against ogrinfo with ST_IsValid', median(ratios), 6, ' ×');
report('memory of it', memoryOf(areas), 1024, ' MB');
const alone = Array.from({ length: 3 }, () => {
  const their = measured('ogrinfo', [areas, '-dialect', 'SQLite', '-sql', sql]);
  return measured(process.execPath, [cli, 'quality', areas, '--validity', '--quiet']) / their;
});
report('validity of them alone, against ogrinfo with ST_IsValid', median(alone), 1.5, ' ×');

// A raster as others write it, 2 GB of numbers.
const raw = join(folder, 'raw.bin');
const row = Buffer.alloc(RASTER_SIDE * 2 * 4);
const fd = openSync(raw, 'w');
for (let y = 0; y < RASTER_SIDE; y++) {
  for (let i = 0; i < RASTER_SIDE * 4; i++) row.writeInt16LE(((i * 7 + y * 3) % 3001) - 200, i * 2);
  writeSync(fd, row);
}
closeSync(fd);
writeFileSync(
  join(folder, 'raw.vrt'),
  `<VRTDataset rasterXSize="${RASTER_SIDE}" rasterYSize="${RASTER_SIDE}"><SRS>EPSG:32624</SRS><GeoTransform>500000,1,0,4870000,0,-1</GeoTransform>${[
    0, 1, 2, 3,
  ]
    .map(
      (b) =>
        `<VRTRasterBand dataType="Int16" band="${b + 1}" subClass="VRTRawRasterBand"><SourceFilename relativeToVRT="1">raw.bin</SourceFilename><ImageOffset>${b * 2}</ImageOffset><PixelOffset>8</PixelOffset><LineOffset>${RASTER_SIDE * 8}</LineOffset></VRTRasterBand>`,
    )
    .join('')}</VRTDataset>`,
);
const raster = join(folder, 'p', 'scene.tif');
spawnSync('gdal_translate', ['-q', '-co', 'TILED=YES', '-co', 'INTERLEAVE=BAND', join(folder, 'raw.vrt'), raster], { cwd: folder });
rmSync(raw);
const theirs = measured('gdalinfo', ['-stats', '--config', 'GDAL_PAM_ENABLED', 'NO', raster]);
const ours = measured(process.execPath, [cli, 'quality', raster, '--quiet']);
console.log(`a raster of 2 GB: gdalinfo -stats ${theirs.toFixed(1)} s, all checks ${ours.toFixed(1)} s`);
report('all checks of a raster of 2 GB, against gdalinfo -stats', ours / theirs, 2, ' ×');
report('memory of it', memoryOf(raster), 1024, ' MB');

// A sheet that is known.
measured(process.execPath, [cli, 'quality', areas, '--keep', '--quiet']);
const server = new Server();
await server.start({ ROOTMAP_PLACES: `place=${folder}` });
await server.call('POST', 'projects', { place: 'place', path: 'p' });
const [{ key }] = await server.call('GET', 'projects');
const times = [];
for (let i = 0; i < 7; i++) {
  const started = performance.now();
  const { checks } = await server.call('GET', `projects/${key}/quality/sheet?dataset=${encodeURIComponent(areas)}`);
  if (checks.length < 10) throw new Error('the sheet is not known');
  times.push(performance.now() - started);
}
await server.stop();
report('a sheet that is known', median(times.slice(2)), 100, ' ms');
rmSync(folder, { recursive: true, force: true });
