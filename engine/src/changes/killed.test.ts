import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import { chmodSync, readdirSync, readFileSync, renameSync } from 'node:fs';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import { recoverChanges } from './recover.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

/** Seeded; spread over the preparing, the renaming and the reading back of a mend of six maps. */
const STEPS = [0, 1, 4, 9, 14, 17, 19, 22, 25, 29, 31, 35];
const MAPS = 6;
const outcomes: string[] = [];

test.each(STEPS)('killed before step %i: every file old or new, never half, and the next start says which', async (step) => {
  for (const name of ['point', 'buoys', 'wrecks']) t.shapefile('point', `p/old/${name}`);
  for (let i = 0; i < MAPS; i++) t.map(`p/maps/m${i}.owc.json`, ['../old/point.shp', '../old/buoys.shp', '../old/wrecks.shp']);
  renameSync(t.at('p/old'), t.at('p/new'));
  const read = (): Map<string, string> =>
    new Map(
      readdirSync(t.at('p/maps'))
        .sort()
        .map((f) => [f, readFileSync(t.at('p/maps', f), 'utf8')]),
    );
  const before = read();
  const after = new Map([...before].map(([f, text]) => [f, text.replaceAll('../old/', '../new/')]));
  const child = spawnSync(process.execPath, ['engine/test/kill-child.mjs', t.at('p'), t.at('data'), String(step)], { encoding: 'utf8' });
  expect([child.signal, child.stderr]).toEqual(['SIGKILL', '']);
  const store = await openStore(t.at('data'));
  const recovered = await recoverChanges(new SqlJournal(store));
  await store.destroy();
  expect(recovered).toHaveLength(1);
  outcomes.push(recovered[0]!.outcome);
  expect(recovered[0]!.left).toEqual([]);
  expect(read()).toEqual(recovered[0]!.outcome === 'finished' ? after : before);
});

test('both ends were met: early kills are taken back, late ones finished', () => {
  expect(outcomes).toHaveLength(STEPS.length);
  expect([...outcomes].sort((a, b) => (a === b ? 0 : a === 'taken-back' ? -1 : 1))).toEqual(outcomes);
  expect([...new Set(outcomes)]).toEqual(['taken-back', 'finished']);
});

test('read by an unprivileged user: what may not be opened is told, the rest goes on', () => {
  t.shapefile('point', 'p/data/point');
  t.shapefile('polygon', 'p/data/polygon');
  t.shapefile('polyline', 'p/shut/polyline');
  t.map('p/m.owc.json', ['data/point.shp', 'data/polygon.shp', 'shut/polyline.shp']);
  chmodSync(t.path, 0o755);
  chmodSync(t.at('p/data/polygon.shp'), 0);
  chmodSync(t.at('p/shut'), 0);
  const out = JSON.parse(execFileSync(process.execPath, ['engine/test/unprivileged-child.mjs', t.at('p')], { encoding: 'utf8' })) as {
    datasets: [string, string, string | null][];
    skipped: { path: string; why: string }[];
    layers: { state: string; reason?: string }[];
  };
  chmodSync(t.at('p/shut'), 0o755);
  expect(out.datasets.map(([id, state]) => [id, state])).toEqual([
    ['data/point.shp', 'ok'],
    ['data/polygon.shp', 'unreadable'],
  ]);
  expect(out.datasets[1]![2]).toMatch(/may not be opened by this account/);
  expect(out.skipped.map((s) => s.path)).toEqual(['shut']);
  expect(out.layers.map((l) => l.state)).toEqual(['sound', 'unreadable', 'unreadable']);
});
