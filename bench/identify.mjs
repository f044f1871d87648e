// What is at a point: a map of 20 layers with a million shapes, shapefiles and tables of a geodatabase, asked over HTTP as the page does.
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { makeArea, random, writeAreas } from './polygons.mjs';
import { median, report, Server } from './lib.mjs';

const LAYERS = 20;
const SHAPES = 50_000;
const CRS = 'EPSG:32624';
const server = new Server();
const place = join(server.folder, 'place');
const root = join(place, 'project');
mkdirSync(root, { recursive: true });
writeFileSync(
  join(root, 'bench.rootmap.json'),
  JSON.stringify({ format: 'rootmap-project/1', id: 'b', name: 'bench', title: 'Bench', crs: CRS }),
);
const next = random(11);
const datasets = [];
for (let n = 0; n < LAYERS; n++) {
  writeAreas(
    join(root, `areas_${n}`),
    Array.from({ length: SHAPES }, (_, i) => makeArea(i, SHAPES, next)),
  );
  if (n % 2 === 0) {
    datasets.push(`areas_${n}.shp`);
    continue;
  }
  const r = spawnSync('ogr2ogr', ['-f', 'GPKG', join(root, `areas_${n}.gpkg`), join(root, `areas_${n}.shp`)], { encoding: 'utf8' });
  if (r.status !== 0) throw new Error(r.stderr);
  for (const end of ['shp', 'shx', 'dbf', 'prj', 'cpg']) rmSync(join(root, `areas_${n}.${end}`), { force: true });
  datasets.push(`areas_${n}.gpkg`);
}
await server.start({ ROOTMAP_PLACES: `place=${place}` });
await server.call('POST', 'projects', { place: 'place', path: 'project' });
const [{ key }] = await server.call('GET', 'projects');
const sources = await server.call('GET', `projects/${key}/sources`);
const ids = sources.sources.filter((d) => datasets.some((name) => d.id.includes(`/${name}`))).map((d) => d.id);
if (ids.length !== LAYERS) throw new Error(`${ids.length} of ${LAYERS} datasets were found`);
const layers = [];
const drawing = { filter: '', rules: [], label: null, raster: null };
for (const dataset of ids) {
  const { version, extent } = await server.call('POST', `projects/${key}/layer-picture`, { dataset, crs: CRS, drawing });
  layers.push({ id: dataset, version, drawing: null, extent });
}
const [minx, miny, maxx, maxy] = layers[0].extent;
const asked = async () => {
  const at = [minx + next() * (maxx - minx), miny + next() * (maxy - miny)];
  const started = performance.now();
  const found = await server.call('POST', 'identify', {
    at,
    reach: (maxx - minx) / 200, // six pixels where all of it is on the screen
    layers: layers.map(({ id, version, drawing }) => ({ id, version, drawing })),
  });
  const first = found.find((l) => l.shapes.length > 0);
  if (first) {
    const { records } = await server.call('POST', `projects/${key}/records`, { dataset: first.id, records: [first.shapes[0].record] });
    if (records.length !== 1) throw new Error('a record was not found');
  }
  return { ms: performance.now() - started, hits: found.reduce((n, l) => n + l.shapes.length + l.more, 0) };
};
const { ms: cold } = await asked();
const all = [];
for (let i = 0; i < 60; i++) all.push(await asked());
const times = all.map((a) => a.ms).sort((a, b) => a - b);
console.log(`${LAYERS} layers, ${LAYERS * SHAPES} shapes; ${Math.round(median(all.map((a) => a.hits)))} shapes near a point`);
report('what is at a point, with the values of the nearest, the first time', cold, 100, ' ms');
report('what is at a point, the median of sixty', median(times), 100, ' ms');
report('what is at a point, the slowest of twenty', times[Math.floor(times.length * 0.95)], 100, ' ms');
await server.stop();
