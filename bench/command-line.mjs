// What people type in a folder of 100,000 files (10,000 datasets), against find with the same facts of each file. Starting Node is taken off.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { report, root, timeCommand } from './lib.mjs';

const FOLDERS = 5000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-line-'));
const sample = (ending) => readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${ending}`));
const parts = Object.fromEntries(['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [e, sample(e)]));
const at = (...names) => join(folder, 'p', ...names);
for (let i = 0; i < FOLDERS; i++) {
  const part = at(`area_${Math.floor(i / 100)}`, `part_${i}`);
  mkdirSync(part, { recursive: true });
  for (const name of ['roads', 'rivers'])
    for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(part, `${name}.${ending}`), bytes);
  for (let n = 0; n < 10; n++) writeFileSync(join(part, `part_${n}.dat`), 'x');
}
const data = join(folder, 'data');
const env = { ...process.env, ROOTMAP_DATA: data };
const command = (...args) => timeCommand(process.execPath, ['cli/bin/rootmap.js', ...args], 1, { cwd: root, env });
mkdirSync(join(folder, 'empty'));
const start = Math.min(...Array.from({ length: 3 }, () => command('datasets', join(folder, 'empty'))));

const ROUNDS = 3;
const [finds, firsts, again, moves] = [[], [], [], []];
for (let round = 0; round < ROUNDS; round++) {
  finds.push(timeCommand('find', [at(), '-printf', '%p %s %T@ %i\n'], 5));
  rmSync(data, { recursive: true, force: true });
  firsts.push(command('datasets', at()) - start);
  again.push(command('datasets', at()) - start);
  moves.push(command('move', at(), '--from', at('area_0', 'part_0', 'roads.shp'), '--to', at('area_0', 'moved.shp')) - start);
}
const told = spawnSync(process.execPath, ['cli/bin/rootmap.js', 'datasets', at(), '--json'], {
  cwd: root,
  env,
  encoding: 'utf8',
  maxBuffer: 1 << 30,
});
const { totals } = JSON.parse(told.stdout);
if (totals.datasets !== FOLDERS * 2 || totals.files !== FOLDERS * 10) throw new Error(`told ${JSON.stringify(totals)}`);
const each = (list) => list.map((ms) => ms.toFixed(0)).join(', ');
console.log(
  `find -printf: ${each(finds)} ms; datasets ${each(firsts)} ms, again ${each(again)} ms; move ${each(moves)} ms; start ${start.toFixed(0)} ms`,
);
const yardstick = Math.min(...finds);
report('datasets, the first time / find', Math.min(...firsts) / yardstick, 4, ' ×');
report('datasets, nothing changed / find', Math.min(...again) / yardstick, 2.5, ' ×');
report('plan of a move of one dataset / find', Math.min(...moves) / yardstick, 1000 / 370, ' ×'); // one second where find takes 370 ms
rmSync(folder, { recursive: true, force: true });
