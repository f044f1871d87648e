// Rehearsals against what is found when the move is really made; rehearsal and references of 200 maps with 20 layers.
import { transformSync } from '@swc/core';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeMapFile } from '@rootmap/core';
import { findScope, openPlace, readMaps, rehearse, STAY } from '@rootmap/engine';
import { median, report, root as repository, Server } from './lib.mjs';

const MOVES = 500;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-rehearsal-'));
// The judge is TypeScript of the tests, which use nothing of the app's own code.
const source = readFileSync(join(repository, 'engine/test/rehearsal-world.ts'), 'utf8');
const judge = join(folder, 'judge.mjs');
writeFileSync(judge, transformSync(source, { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' } }).code);
const { predictAndMove } = await import(judge);
let [layers, broken, wrong] = [0, 0, 0];
for (let seed = 1001; seed <= 1000 + MOVES; seed++) {
  const where = join(folder, String(seed));
  const outcome = predictAndMove(where, seed, (world, what) => {
    const scope = findScope(world.root, { places: world.places.map(openPlace), root: world.root });
    return rehearse(scope, { ...STAY, ...what }).layers.map((l) => ({
      map: l.map.path,
      layer: l.layer,
      isSound: l.after.state === 'sound',
      isBroken: l.isBroken,
    }));
  });
  layers += outcome.layers;
  broken += outcome.broken;
  wrong += outcome.wrong.length;
  rmSync(where, { recursive: true, force: true });
}
console.log(`${MOVES} moves made for real: ${layers} layers, ${((100 * broken) / layers).toFixed(0)} % of them broken by the move`);
report('layers that were predicted wrongly', wrong, 0, '');
report('share of layers that stay sound', (100 * (layers - broken)) / layers, 80, ' %');

// 200 maps of 20 layers over 400 datasets.
const server = new Server();
const place = join(server.folder, 'place');
const root = join(place, 'project');
mkdirSync(join(root, 'maps'), { recursive: true });
writeFileSync(join(root, 'bench.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'b', name: 'bench', title: 'Bench' }));
const point =
  '{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[1,2]},"properties":{"a":1}}]}';
for (let n = 0; n < 400; n++) {
  const at = join(root, `received_${n % 20}`);
  mkdirSync(at, { recursive: true });
  writeFileSync(join(at, `data_${n}.geojson`), point);
}
for (let m = 0; m < 200; m++) {
  const own = Array.from({ length: 20 }, (_, i) => (m * 7 + i * 13) % 400);
  writeFileSync(
    join(root, 'maps', `map_${m}.owc.json`),
    writeMapFile({
      id: `m${m}`,
      title: `Map ${m}`,
      updated: '2026-01-01T00:00:00Z',
      crs: 'EPSG:4326',
      storedForm: 'relative',
      layers: own.map((n, i) => ({
        id: `l${i}`,
        title: `Layer ${n}`,
        format: 'geojson',
        href: i % 4 === 0 ? `file://${root}/received_${n % 20}/data_${n}.geojson` : `../received_${n % 20}/data_${n}.geojson`,
      })),
    }),
  );
}
const scope = findScope(root, { places: [openPlace({ name: 'place', folder: place, driveNames: [] })], root });
const time = (work) => {
  const times = Array.from({ length: 5 }, () => {
    const started = performance.now();
    work();
    return performance.now() - started;
  });
  return median(times);
};
report(
  'references of 200 maps with 20 layers, from the disk',
  time(() => readMaps(scope)),
  300,
  ' ms',
);
await server.start({ ROOTMAP_PLACES: `place=${place}` });
await server.call('POST', 'projects', { place: 'place', path: 'project' });
const [project] = await server.call('GET', 'projects');
await server.call('GET', `projects/${project.key}`);
const ask = async () => {
  const started = performance.now();
  const told = await server.call('POST', `projects/${project.key}/maps/rehearsal`, { to: 'G:\\project', isCopy: true, isElsewhere: true });
  if (told.broken !== 1000) throw new Error(`${told.broken} layers would be lost, not 1000`);
  return performance.now() - started;
};
await ask();
report('rehearsal of the same, over HTTP', median([await ask(), await ask(), await ask()]), 500, ' ms');
await server.stop();
rmSync(folder, { recursive: true, force: true });
