import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { appendFileSync, mkdirSync, readFileSync, renameSync, rmSync, symlinkSync, truncateSync, writeFileSync } from 'node:fs';
import { ChangeDisk } from '../changes/disk.js';
import { recoverChanges } from '../changes/recover.js';
import { runChange, StopHere } from '../changes/run-change.js';
import { readMaps } from '../project/read-maps.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import { choicesOf } from './choose.js';
import { explainBroken, planMend } from './plan-mend.js';

const NAMES = ['point', 'polygon', 'polyline', 'multipoint'];
let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  writeFileSync(t.at('p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'p', name: 'p', title: 'p' }));
  for (const name of NAMES) t.shapefile(name, `new/${name}`);
  for (const m of ['a', 'b', 'c'])
    t.map(
      `maps/${m}.owc.json`,
      NAMES.map((n) => `../old/${n}.shp`),
    );
});
afterEach(() => t.remove());
const explain = (onItem?: (path: string) => void) => explainBroken(t.scope('.'), [], onItem ? { onItem } : {});
const verdicts = () => explain().view.layers.map((l) => [l.title, l.verdict, l.candidates[0]?.path.slice(t.path.length + 1) ?? null]);
const texts = (): string[] => ['a', 'b', 'c'].map((m) => readFileSync(t.at(`maps/${m}.owc.json`), 'utf8'));
const states = (): string[] => readMaps(t.scope('.')).maps.flatMap((m) => m.layers.map((l) => l.judgement.state));

test('a candidate that is damaged is none, and the rest goes on', () => {
  truncateSync(t.at('new/polygon.shp'), 60);
  writeFileSync(t.at('new/notes.gpkg'), 'no database');
  writeFileSync(t.at('new/half.geojson'), '{"type": "FeatureCollection", "features": [{');
  const found = verdicts();
  expect(found.filter(([title]) => title === 'polygon.shp').map(([, verdict]) => verdict)).toEqual(['none', 'none', 'none']);
  expect(found.filter(([title]) => title !== 'polygon.shp').every(([, verdict]) => verdict === 'certain')).toBe(true);
});

test('links that lead to each other, or back up, end', () => {
  symlinkSync(t.path, t.at('new/up'));
  symlinkSync(t.at('new/there'), t.at('new/back'));
  symlinkSync(t.at('new/back'), t.at('new/there'));
  expect(new Set(verdicts().map(([, verdict]) => verdict))).toEqual(new Set(['certain']));
});

test('folders and files that go while they are looked through are passed over', () => {
  mkdirSync(t.at('aaa/inner'), { recursive: true });
  t.shapefile('pointz', 'zzz/pointz');
  let isGone = false;
  const work = explain((path) => {
    if (isGone || !path.endsWith('/aaa')) return;
    isGone = true;
    rmSync(t.at('aaa'), { recursive: true });
    rmSync(t.at('zzz'), { recursive: true });
  });
  expect(isGone).toBe(true);
  expect(work.view.layers.every((l) => l.verdict === 'certain')).toBe(true);
});

test('a map that was edited between plan and apply: told, and no map is written', async () => {
  const work = explain();
  const change = planMend(work, choicesOf(work, 'certain'), 'test')!;
  appendFileSync(t.at('maps/b.owc.json'), ' ');
  const before = texts();
  const store = await openStore(t.at('data'));
  const run = runChange(change, { journal: new SqlJournal(store), program: 'test' });
  await expect(run).rejects.toMatchObject({ problem: { code: 'changed-meanwhile', path: t.at('maps/b.owc.json') } });
  expect(texts()).toEqual(before);
  await store.destroy();
});

test('data that went again between plan and apply does no harm: the maps say where it was, and can be mended again', async () => {
  const work = explain();
  const change = planMend(work, choicesOf(work, 'certain'), 'test')!;
  renameSync(t.at('new'), t.at('newer'));
  const store = await openStore(t.at('data'));
  await runChange(change, { journal: new SqlJournal(store), program: 'test' });
  expect(new Set(verdicts().map(([, verdict]) => verdict))).toEqual(new Set(['certain']));
  await store.destroy();
});

/** A disk on which the n-th of the calls that change something fails. */
function failingAt(n: number, error: () => Error): { disk: ChangeDisk; count: () => number } {
  let calls = 0;
  const disk = new ChangeDisk();
  for (const name of ['stage', 'rename'] as const) {
    const real = disk[name].bind(disk) as (...args: never[]) => Promise<never>;
    disk[name] = (...args: never[]) => (calls++ === n ? Promise.reject(error()) : real(...args));
  }
  return { disk, count: () => calls };
}
const full = (): Error => Object.assign(new Error('no space left'), { code: 'ENOSPC', syscall: 'write' });

test('a disk that is full at any step of a mend: a sentence, and every map is as it was', async () => {
  const before = texts();
  const work = explain();
  const change = planMend(work, choicesOf(work, 'certain'), 'test')!;
  const store = await openStore(t.at('data'));
  const journal = new SqlJournal(store);
  for (let n = 0; n < 6; n++) {
    const { disk } = failingAt(n, full);
    await expect(runChange(change, { journal, disk, program: 'test' })).rejects.toMatchObject({ problem: { code: 'no-space' } });
    expect(texts()).toEqual(before);
  }
  const { disk, count } = failingAt(Infinity, full);
  await runChange(change, { journal, disk, program: 'test' });
  expect(count()).toBe(6);
  expect(new Set(states())).toEqual(new Set(['sound']));
  await store.destroy();
});

test('a stop before any step of a mend: all maps as before, or all mended, never some', async () => {
  const before = texts();
  const work = explain();
  const change = planMend(work, choicesOf(work, 'certain'), 'test')!;
  const ended = new Set<string>();
  for (let n = 0; n < 6; n++) {
    const store = await openStore(t.at(`data${n}`));
    const journal = new SqlJournal(store);
    const { disk } = failingAt(n, () => new StopHere());
    await expect(runChange(change, { journal, disk, program: 'test' })).rejects.toThrow(StopHere);
    // As another process finds it: its owner is gone.
    await store.query(`UPDATE "change" SET owner = json_set(owner, '$.pid', 999999, '$.startTime', '')`);
    const [recovery] = await recoverChanges(journal);
    ended.add(recovery!.outcome);
    const isMended = recovery!.outcome === 'finished';
    expect(new Set(states())).toEqual(new Set([isMended ? 'sound' : 'adrift']));
    if (isMended) for (const [i, m] of ['a', 'b', 'c'].entries()) writeFileSync(t.at(`maps/${m}.owc.json`), before[i]!);
    expect(texts()).toEqual(before);
    await store.destroy();
  }
  expect(ended).toEqual(new Set(['taken-back', 'finished']));
});
