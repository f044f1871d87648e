// A mend of six maps, killed for real (SIGKILL) at 200 seeded steps: every file is old or new, all of them alike.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { recoverChanges } from '@rootmap/engine';
import { openStore, SqlJournal } from '@rootmap/engine/store';
import { root } from './lib.mjs';

const RUNS = 200;
const STEPS = 37;
let seed = 20261125;
const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 4294967296;
const outcomes = {};
for (let run = 0; run < RUNS; run++) {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-killed-'));
  const p = join(folder, 'p');
  mkdirSync(join(p, 'old'), { recursive: true });
  mkdirSync(join(p, 'maps'));
  for (const e of ['shp', 'shx', 'dbf']) cpSync(join(root, `testdata/open/shape-types/point.${e}`), join(p, 'old', `point.${e}`));
  const layer = (id) => ({ type: 'Feature', id, properties: { title: id, offerings: [{ contents: [{ href: '../old/point.shp' }] }] } });
  for (let i = 0; i < 6; i++)
    writeFileSync(join(p, 'maps', `m${i}.owc.json`), JSON.stringify({ type: 'FeatureCollection', features: ['a', 'b', 'c'].map(layer) }));
  renameSync(join(p, 'old'), join(p, 'new'));
  const step = Math.floor(random() * STEPS);
  const child = spawnSync(process.execPath, ['engine/test/kill-child.mjs', p, join(folder, 'data'), String(step)], { cwd: root });
  const store = await openStore(join(folder, 'data'));
  const recovered = await recoverChanges(new SqlJournal(store));
  await store.destroy();
  const texts = readdirSync(join(p, 'maps')).map((f) => readFileSync(join(p, 'maps', f), 'utf8'));
  const isNew = texts.map((t) => !t.includes('../old/') && t.includes('../new/'));
  const alike = texts.length === 6 && new Set(isNew).size === 1;
  const outcome = child.signal === 'SIGKILL' ? (recovered[0]?.outcome ?? 'none') : 'not reached';
  if (!alike || ((outcome === 'finished') !== isNew[0] && child.signal === 'SIGKILL'))
    throw new Error(`step ${step}: ${outcome}, ${isNew}`);
  outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
  rmSync(folder, { recursive: true, force: true });
}
console.log(`ok   ${RUNS} kills, every file old or new: ${JSON.stringify(outcomes)}`);
