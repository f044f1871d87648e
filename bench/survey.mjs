// Survey of 100,000 files in 5,000 folders (10,000 datasets, headers read), against find with the same facts of each file.
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { report, root, Server, timeCommand } from './lib.mjs';

const FOLDERS = 5000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-survey-'));
const sample = (ending) => readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${ending}`));
const parts = Object.fromEntries(['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [e, sample(e)]));
for (let i = 0; i < FOLDERS; i++) {
  const at = join(folder, 'p', `area_${Math.floor(i / 100)}`, `part_${i}`);
  mkdirSync(at, { recursive: true });
  for (const name of ['roads', 'rivers'])
    for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(at, `${name}.${ending}`), bytes);
  for (let n = 0; n < 10; n++) writeFileSync(join(at, `part_${n}.dat`), 'x');
}
const find = () => timeCommand('find', [folder, '-printf', '%p %s %T@ %i\n'], 5);

// Rounds of both, the best of each: a moment in which the machine is busy elsewhere is not held against either.
const ROUNDS = 4;
const finds = [];
const firsts = [];
const again = [];
for (let round = 0; round < ROUNDS; round++) {
  const server = new Server();
  await server.start({ ROOTMAP_PLACES: `desk=${folder}` });
  const { key } = await server.call('POST', 'projects', { place: 'desk', path: 'p' });
  finds.push(find());
  const first = await server.call('GET', `projects/${key}`);
  if (first.files !== FOLDERS * 20 || first.datasets.length !== FOLDERS * 2)
    throw new Error(`surveyed ${first.files} files, ${first.datasets.length} datasets`);
  firsts.push(first.surveyMs);
  for (let i = 0; i < 2; i++) again.push((await server.call('POST', `projects/${key}/rescan`)).surveyMs);
  await server.stop();
}
const yardstick = Math.min(...finds);
const each = (list) => list.map((ms) => ms.toFixed(0)).join(', ');
console.log(`find -printf: ${each(finds)} ms; empty index ${each(firsts)} ms; nothing changed ${each(again)} ms`);
report('survey with an empty index / find', Math.min(...firsts) / yardstick, 4, ' ×');
report('survey when nothing changed / find', Math.min(...again) / yardstick, 2.5, ' ×');
rmSync(folder, { recursive: true, force: true });
