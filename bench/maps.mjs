// A map of 20 layers, one of 200,000 areas and one raster of 1 GB: opened, panned, beside the same pan over an empty map.
import { chromium } from '@playwright/test';
import { spawnSync } from 'node:child_process';
import { closeSync, mkdirSync, openSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { writeMapFile } from '@rootmap/core';
import { makeArea, random, writeAreas } from './polygons.mjs';
import { framesOfPan } from './frames.mjs';
import { median, report, Server } from './lib.mjs';

const AREAS = 200_000;
const SIZE = 16_384; // of the raster in pixels: 1 GiB of 32-bit floats
const server = new Server();
const place = join(server.folder, 'place');
const root = join(place, 'project');
mkdirSync(join(root, 'maps'), { recursive: true });
writeFileSync(
  join(root, 'bench.rootmap.json'),
  JSON.stringify({ format: 'rootmap-project/1', id: 'b', name: 'bench', title: 'Bench', crs: 'EPSG:32624' }),
);
const next = random(7);
const write = (name, shapes) => writeAreas(join(root, name), shapes);
write(
  'all_areas',
  Array.from({ length: AREAS }, (_, i) => makeArea(i, AREAS, next)),
);
for (let n = 0; n < 18; n++)
  write(
    `part_${n}`,
    Array.from({ length: 500 }, (_, i) => makeArea(i, 500, next)),
  );
const box = [400_000, 4_800_000, 600_000, 5_000_000];
const raw = openSync(join(root, 'heights.img'), 'w');
const row = new Float32Array(SIZE);
for (let y = 0; y < SIZE; y++) {
  for (let x = 0; x < SIZE; x++) row[x] = Math.sin(x / 500) * Math.cos(y / 700) * 100;
  writeSync(raw, new Uint8Array(row.buffer));
}
closeSync(raw);
writeFileSync(
  join(root, 'heights.hdr'),
  `ENVI\nsamples = ${SIZE}\nlines = ${SIZE}\nbands = 1\nheader offset = 0\nfile type = ENVI Standard\ndata type = 4\ninterleave = bip\nbyte order = 0\n`,
);
const gdal = (command, ...args) => {
  const r = spawnSync(command, args, { cwd: root, encoding: 'utf8' });
  if (r.status !== 0) throw new Error(r.stderr);
};
gdal(
  'gdal_translate',
  '-q',
  '-co',
  'TILED=YES',
  '-a_srs',
  'EPSG:32624',
  '-a_ullr',
  String(box[0]),
  String(box[3]),
  String(box[2]),
  String(box[1]),
  'heights.img',
  'heights.tif',
);
gdal('gdaladdo', '-q', 'heights.tif', '2', '4', '8', '16', '32', '64');
for (const f of ['heights.img', 'heights.hdr']) rmSync(join(root, f), { force: true });
const vector = (name) => ({ id: name, title: name, format: 'shapefile', href: `../${name}.shp` });
const map = (name, layers) =>
  writeFileSync(
    join(root, 'maps', `${name}.owc.json`),
    writeMapFile({ id: name, title: name, updated: '2026-01-01T00:00:00Z', crs: 'EPSG:32624', storedForm: 'relative', layers }),
  );
map('full', [
  ...Array.from({ length: 18 }, (_, n) => vector(`part_${n}`)),
  vector('all_areas'),
  { id: 'heights', title: 'heights', format: 'geotiff', href: '../heights.tif' },
]);
map('empty', [vector('part_0')]);

// What was written just now is on the disk before anything is measured.
spawnSync('sync');
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
let page, canvas, project;
/** A server that has no picture of anything yet, and a browser without a cache. */
const begin = async () => {
  rmSync(join(server.folder, 'data'), { recursive: true, force: true });
  await server.start({ ROOTMAP_PLACES: `place=${place}` });
  await server.call('POST', 'projects', { place: 'place', path: 'project' });
  [project] = await server.call('GET', 'projects');
  await server.call('GET', `projects/${project.key}`);
  page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  canvas = page.getByRole('application', { name: /^Map / });
};
const open = async (name) => {
  await page.goto(`${server.base}/p/${project.key}/maps`);
  await page.getByRole('heading', { name: 'All maps' }).waitFor();
  await page.waitForTimeout(500);
  // The page itself tells when its outlines were on the screen: asked from outside it would answer when it has time to.
  const outlined = page.evaluate(
    () =>
      new Promise((resolve) => {
        const { document: doc, requestAnimationFrame: next, performance: clock } = globalThis;
        const look = () => {
          const isThere = doc.querySelector('[aria-label="Layer stack"] li') && doc.querySelector('[role=application] canvas');
          if (isThere) resolve(clock.timeOrigin + clock.now());
          else next(look);
        };
        next(look);
      }),
  );
  const started = performance.now();
  await page.getByRole('link', { name: `Open ${name}` }).click();
  return {
    outlines: async () => ((await outlined) - performance.timeOrigin - started) / 1000,
    since: () => (performance.now() - started) / 1000,
  };
};
/** Every layer has its picture, and all tiles of it are drawn. */
const drawn = (layers) =>
  page.waitForFunction(
    (n) => {
      const e = globalThis.document.querySelector('[role=application]');
      return e?.dataset.pictures === String(n) && e.dataset.drawn === 'true';
    },
    layers,
    { timeout: 120_000 },
  );
// Nothing is cached: outlines and progress at once, a picture soon, never a blank.
const outlines = [];
const coarse = [];
for (let run = 0; run < 5; run++) {
  if (run > 0) {
    await page.context().close();
    await server.halt();
  }
  await begin();
  const cold = await open('full');
  outlines.push(await cold.outlines());
  await page.waitForFunction(() => Number(globalThis.document.querySelector('[role=application]')?.dataset.pictures) === 20, undefined, {
    timeout: 60_000,
  });
  coarse.push(cold.since());
  await drawn(20);
  console.log(
    `uncached, opening ${run + 1}: outlines ${outlines[run].toFixed(2)} s, coarse ${coarse[run].toFixed(2)} s, all tiles ${cold.since().toFixed(2)} s`,
  );
}
report('uncached: outlines and progress, median', median(outlines), 1, ' s');
report('uncached: a coarse picture of every layer, median', median(coarse), 5, ' s');

await open('empty');
await drawn(1);
const warm = await open('full');
await drawn(20);
report('cached: open to drawn', warm.since(), 2, ' s');

const pan = () => framesOfPan(page, canvas);
await pan(); // its tiles come once
const full = await pan();
await open('empty');
await drawn(1);
await page.getByRole('button', { name: /^Show part/ }).click();
const empty = await pan();
const share = (times) => (100 * times.filter((t) => t > 50).length) / times.length;
console.log(`empty map: median frame ${median(empty).toFixed(1)} ms, ${share(empty).toFixed(1)} % over 50 ms`);
report('frame while panning 20 layers, median', median(full), 20, ' ms');
report('share of frames over 50 ms', share(full), 5, ' %');
console.log(`against the empty map: ${(median(full) / median(empty)).toFixed(2)} x`);
await browser.close();
await server.stop();
