// The root diagram of 100 maps with 2,000 layers in Chromium: scrolled, and gone over with the pointer. Yardstick: the same with one map.
import { chromium } from '@playwright/test';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { writeMapFile } from '@rootmap/core';
import { framesDuring } from './frames.mjs';
import { median, report, Server } from './lib.mjs';

const server = new Server();
const place = join(server.folder, 'place');
const project = (name, maps, layers) => {
  const root = join(place, name);
  mkdirSync(join(root, 'maps'), { recursive: true });
  writeFileSync(join(root, `${name}.rootmap.json`), JSON.stringify({ format: 'rootmap-project/1', id: name, name, title: name }));
  const point = { type: 'FeatureCollection', features: [{ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [0, 1] } }] }; // prettier-ignore
  for (let d = 0; d < 200; d++) {
    mkdirSync(join(root, 'data', `f${d % 20}`), { recursive: true });
    writeFileSync(join(root, 'data', `f${d % 20}`, `d${d}.geojson`), JSON.stringify(point));
  }
  for (let m = 0; m < maps; m++) {
    const drawn = Array.from({ length: layers }, (_, n) => {
      const d = (m * 37 + n * 11) % 200;
      const isGone = m % 5 === 0 && n % 2 === 0;
      return { id: `l${m}-${n}`, title: `Layer ${n}`, format: 'geojson', href: `../${isGone ? 'gone' : 'data'}/f${d % 20}/d${d}.geojson` };
    });
    const text = writeMapFile({ id: `m${m}`, title: `Map ${m}`, updated: '2026-01-01T00:00:00Z', crs: 'EPSG:4326', storedForm: 'relative', layers: drawn }); // prettier-ignore
    writeFileSync(join(root, 'maps', `m${String(m).padStart(3, '0')}.owc.json`), text);
  }
};
project('large', 100, 20);
project('small', 1, 5);
await server.start({ ROOTMAP_PLACES: `desk=${place}` });
const keys = {};
for (const name of ['large', 'small']) keys[name] = (await server.call('POST', 'projects', { place: 'desk', path: name })).key;
const browser = await chromium.launch({ executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();

async function framesOf(name) {
  const started = performance.now();
  await page.goto(`${server.base}/p/${keys[name]}/overview`);
  await page.getByRole('group', { name: /^Root diagram: / }).waitFor();
  const opened = performance.now() - started;
  await page.waitForTimeout(1000);
  const box = await page.getByRole('region', { name: 'Root diagram' }).boundingBox();
  await page.mouse.move(box.x + 100, box.y + 100);
  const scrolled = framesDuring(page, `async () => new Promise((done) => setTimeout(done, 4000))`);
  for (let i = 0; i < 100; i++) await page.mouse.wheel(0, i < 50 ? 160 : -160);
  const scroll = await scrolled;
  const moved = framesDuring(page, `async () => new Promise((done) => setTimeout(done, 3000))`);
  for (let i = 0; i < 120; i++) await page.mouse.move(box.x + 100, box.y + 60 + ((i * 17) % 500));
  return { opened, scroll, hover: await moved };
}
const [small, large] = [await framesOf('small'), await framesOf('large')];
for (const what of ['scroll', 'hover']) {
  console.log(`${what}: median frame ${median(large[what]).toFixed(1)} ms, of one map ${median(small[what]).toFixed(1)} ms`);
  report(`frames a second, ${what} (at least 50)`, 50 / (1000 / median(large[what])), 1, ' × of the frame that 50 a second allow');
}
console.log(`opened: ${(large.opened / 1000).toFixed(2)} s, of one map ${(small.opened / 1000).toFixed(2)} s`);
await browser.close();
await server.stop();
