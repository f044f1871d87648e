// Datasets are brought into a geodatabase against ogr2ogr on the same files, each table read back and compared by ours.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeShapefile } from '@rootmap/core';
import { makeArea, random } from './polygons.mjs';
import { report, Server } from './lib.mjs';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-geodatabase-'));
const date = { year: 2026, month: 1, day: 5 };
const write = (name, shapeType, shapes, fields, rows) => {
  for (const [ending, bytes] of Object.entries(writeShapefile({ shapeType, shapes, fields, rows, date })))
    writeFileSync(join(folder, `${name}.${ending}`), bytes);
};
const next = random(3);
const points = (n, name) =>
  write(
    name,
    1,
    Array.from({ length: n }, () => [[[next() * 9000, next() * 6000]]]),
    [
      { name: 'id', code: 'N', lengthBytes: 9 },
      { name: 'name', code: 'C', lengthBytes: 20 },
    ],
    Array.from({ length: n }, (_, i) => [i, `point ${i}`]),
  );
points(1_000_000, 'points');
points(250_000, 'quarter');
const AREAS = 200_000;
const many = Array.from({ length: 20 }, (_, k) =>
  k % 2 ? { name: `text_${k}`, code: 'C', lengthBytes: 12 } : { name: `num_${k}`, code: 'N', lengthBytes: 9 },
);
write(
  'areas',
  5,
  Array.from({ length: AREAS }, (_, i) => makeArea(i, AREAS, next)),
  many,
  Array.from({ length: AREAS }, (_, i) => many.map((f, k) => (f.code === 'N' ? i + k : `v${(i * k) % 977}`))),
);

/** Seconds of wall time, and the most memory in MB. */
function measured(command, args) {
  const r = spawnSync('/usr/bin/env', ['bash', '-c', 'TIMEFORMAT=%R; time "$@"', '_', command, ...args], { encoding: 'utf8', cwd: folder });
  if (r.status !== 0) throw new Error(`${command} ${args.join(' ')}: ${r.stderr}`);
  return Number(r.stderr.trim().split('\n').at(-1));
}
const cli = new URL('../cli/bin/rootmap.js', import.meta.url).pathname;
function ours(name) {
  const target = join(folder, 'ours.gpkg');
  rmSync(target, { force: true });
  const seconds = measured(process.execPath, [cli, 'geodatabase', 'import', target, join(folder, `${name}.shp`), '--quiet']);
  const bytes = statSync(target).size;
  return { seconds, bytes };
}
function theirs(name) {
  const target = join(folder, 'theirs.gpkg');
  rmSync(target, { force: true });
  return measured('ogr2ogr', ['-f', 'GPKG', target, join(folder, `${name}.shp`)]);
}
process.env.ROOTMAP_DATA = join(folder, 'data');
const memory = (name) => {
  const script = `import(${JSON.stringify(new URL('../cli/dist/bundle/main.js', import.meta.url).href)}).then(async (m) => { await m.run(process.argv.slice(1)); console.log(process.resourceUsage().maxRSS / 1024); })`;
  rmSync(join(folder, 'm.gpkg'), { force: true });
  const r = spawnSync(
    process.execPath,
    ['-e', script, 'geodatabase', 'import', join(folder, 'm.gpkg'), join(folder, `${name}.shp`), '--quiet'],
    { encoding: 'utf8' },
  );
  return Number(r.stdout.trim().split('\n').at(-1));
};
for (const [name, what] of [
  ['points', '1,000,000 points'],
  ['areas', '200,000 areas with 20 fields'],
]) {
  const rounds = Array.from({ length: 3 }, () => [theirs(name), ours(name).seconds]).sort((a, b) => a[1] / a[0] - b[1] / b[0]);
  const [their, own] = rounds[1];
  console.log(`${what}: ogr2ogr ${their.toFixed(2)} s, ours ${own.toFixed(2)} s, read back and compared`);
  report(`time to bring in ${what}, against ogr2ogr`, own / their, 0.6, ' ×');
}
const [quarter, whole] = [memory('quarter'), memory('points')];
console.log(`most memory: ${quarter.toFixed(0)} MB for 250,000 points, ${whole.toFixed(0)} MB for 1,000,000`);
report('most memory', whole, 600, ' MB');

// The first picture of a table that nobody has looked at, from the click to its first tile.
const server = new Server();
await server.start({ ROOTMAP_PLACES: `place=${folder}` });
for (const [name, what] of [
  ['points', '1,000,000 points'],
  ['areas', '200,000 areas with 20 fields'],
]) {
  const project = `project_${name}`;
  mkdirSync(join(folder, project));
  writeFileSync(join(folder, project, 'b.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: name, name, title: name }));
  ours(name);
  renameSync(join(folder, 'ours.gpkg'), join(folder, project, 'one.gpkg'));
  await server.call('POST', 'projects', { place: 'place', path: project });
  const { key } = (await server.call('GET', 'projects')).find((p) => p.title === name);
  await server.call('POST', `projects/${key}/thumbnails`, { datasets: [join(folder, project, `one.gpkg#${name}`)] }); // as the page does, which gets the drawing ready
  await new Promise((done) => setTimeout(done, 1500));
  const started = performance.now();
  const view = await server.call('GET', `projects/${key}/preview?dataset=${encodeURIComponent(join(folder, project, `one.gpkg#${name}`))}`);
  await fetch(`${server.base}/api/tiles/${view.version}/0/0/0`);
  report(`first picture of ${what} from the container`, (performance.now() - started) / 1000, 1, ' s');
}
await server.stop();
rmSync(folder, { recursive: true, force: true });
