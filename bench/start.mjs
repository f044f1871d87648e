// The demo made; server ready, `rootmap layers` on the demo project, and the demo's first screen in Chromium.
import { chromium } from '@playwright/test';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { demoPlaces, makeDemo, placesSetting } from '../demo/dist/index.js';
import { median, report, root, Server, timeCommand } from './lib.mjs';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-demo-'));
const making = performance.now();
await makeDemo(folder);
report('the demo, made from nothing', (performance.now() - making) / 1000, 10, ' s');
const env = { ROOTMAP_PLACES: placesSetting(demoPlaces(folder)), ROOTMAP_DEMO: folder };
const starts = [];
for (let i = 0; i < 5; i++) {
  const server = new Server();
  starts.push(await server.start(env));
  await server.stop();
}
report('server ready after node starts', median(starts) / 1000, 1.5, ' s');

const study = join(demoPlaces(folder).desk, 'gis', 'ellisande_seagrass');
const node = timeCommand(process.execPath, ['-e', '0'], 7);
const layers = timeCommand(process.execPath, ['cli/bin/rootmap.js', 'layers', study, '--json'], 7, {
  cwd: root,
  env: { ...process.env, ...env },
});
console.log(`rootmap layers: ${(layers / node).toFixed(2)} × node doing nothing`);
report('rootmap layers on the demo project', layers / 1000, 0.6, ' s');

const server = new Server();
await server.start(env);
for (const path of ['gis/world_outline', 'gis/ellisande_seagrass']) await server.call('POST', 'projects', { place: 'desk', path });
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: [
    '--no-sandbox',
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
});
const usable = [];
let scripts = 0;
for (let i = 0; i < 5; i++) {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
  const loaded = new Set();
  page.on('response', (r) => /\/assets\/.*\.js$/.test(r.url()) && loaded.add(r.url().replace(/^.*\/assets\//, '')));
  const started = performance.now();
  await page.goto(server.base);
  await page.getByRole('link', { name: 'Ellisande seagrass and moorings' }).waitFor();
  usable.push(performance.now() - started);
  scripts = [...loaded].reduce((sum, f) => sum + gzipSync(readFileSync(join(root, 'web/dist/assets', f))).length, 0);
  await page.context().close();
}
await browser.close();
await server.stop();
if (!existsSync(join(root, 'web/dist/assets')) || readdirSync(join(root, 'web/dist/assets')).length === 0)
  throw new Error('the web app is not built');
report('first screen of the demo usable', median(usable) / 1000, 0.6, ' s');
report('scripts of the first load, gzipped', scripts / 1000, 240, ' kB');
rmSync(folder, { recursive: true, force: true });
