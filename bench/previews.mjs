// Pictures of data in the page: the first map of 200,000 areas, panning it, and thumbnails of 1,000 datasets while the table scrolls.
import { chromium } from '@playwright/test';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { makeArea, random } from './polygons.mjs';
import { writeShapefile } from '@rootmap/core';
import { framesDuring } from './frames.mjs';
import { median, report, Server } from './lib.mjs';

const AREAS = 200_000;
const DATASETS = 1000;
const date = { year: 2026, month: 1, day: 5 };
const PRJ =
  'PROJCS["WGS_1984_UTM_Zone_24N",GEOGCS["GCS_WGS_1984",DATUM["D_WGS_1984",SPHEROID["WGS_1984",6378137.0,298.257223563]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",500000.0],PARAMETER["False_Northing",0.0],PARAMETER["Central_Meridian",-39.0],PARAMETER["Scale_Factor",0.9996],PARAMETER["Latitude_Of_Origin",0.0],UNIT["Meter",1.0]]';

const server = new Server();
const place = join(server.folder, 'place');
const root = join(place, 'project');
const write = (name, shapes) => {
  const parts = writeShapefile({
    shapeType: 5,
    shapes,
    fields: [{ name: 'id', code: 'N', lengthBytes: 9 }],
    rows: shapes.map((_, i) => [i]),
    date,
  });
  for (const [ending, bytes] of Object.entries({ ...parts, prj: PRJ })) writeFileSync(join(root, `${name}.${ending}`), bytes);
};
mkdirSync(root, { recursive: true });
writeFileSync(join(root, 'bench.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'b', name: 'bench', title: 'Bench' }));
const next = random(7);
write(
  'all_areas',
  Array.from({ length: AREAS }, (_, i) => makeArea(i, AREAS, next)),
);
for (let n = 0; n < DATASETS; n++)
  write(
    `part_${String(n).padStart(4, '0')}`,
    Array.from({ length: 100 }, (_, i) => makeArea(i, 100, next)),
  );

await server.start({ ROOTMAP_PLACES: `place=${place}` });
await server.call('POST', 'projects', { place: 'place', path: 'project' });
const [project] = await server.call('GET', 'projects');
await server.call('GET', `projects/${project.key}`);
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
const sources = `${server.base}/p/${project.key}/sources`;

// Thumbnails come while the table scrolls from its first to its last row; the yardstick is the same table without them.
const shown = ['name', 'where', 'kind', 'count', 'crs', 'bytes', 'modified', 'origin', 'used'];
const table = async (columns) => {
  await page.goto(sources);
  await page.evaluate(`localStorage.setItem('rootmap.dataset-columns', '${columns.join(',')}')`);
  await page.reload();
  await page.getByRole('row').nth(3).waitFor();
  await page.waitForTimeout(1000);
};
const scroll = `async () => {
  const box = document.querySelector('[role=grid] [role=rowgroup]');
  const most = box.scrollHeight - box.clientHeight;
  const from = performance.now();
  for (let t = 0; t < 6000; t = performance.now() - from) { box.scrollTop = most * Math.min(1, t / 5500); await new Promise(requestAnimationFrame); }
}`;
await table(shown);
const plain = await framesDuring(page, scroll);
await table(['picture', ...shown]);
const started = performance.now();
const coming = await framesDuring(page, scroll);
await page.waitForFunction(`[...document.querySelectorAll('[role=grid] [data-thumbnail]')].every((e) => e.dataset.thumbnail !== 'none')`);
console.log(`last rows have their thumbnails ${((performance.now() - started) / 1000 - 6).toFixed(1)} s after the scrolling ended`);
const mean = (times) => times.reduce((sum, t) => sum + t, 0) / times.length;
console.log(`frames of 1,001 rows: ${mean(plain).toFixed(1)} ms without pictures, ${mean(coming).toFixed(1)} ms while they come`);
report('frame while 1,001 rows scroll and thumbnails come, against the same without', mean(coming) / mean(plain), 2, ' ×');

// The first map of a dataset that nobody has looked at.
await page.getByLabel('Find datasets').fill('all_areas');
const row = page.getByRole('row', { name: /all_areas/ });
await row.waitFor();
await page.getByRole('row', { name: /part_0000/ }).waitFor({ state: 'detached' });
await row.locator('[data-thumbnail=area]').waitFor(); // as a person finds it, who looks before the click
const clicked = performance.now();
await row.click();
await page.locator('[data-drawn=true]').waitFor();
const first = (performance.now() - clicked) / 1000;
report('first map of 200,000 areas', first, 1.5, ' s');

const box = await page.locator('[data-drawn=true]').boundingBox();
const pan = async () => {
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  const measured = framesDuring(page, `async () => new Promise((done) => setTimeout(done, 3000))`);
  await page.mouse.move(x, y);
  for (let i = 0; i < 4; i++) await page.mouse.wheel(0, -200);
  await page.mouse.down();
  for (let i = 0; i < 80; i++) await page.mouse.move(x + 90 * Math.sin(i / 6), y + 60 * Math.cos(i / 6));
  await page.mouse.up();
  return measured;
};
const panning = await pan();
report('frame while enlarging and panning it, median', median(panning), 20, ' ms');
report('share of frames over 50 ms', (100 * panning.filter((t) => t > 50).length) / panning.length, 5, ' %');
await browser.close();
await server.stop();
