// What an undo would do, for a change of 1,000 files, as a page asks for it; then the law of undo over 300 random sequences.
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, report, root, Server } from './lib.mjs';

const MAPS = 1000;
/** A server runs for hours: what the first looks cost after a start is told apart. */
const FIRST = 5;
const RUNS = 12;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-undo-'));
mkdirSync(join(folder, 'many', 'data'), { recursive: true });
mkdirSync(join(folder, 'many', 'maps'));
for (const ending of ['shp', 'shx', 'dbf', 'prj', 'cpg'])
  writeFileSync(
    join(folder, 'many', 'data', `roads.${ending}`),
    readFileSync(join(root, 'testdata/open/example_project/working', `fairway_006.${ending}`)),
  );
const layer = {
  type: 'Feature',
  id: 'roads',
  properties: {
    title: 'Roads',
    offerings: [{ code: 'urn:x-rootmap:offering:shapefile', contents: [{ type: 'application/x-shapefile', href: '../data/roads.shp' }] }],
  },
};
for (let i = 0; i < MAPS; i++)
  writeFileSync(
    join(folder, 'many', 'maps', `sheet_${i}.owc.json`),
    JSON.stringify({ type: 'FeatureCollection', properties: { title: `Sheet ${i}` }, features: [layer] }),
  );
const server = new Server();
await server.start({ ROOTMAP_PLACES: `desk=${folder},D:` });
const { key } = await server.call('POST', 'projects', { place: 'desk', path: 'many' });
const { applied } = await server.call('POST', `projects/${key}/paths`, { store: 'absolute', apply: true });
const times = [];
for (let i = 0; i < FIRST + RUNS; i++) {
  const startedMs = performance.now();
  const preview = await server.call('GET', `journal/${applied.change.id}/undo`);
  times.push(performance.now() - startedMs);
  if (preview.backCount !== MAPS) throw new Error(`${preview.backCount} files would come back`);
}
await server.stop();
rmSync(folder, { recursive: true, force: true });
console.log(
  `right after the start: ${times
    .slice(0, FIRST)
    .map((ms) => ms.toFixed(0))
    .join(', ')} ms`,
);
report(`what an undo of ${MAPS} files would do`, median(times.slice(FIRST)), 300, ' ms');

const { status } = spawnSync(
  process.execPath,
  ['--experimental-vm-modules', '--disable-warning=ExperimentalWarning', 'node_modules/jest/bin/jest.js', 'engine/src/changes/undo-law'],
  { cwd: root, stdio: 'inherit', env: { ...process.env, ROOTMAP_UNDO_SEQUENCES: '300' } },
);
report('random sequences that were not as the model says', status === 0 ? 0 : 1, 0, '');
