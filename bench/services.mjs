// Servers of others: their tree on the screen, ten picture layers panned, records copied against ogr2ogr, and what a dead one costs.
import { chromium } from '@playwright/test';
import { spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:http';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeMapFile } from '@rootmap/core';
import { framesOfPan } from './frames.mjs';
import { median, report, root, Server } from './lib.mjs';

const SOUNDINGS = 100_000;
const ITEMS = 500;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-services-'));
const standIns = spawn(process.execPath, ['demo/dist/standins/main.js', '--port', '0', '--soundings', String(SOUNDINGS)], { cwd: root });
const address = await new Promise((resolve) =>
  standIns.stdout.on('data', (d) => {
    const found = /(http:\/\/[^/]+)\/library/.exec(String(d));
    if (found) resolve(found[1]);
  }),
);

// A server with 500 layers, and one that takes every connection and never answers.
const layers = Array.from(
  { length: ITEMS },
  (_, i) => `<Layer><Name>l${i}</Name><Title>Layer ${i}</Title><Abstract>What it is, ${i}</Abstract></Layer>`,
);
const answered = { ms: 0 };
const large = createServer((_, response) => {
  response.setHeader('content-type', 'text/xml');
  response.end(
    `<WMS_Capabilities version="1.3.0"><Service><Title>Large</Title></Service><Capability><Layer><Title>All</Title><CRS>EPSG:3857</CRS>${layers.join('')}</Layer></Capability></WMS_Capabilities>`,
    () => (answered.ms = performance.timeOrigin + performance.now()),
  );
});
const dead = createServer(() => undefined);
await Promise.all([large, dead].map((s) => new Promise((done) => s.listen(0, '127.0.0.1', done))));
const hostOf = (s) => `127.0.0.1:${s.address().port}`;

// Records, through the command line, each time into a new geodatabase.
const places = join(folder, 'place');
const project = join(places, 'project');
mkdirSync(join(project, 'maps'), { recursive: true });
const wms = `${address}/charts/wms`;
const pictures = ['bay', 'harbour_lights', 'protected_beds', 'ferry_tracks'];
const service = (n, href, title) => ({ id: `l${n}`, title, code: 'wms', href });
const map = (name, list) =>
  writeFileSync(
    join(project, 'maps', `${name}.owc.json`),
    writeMapFile({ id: name, title: name, updated: '2026-01-01T00:00:00Z', crs: 'EPSG:3857', storedForm: 'relative', layers: list }),
  );
const layerOf = (n) => service(n, `${wms}?SERVICE=WMS&VERSION=1.3.0&LAYERS=${pictures[n % 4]}&n=${n}`, `Picture ${n}`);
map(
  'ten',
  Array.from({ length: 10 }, (_, n) => layerOf(n)),
);
// The same stack, of which nine are not drawn: what the dead server costs is then told apart from what nine more rows cost.
map(
  'hidden',
  Array.from({ length: 10 }, (_, n) => layerOf(n)),
);
const hiddenFile = join(project, 'maps', 'hidden.owc.json');
const hidden = JSON.parse(readFileSync(hiddenFile, 'utf8'));
hidden.features.slice(1).forEach((f) => (f.properties.active = false));
writeFileSync(hiddenFile, JSON.stringify(hidden));
map('dead', [
  layerOf(0),
  ...Array.from({ length: 9 }, (_, n) => service(n + 1, `http://${hostOf(dead)}/wms?SERVICE=WMS&LAYERS=a${n}`, `Dead ${n}`)),
]);
writeFileSync(
  join(project, 'bench.rootmap.json'),
  JSON.stringify({
    format: 'rootmap-project/1',
    id: 'b',
    name: 'bench',
    title: 'Bench',
    crs: 'EPSG:3857',
    services: [
      { name: 'library', kind: 'features', url: `${address}/library` },
      ...Array.from({ length: 10 }, (_, n) => ({ name: `charts ${n}`, kind: 'wms', url: `${wms}?n=${n}` })),
      { name: 'large', kind: 'wms', url: `http://${hostOf(large)}/wms` },
      { name: 'dead', kind: 'wms', url: `http://${hostOf(dead)}/wms` },
    ],
  }),
);
const hosts = [new URL(address).host, hostOf(large), hostOf(dead)].join(',');
const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data'), ROOTMAP_HOSTS: hosts, ROOTMAP_PLACES: `place=${places}` };
const timed = (command, args) => {
  const started = performance.now();
  const r = spawnSync(command, args, { env, encoding: 'utf8', maxBuffer: 1 << 28 });
  if (r.status !== 0) throw new Error(`${command}: ${r.stderr}`);
  return performance.now() - started;
};
const ours = [];
const theirs = [];
for (let run = 0; run < 4; run++) {
  const [a, b] = [join(project, `ours${run}.gpkg`), join(folder, `theirs${run}.gpkg`)];
  theirs.push(timed('ogr2ogr', ['-f', 'GPKG', b, `OAPIF:${address}/library`, 'soundings', '-oo', 'PAGE_SIZE=2000']));
  ours.push(timed(process.execPath, [join(root, 'cli/bin/rootmap.js'), 'services', 'copy', project, 'library', 'soundings', '--into', a]));
}
console.log(
  `100,000 records: ours ${(median(ours.slice(1)) / 1000).toFixed(2)} s, read back; ogr2ogr ${(median(theirs.slice(1)) / 1000).toFixed(2)} s`,
);
report('copying 100,000 records against ogr2ogr', median(ours.slice(1)) / median(theirs.slice(1)), 1.5, ' x');

const server = new Server();
await server.start({ ROOTMAP_PLACES: `place=${places}`, ROOTMAP_HOSTS: hosts });
await server.call('POST', 'projects', { place: 'place', path: 'project' });
const [{ key }] = await server.call('GET', 'projects');
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();

// From the answer of the server to the rows on the screen.
const shown = [];
for (let run = 0; run < 5; run++) {
  await page.goto(`${server.base}/p/${key}/sources?view=services&service=${encodeURIComponent(`http://${hostOf(large)}/wms`)}`);
  await page
    .getByRole('status')
    .filter({ hasText: `${ITEMS} things` })
    .waitFor();
  const seen = page.evaluate(
    () =>
      new Promise((resolve) => {
        const { document: doc, performance: clock, requestAnimationFrame: next } = globalThis;
        const before = doc.querySelector('[role=table]');
        before?.setAttribute('data-before', '');
        const look = () => (doc.querySelector('[data-read-anew]') ? resolve(clock.timeOrigin + clock.now()) : next(look));
        // The list is the same rows; what tells that it was read anew is the answer that arrived.
        const send = globalThis.fetch;
        globalThis.fetch = async (...args) => {
          const answer = await send(...args);
          if (String(args[0]).endsWith('/services/tree'))
            setTimeout(() => next(() => next(() => doc.body.setAttribute('data-read-anew', ''))), 0);
          return answer;
        };
        next(look);
      }),
  );
  await page.getByRole('button', { name: 'Read it anew' }).click();
  shown.push((await seen) - answered.ms);
}
report('500 things on the screen after the answer, median', median(shown), 300, ' ms');

// What a dead server costs the opening of a map: until its own, living layer is drawn.
const open = async (name) => {
  await page.goto(`${server.base}/p/${key}/maps`);
  await page.getByRole('heading', { name: 'All maps' }).waitFor();
  await page.waitForTimeout(400);
  const started = performance.now();
  await page.getByRole('link', { name: `Open ${name}` }).click();
  await page.waitForFunction(
    () =>
      globalThis.document.querySelector('[data-layer]') &&
      Number(globalThis.document.querySelector('[role=application]')?.dataset.pictures) >= 1,
  );
  await page.waitForFunction(() => [...globalThis.document.querySelectorAll('.ol-layer canvas, canvas.ol-layer')].some((c) => c.width > 0));
  return performance.now() - started;
};
await open('hidden');
const [alive, withDead] = [[], []];
for (let run = 0; run < 7; run++) {
  alive.push(await open('hidden'));
  withDead.push(await open('dead'));
}
console.log(
  `opening: ${median(alive).toFixed(0)} ms with one layer and nine that are not drawn, ${median(withDead).toFixed(0)} ms with nine dead ones instead`,
);
report('opening with nine dead layers against nine that are not drawn', median(withDead) / median(alive), 1.1, ' x');

const canvas = page.getByRole('application', { name: /^Map / });
const pan = () => framesOfPan(page, canvas);
await open('ten');
await page.waitForFunction(() => globalThis.document.querySelector('[role=application]')?.dataset.pictures === '10');
await pan(); // its pieces come once
await page.waitForTimeout(1500);
const frames = await pan();
console.log(
  `ten pictures: median frame ${median(frames).toFixed(1)} ms, ${((100 * frames.filter((t) => t > 50).length) / frames.length).toFixed(1)} % over 50 ms`,
);
report('frame while panning ten picture layers, median', median(frames), 20, ' ms');

await browser.close();
await server.stop();
standIns.kill();
for (const s of [large, dead]) s.close();
large.closeAllConnections();
dead.closeAllConnections();
rmSync(folder, { recursive: true, force: true });
