// The page of a map of 43 layers of 4,000 areas, drawn for *Print frame*, beside 43 times the page of one of them.
import { chromium } from '@playwright/test';
import { once } from 'node:events';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { writeMapFile } from '@rootmap/core';
import { makeArea, random, writeAreas } from './polygons.mjs';
import { median, report, Server } from './lib.mjs';

const LAYERS = 43;
const AREAS = 4000;
const server = new Server();
const root = join(server.folder, 'place', 'project');
mkdirSync(join(root, 'maps'), { recursive: true });
const next = random(11);
const names = Array.from({ length: LAYERS }, (_, n) => `part_${n}`);
for (const name of names)
  writeAreas(
    join(root, name),
    Array.from({ length: AREAS }, (_, i) => makeArea(i, AREAS, next)),
  );
const map = (name, layers) =>
  writeFileSync(
    join(root, 'maps', `${name}.owc.json`),
    writeMapFile({
      id: name,
      title: name,
      updated: '2026-01-01T00:00:00Z',
      crs: 'EPSG:32624',
      storedForm: 'relative',
      layers: layers.map((id) => ({ id, title: id, format: 'shapefile', href: `../${id}.shp` })),
    }),
  );
map('all', names);
map('one', names.slice(0, 1));

await server.start({ ROOTMAP_PLACES: `place=${join(server.folder, 'place')}` });
const { key } = await server.call('POST', 'projects', { place: 'place', path: 'project' });
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();

/** Milliseconds until the page is drawn, and the longest task meanwhile. */
async function pageOf(name, layers) {
  await page.goto(`${server.base}/p/${key}/maps/edit?map=maps/${name}.owc.json`);
  await page.waitForFunction(
    (n) => {
      const e = globalThis.document.querySelector('[role=application]');
      return e?.dataset.pictures === String(n) && e.dataset.drawn === 'true';
    },
    layers,
    { timeout: 180_000 },
  );
  await page.evaluate(() => {
    globalThis.held = [0];
    new globalThis.PerformanceObserver((list) => list.getEntries().forEach((e) => globalThis.held.push(e.duration))).observe({
      entryTypes: ['longtask'],
    });
  });
  const started = performance.now();
  await page.getByRole('button', { name: 'Print frame' }).click();
  await page.locator('[role=dialog] canvas[data-drawn=true]').waitFor({ timeout: 300_000 });
  return { ms: performance.now() - started, heldMs: await page.evaluate(() => Math.max(...globalThis.held)) };
}
await pageOf('one', 1); // its code is loaded once
const one = await pageOf('one', 1);
const all = await pageOf('all', LAYERS);
// A sheet of A0 of eight of these layers, as PDF, with the page watched for what holds it up: three times, since one stall of the
// machine is as long as what is looked for.
map('wall', names.slice(0, 8));
const walls = [];
/** Milliseconds by which a thread that only waits was late at most since it was asked last: a stall of the machine, not of the page. */
const idle = new Worker(
  `const { parentPort } = require('node:worker_threads');
let [last, late] = [performance.now(), 0];
setInterval(() => { const now = performance.now(); late = Math.max(late, now - last - 5); last = now; }, 5);
parentPort.on('message', () => { parentPort.postMessage(late); late = 0; });`,
  { eval: true },
);
const machineHeld = async () => {
  idle.postMessage(null);
  return (await once(idle, 'message'))[0];
};
for (const name of ['a', 'b', 'c']) {
  await page.keyboard.press('Escape');
  await pageOf('wall', 8);
  const dialog = page.getByRole('dialog', { name: 'Print frame' });
  await dialog.getByLabel('Paper').click();
  await page.getByRole('option', { name: 'A0' }).click();
  await dialog.getByLabel('File').fill(name);
  await page.waitForTimeout(500); // it is drawn anew once nobody types
  await page.locator('[role=dialog] canvas[data-drawn=true]').waitFor({ timeout: 300_000 });
  await page.evaluate(() => (globalThis.held = [0]));
  await machineHeld();
  const began = performance.now();
  await dialog.getByRole('button', { name: 'Write the PDF' }).click();
  await dialog.waitFor({ state: 'hidden', timeout: 300_000 });
  const ms = performance.now() - began;
  walls.push({ ms, heldMs: await page.evaluate(() => Math.max(...globalThis.held)), machineMs: await machineHeld() });
}
await idle.terminate();
const wall = { ms: median(walls.map((w) => w.ms)), heldMs: median(walls.map((w) => Math.max(0, w.heldMs - w.machineMs))) };
await browser.close();
await server.stop();
console.log(
  `page of 1 layer ${one.ms.toFixed(0)} ms, of ${LAYERS} layers ${all.ms.toFixed(0)} ms, the page held ${all.heldMs.toFixed(0)} ms at most`,
);
report(`page of ${LAYERS} layers against ${LAYERS} pages of one`, all.ms / (LAYERS * one.ms), 1, ' x');
console.log(
  `A0 of 8 layers, ${8 * AREAS} areas: ${(wall.ms / 1000).toFixed(1)} s, the page held at most ${walls.map((w) => w.heldMs.toFixed(0)).join(', ')} ms; a thread that only waits, meanwhile: ${walls.map((w) => w.machineMs.toFixed(0)).join(', ')} ms`,
);
report('a sheet of A0 as PDF', wall.ms / 1000, 10, ' s');
report('the page held up by it at most, longer than the machine holds up whoever waits', wall.heldMs, 50, ' ms');
