// On Node for Windows under Wine: how soon the server is ready, and a survey of 100,000 files against a plain walk with stat in the same Node.
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ensureWine, windowsMachine } from '../scripts/windows/machine.mjs';
import { report, root } from './lib.mjs';

const FOLDERS = 5000;
const FILES = FOLDERS * 20;
const WALK = `const fs = require('fs');
const walk = (f) => fs.readdirSync(f, { withFileTypes: true }).reduce((n, e) => n + (e.isDirectory() ? walk(f + '\\\\' + e.name) : (fs.statSync(f + '\\\\' + e.name), 1)), 0);
for (let i = 0; i < 2; i++) { const t = performance.now(); const n = walk('D:\\\\p'); console.log('walked', n, Math.round(performance.now() - t)); }`;

async function measure() {
  const folder = mkdtempSync(join(existsSync('/dev/shm') ? '/dev/shm' : tmpdir(), 'rootmap-bench-windows-'));
  const sample = (ending) => readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${ending}`));
  const parts = Object.fromEntries(['shp', 'shx', 'dbf', 'prj', 'cpg'].map((e) => [e, sample(e)]));
  for (let i = 0; i < FOLDERS; i++) {
    const at = join(folder, 'd', 'p', `area_${Math.floor(i / 100)}`, `part_${i}`);
    mkdirSync(at, { recursive: true });
    for (const name of ['roads', 'rivers'])
      for (const [ending, bytes] of Object.entries(parts)) writeFileSync(join(at, `${name}.${ending}`), bytes);
    for (let n = 0; n < 10; n++) writeFileSync(join(at, `part_${n}.dat`), 'x');
  }
  const machine = await windowsMachine({ D: join(folder, 'd') });
  try {
    const { text } = await machine.finish(['-e', WALK]);
    const walks = [...text.matchAll(/walked (\d+) (\d+)/g)];
    if (walks.length !== 2 || walks.some((w) => Number(w[1]) !== FILES)) throw new Error(`the walk told: ${text}`);
    const walkMs = Math.min(...walks.map((w) => Number(w[2])));
    const out = join(folder, 'server.log');
    const server = machine.node([`${machine.workspace}\\server\\dist\\bundle\\main.js`], {
      out,
      env: { ROOTMAP_DATA: 'D:\\data', ROOTMAP_PLACES: 'desk=D:', ROOTMAP_PORT: '0', ROOTMAP_LOG: 'error' },
    });
    let base;
    while (!base) {
      await wait(20);
      base = /http:\/\/\S+/.exec(readFileSync(out, 'utf8'))?.[0];
    }
    const ask = async (method, path, body) => {
      const r = await fetch(`${base}/api/${path}`, {
        method,
        ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
      });
      if (!r.ok) throw new Error(await r.text());
      return r.json();
    };
    const { key } = await ask('POST', 'projects', { place: 'desk', path: 'p' });
    const first = await ask('GET', `projects/${key}`);
    if (first.files !== FILES) throw new Error(`surveyed ${first.files} files`);
    const again = [];
    for (let i = 0; i < 3; i++) again.push((await ask('POST', `projects/${key}/rescan`)).surveyMs);
    server.kill();
    console.log(
      `plain walk ${walkMs} ms; survey with an empty index, headers read ${first.surveyMs.toFixed(0)} ms; nothing changed ${again.map((ms) => ms.toFixed(0)).join(', ')} ms`,
    );
    report('survey on Windows when nothing changed / plain walk', Math.min(...again) / walkMs, 1.5, ' ×');
    report('survey on Windows with an empty index / plain walk', first.surveyMs / walkMs, 1.5, ' ×');
  } finally {
    machine.close();
    rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
  }
}

const missing = process.platform === 'linux' ? await ensureWine() : ['Linux, on which this is run'];
if (missing.length > 0) console.log(`Not measured on Windows: ${missing.join(' and ')} cannot be had here.`);
else await measure();
