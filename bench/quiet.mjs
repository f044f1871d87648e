// The event loop stays free while a large project is surveyed and shown, and memory does not grow with the data.
import { spawnSync } from 'node:child_process';
import { closeSync, mkdirSync, mkdtempSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { report, root, Server } from './lib.mjs';

const sample = (ending) => readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${ending}`));
const parts = Object.fromEntries(['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [e, sample(e)]));
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-quiet-'));
function make(name, folders) {
  for (let i = 0; i < folders; i++) {
    const at = join(folder, name, `area_${Math.floor(i / 100)}`, `part_${i}`);
    mkdirSync(at, { recursive: true });
    for (const dataset of ['roads', 'rivers'])
      for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(at, `${dataset}.${ending}`), bytes);
  }
}
make('large', 5000);

const watch = pathToFileURL(join(root, 'bench', 'loop-watch.mjs')).href;

/** The longest block of the server's event loop, without what its start costs, told at its end. */
async function watchServer(project) {
  const told = join(folder, `${project}.json`);
  const server = new Server();
  await server.start({ ROOTMAP_PLACES: `desk=${folder}`, ROOTMAP_LOOP_WATCH: told, NODE_OPTIONS: `--import ${watch}` });
  const { key } = await server.call('POST', 'projects', { place: 'desk', path: project });
  await server.call('GET', 'projects');
  server.child.kill('SIGUSR2'); // from here on
  await server.call('GET', `projects/${key}`);
  for (let i = 0; i < 3; i++) await server.call('POST', `projects/${key}/rescan`);
  await server.stop();
  return JSON.parse(readFileSync(told, 'utf8'));
}
// The best of three: a moment in which the machine is busy elsewhere looks like a block, too.
const blocks = [];
for (let round = 0; round < 3; round++) blocks.push((await watchServer('large')).blockMs);
console.log(`blocks of the event loop: ${blocks.map((ms) => ms.toFixed(0)).join(', ')} ms`);
report('longest block of the event loop, survey of 10,000 datasets', Math.min(...blocks), 50, ' ms');

/** A map of many layers, or of a few with long texts, is opened. */
function makeMap(name, layers, titleLength) {
  mkdirSync(join(folder, name), { recursive: true });
  for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(folder, name, `roads.${ending}`), bytes);
  const features = Array.from({ length: layers }, (_, i) => ({
    type: 'Feature',
    id: `layer ${i}`,
    properties: {
      title: `${i} ${'x'.repeat(titleLength)}`,
      offerings: [
        {
          code: 'urn:x-rootmap:offering:shapefile',
          contents: [{ type: 'application/x-shapefile', href: i % 2 ? 'roads.shp' : `gone_${i}.shp` }],
        },
      ],
    },
  }));
  writeFileSync(join(folder, name, 'all.owc.json'), JSON.stringify({ type: 'FeatureCollection', properties: { title: 'All' }, features }));
}
async function timeMap(name) {
  const server = new Server();
  await server.start({ ROOTMAP_PLACES: `desk=${folder}` });
  const { key } = await server.call('POST', 'projects', { place: 'desk', path: name });
  const startedMs = performance.now();
  await server.call('GET', `projects/${key}`);
  const ms = performance.now() - startedMs;
  await server.stop();
  return ms;
}
makeMap('few', 3000, 10);
makeMap('many', 30_000, 10);
makeMap('long', 50, 1_000_000);
const [few, many] = [Math.min(await timeMap('few'), await timeMap('few')), Math.min(await timeMap('many'), await timeMap('many'))];
console.log(`maps opened: 3,000 layers in ${few.toFixed(0)} ms, 30,000 in ${many.toFixed(0)} ms`);
report('opening a map of 30,000 layers, against ten of 3,000', many / (10 * few), 1.2, ' ×');
const longBlocks = [];
for (let round = 0; round < 3; round++) longBlocks.push((await watchServer('long')).blockMs);
console.log(`blocks of the event loop, a map of 50 MB: ${longBlocks.map((ms) => ms.toFixed(0)).join(', ')} ms`);
report('longest block of the event loop, a map of 50 MB', Math.min(...longBlocks), 50, ' ms');

/** The same while what explains 20,000 broken layers is asked for, page by page. */
async function watchMend() {
  const told = join(folder, 'mend.json');
  const server = new Server();
  await server.start({ ROOTMAP_PLACES: `desk=${folder}`, ROOTMAP_LOOP_WATCH: told, NODE_OPTIONS: `--import ${watch}` });
  const { key } = await server.call('POST', 'projects', { place: 'desk', path: 'broken' });
  server.child.kill('SIGUSR2');
  const startedMs = performance.now();
  const { layers, more } = await server.call('POST', `projects/${key}/mend/explain`, { reach: 'near' });
  const firstMs = performance.now() - startedMs;
  let count = layers.length;
  let mostBytes = 0;
  for (const id of more) {
    const page = await server.call('GET', `projects/${key}/mend/pages/${id}`);
    count += page.length;
    mostBytes = Math.max(mostBytes, JSON.stringify(page).length);
  }
  if (count < 19_000) throw new Error(`${count} layers were explained`);
  console.log(
    `20,000 broken layers: the first page after ${firstMs.toFixed(0)} ms, ${more.length} more, all after ${(performance.now() - startedMs).toFixed(0)} ms`,
  );
  await server.stop();
  return { blockMs: JSON.parse(readFileSync(told, 'utf8')).blockMs, mostBytes };
}
makeMap('broken', 40_000, 10);
const mends = [await watchMend(), await watchMend(), await watchMend()];
report('longest block of the event loop, 20,000 broken layers explained', Math.min(...mends.map((m) => m.blockMs)), 50, ' ms');
report('the largest page of that answer', mends[0].mostBytes / 1e6, 1.5, ' MB');

/** The same while a request of 50,000 references is read, checked and refused: their map is not there. */
async function watchRequest() {
  const told = join(folder, 'request.json');
  const server = new Server();
  await server.start({ ROOTMAP_PLACES: `desk=${folder}`, ROOTMAP_LOOP_WATCH: told, NODE_OPTIONS: `--import ${watch}` });
  const { key } = await server.call('POST', 'projects', { place: 'desk', path: 'small' });
  const layers = Array.from({ length: 50_000 }, (_, i) => ({ map: `Maps/of ${i % 300}.owc.json`, layer: `layer ${i}`, act: 'relative' }));
  const ask = () => server.call('POST', `projects/${key}/edits/plan`, { kind: 'references', layers }).catch((error) => error);
  server.child.kill('SIGUSR2');
  for (let i = 0; i < 3; i++) await ask();
  await server.stop();
  return JSON.parse(readFileSync(told, 'utf8')).blockMs;
}
make('small', 1);
const requestBlocks = [await watchRequest(), await watchRequest(), await watchRequest()];
console.log(`blocks of the event loop: ${requestBlocks.map((ms) => ms.toFixed(0)).join(', ')} ms`);
report('longest block of the event loop, a request of 50,000 references', Math.min(...requestBlocks), 50, ' ms');

/** A project of one map over one large GeoJSON file. */
function makeHeavy(name, megabytes) {
  mkdirSync(join(folder, name));
  const feature = (i) =>
    `{"type":"Feature","properties":{"n":${i}},"geometry":{"type":"Point","coordinates":[${(i % 3600) / 10 - 180},${(i % 1800) / 10 - 90}]}}`;
  const block = Array.from({ length: 10_000 }, (_, i) => feature(i)).join(',\n');
  const fd = openSync(join(folder, name, 'moorings.geojson'), 'w');
  writeSync(fd, '{"type":"FeatureCollection","features":[\n');
  for (let written = 0; written < megabytes * 1e6; written += block.length) writeSync(fd, (written ? ',\n' : '') + block);
  writeSync(fd, '\n]}');
  closeSync(fd);
  const layer = {
    type: 'Feature',
    id: 'moorings',
    properties: {
      title: 'Moorings',
      offerings: [{ code: 'urn:x-rootmap:offering:geojson', contents: [{ type: 'application/geo+json', href: 'moorings.geojson' }] }],
    },
  };
  writeFileSync(
    join(folder, name, 'all.owc.json'),
    JSON.stringify({ type: 'FeatureCollection', properties: { title: 'All' }, features: [layer] }),
  );
}
function peakOf(args) {
  const told = join(folder, 'told.json');
  const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data'), ROOTMAP_LOOP_WATCH: told, NODE_OPTIONS: `--import ${watch}` };
  const r = spawnSync(process.execPath, ['cli/bin/rootmap.js', ...args], { cwd: root, env, encoding: 'utf8' });
  if (r.status !== 0 || r.stdout === '') throw new Error(r.stderr || r.stdout || `${args[0]} said nothing`);
  return JSON.parse(readFileSync(told, 'utf8')).peakMb;
}
const SMALL_MB = 40;
makeHeavy('light', SMALL_MB);
makeHeavy('heavy', SMALL_MB * 15);
for (const command of ['remember', 'pack', 'verify']) {
  const peak = (name) => {
    const bundle = join(folder, `${name}.zip`);
    return peakOf(
      { remember: ['remember', join(folder, name)], pack: ['pack', join(folder, name), '--out', bundle], verify: ['verify', bundle] }[
        command
      ],
    );
  };
  const [light, heavy] = [peak('light'), peak('heavy')];
  console.log(`${command}: peak ${light.toFixed(0)} MiB with ${SMALL_MB} MB, ${heavy.toFixed(0)} MiB with ${SMALL_MB * 15} MB`);
  report(`memory of ${command} with 15 times the data`, heavy / light, 1.5, ' ×');
}
rmSync(folder, { recursive: true, force: true });
