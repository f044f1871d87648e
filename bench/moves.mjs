// 1,000 random moves and renames in a project of 2,000 datasets and 200 maps: no layer is broken afterwards.
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join, resolve } from 'node:path';
import { openPlace, wholeDisks, planMoves, runChange } from '@rootmap/engine';
import { openStore, SqlJournal } from '@rootmap/engine/store';
import { report, root } from './lib.mjs';

const DATASETS = 2000;
const MAPS = 200;
const MOVES = 1000;
const LAYERS = 12;
let seed = 20261125;
const random = (below) => {
  seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
  return Math.floor((seed / 4294967296) * below);
};
const pick = (list) => list[random(list.length)];

const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-moves-'));
const project = join(folder, 'p');
const bytes = Object.fromEntries(['shp', 'shx', 'dbf'].map((e) => [e, readFileSync(join(root, `testdata/open/shape-types/point.${e}`))]));
const datasets = [];
for (let i = 0; i < DATASETS; i++) {
  const at = join(project, `area_${i % 20}`, `part_${i % 100}`);
  mkdirSync(at, { recursive: true });
  for (const e of ['shp', 'shx', 'dbf']) writeFileSync(join(at, `set_${i}.${e}`), bytes[e]);
  datasets.push(join(at, `set_${i}.shp`));
}
mkdirSync(join(project, 'maps'));
for (let m = 0; m < MAPS; m++) {
  const file = join(project, 'maps', `map_${m}.owc.json`);
  const layer = () => {
    const target = pick(datasets);
    const href = random(5) === 0 ? `file://${target}` : `../${target.slice(project.length + 1)}`;
    return { type: 'Feature', properties: { title: basename(target), offerings: [{ contents: [{ href }] }] } };
  };
  writeFileSync(file, JSON.stringify({ type: 'FeatureCollection', features: Array.from({ length: LAYERS }, layer) }, null, 1));
}

/** A judge that takes nothing from the product: every reference of every map leads to a whole shapefile. */
function brokenLayers() {
  let layers = 0;
  let broken = 0;
  const visit = (at) => {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.isDirectory() && !entry.name.startsWith('.')) visit(path);
      if (!entry.name.endsWith('.owc.json')) continue;
      for (const f of JSON.parse(readFileSync(path, 'utf8')).features) {
        const { href } = f.properties.offerings[0].contents[0];
        const target = decodeURIComponent(href.startsWith('file://') ? href.slice(7) : resolve(dirname(path), href));
        layers++;
        if (!['shp', 'shx', 'dbf'].every((e) => existsSync(target.replace(/shp$/, e)))) broken++;
      }
    }
  };
  visit(project);
  return { layers, broken };
}
const all = (what) => {
  const found = [];
  const visit = (at) => {
    for (const entry of readdirSync(at, { withFileTypes: true })) {
      const path = join(at, entry.name);
      if (entry.name.startsWith('.')) continue;
      if (entry.isDirectory()) {
        if (what === 'folder') found.push(path);
        visit(path);
      } else if (entry.name.endsWith(what)) found.push(path);
    }
  };
  visit(project);
  return found;
};

const before = brokenLayers();
const store = await openStore(join(folder, 'data'));
const journal = new SqlJournal(store);
const places = wholeDisks([]).map(openPlace);
const planMs = [];
let refused = 0;
for (let n = 0; n < MOVES; n++) {
  const kind = random(10);
  const folders = all('folder');
  const from = kind < 6 ? pick(all('.shp')) : kind < 8 ? pick(all('.owc.json')) : pick(folders);
  const into = random(3) === 0 ? dirname(from) : pick(folders);
  const ending = /\.owc\.json$|\.shp$/.exec(from)?.[0] ?? '';
  const to = join(into, random(2) === 0 ? basename(from) : `${pick(['sea', 'bed', 'zone', 'Ä b', 'x#y'])}_${n}${ending}`);
  const started = performance.now();
  let plan;
  try {
    plan = planMoves([{ from, to }], [project], places, { who: 'bench' });
  } catch (error) {
    if (!error.problem) throw error;
    refused++; // a folder into itself, or a name that is taken: told, nothing done
    continue;
  }
  planMs.push(performance.now() - started);
  await runChange(plan.change, { journal, program: 'bench' });
}
await store.destroy();
const after = brokenLayers();
planMs.sort((a, b) => a - b);
console.log(`${planMs.length} moves, ${refused} refused; plan: median ${planMs[planMs.length >> 1].toFixed(0)} ms`);
if (before.broken !== 0 || before.layers !== MAPS * LAYERS || after.layers !== before.layers)
  throw new Error(JSON.stringify({ before, after }));
if (planMs.length < MOVES / 2) throw new Error(`only ${planMs.length} of ${MOVES} moves were made`);
report('layers broken by 1,000 moves and renames', after.broken, 0, '');
report('planning a move, the slowest', planMs.at(-1), 200, ' ms');
rmSync(folder, { recursive: true, force: true });
