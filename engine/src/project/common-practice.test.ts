import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { pathToFileURL } from 'node:url';
import { choicesOf } from '../mend/choose.js';
import { explainBroken, planMend } from '../mend/plan-mend.js';
import { TestFolder } from '../../test/test-project.js';
import { planRemember } from './remember.js';
import { readMaps } from './read-maps.js';
import { planPaths } from './store-paths.js';
import type { PlannedChange } from '../changes/change.js';

/** What happens to layers when folders move, as practitioners see it: common practice, no source. Folders are really moved. */
let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

const states = (root: string): string[] => readMaps(t.scope(root)).maps.flatMap((m) => m.layers.map((l) => l.judgement.state));
const NAMES = ['point', 'polygon', 'polyline', 'multipoint', 'pointz'];

/** Three layers (or five) in one folder beside their map, `p/m.owc.json`; fingerprints remembered. */
function project(count = 3, form: 'relative' | 'absolute' = 'relative', data = '.'): void {
  for (const n of NAMES.slice(0, count)) t.shapefile(n, `p/${data}/${n}`);
  const href = (n: string): string =>
    form === 'relative' ? `${data === '.' ? '' : `${data}/`}${n}.shp` : pathToFileURL(t.at('p', data, `${n}.shp`)).href;
  t.map('p/m.owc.json', NAMES.slice(0, count).map(href), form);
  const plan = planRemember(t.scope('p'), 'test');
  if (plan.change) carryOut(plan.change);
}
function carryOut(change: PlannedChange | null): void {
  for (const step of change?.steps ?? []) if (step.kind === 'write') writeFileSync(step.path, step.after);
}
function moveDataset(name: string, from: string, to: string): void {
  mkdirSync(t.at(to), { recursive: true });
  for (const e of ['shp', 'shx', 'dbf']) renameSync(t.at(from, `${name}.${e}`), t.at(to, `${name}.${e}`));
}

describe('stored form and what is done to the folders', () => {
  test('absolute, root moved: all adrift', () => {
    project(3, 'absolute');
    expect(states('p')).toEqual(['sound', 'sound', 'sound']);
    renameSync(t.at('p'), t.at('q'));
    expect(states('q')).toEqual(['adrift', 'adrift', 'adrift']);
  });
  test('relative, root moved: all sound', () => {
    project();
    renameSync(t.at('p'), t.at('q'));
    expect(states('q')).toEqual(['sound', 'sound', 'sound']);
  });
  test('relative, one dataset moved inside the root: that one adrift; moved back: sound again', () => {
    project();
    moveDataset('polygon', 'p', 'p/sub');
    expect(states('p')).toEqual(['sound', 'adrift', 'sound']);
    moveDataset('polygon', 'p/sub', 'p');
    expect(states('p')).toEqual(['sound', 'sound', 'sound']);
  });
  test('relative, leaving the root, root moved one level deeper: adrift', () => {
    t.shapefile('point', 'library/point');
    t.map('p/m.owc.json', ['../library/point.shp']);
    expect(states('p')).toEqual(['sound']);
    mkdirSync(t.at('deeper'));
    renameSync(t.at('p'), t.at('deeper/p'));
    expect(states('deeper/p')).toEqual(['adrift']);
  });
});

describe('mending what was moved', () => {
  const mend = (root: string) => {
    const work = explainBroken(t.scope(root));
    carryOut(planMend(work, choicesOf(work, 'certain'), 'test'));
    return work.view;
  };
  test('all data in one other folder: one shift mends all', () => {
    project(5, 'relative', 'old');
    renameSync(t.at('p/old'), t.at('p/new'));
    const view = mend('p');
    expect(view.shifts).toHaveLength(1);
    expect(states('p')).toEqual(Array(5).fill('sound'));
  });
  test('data split 1 + 1 + 3 over three folders: exactly 3 shifts', () => {
    project(5, 'relative', 'old');
    moveDataset('point', 'p/old', 'p/a');
    moveDataset('polygon', 'p/old', 'p/b');
    for (const n of ['polyline', 'multipoint', 'pointz']) moveDataset(n, 'p/old', 'p/c');
    expect(mend('p').shifts.map((s) => s.layers.length)).toEqual([3, 1, 1]);
    expect(states('p')).toEqual(Array(5).fill('sound'));
  });
  test('the map file moved by hand, its data not: all its relative layers adrift; 1 shift', () => {
    project(3, 'relative', 'data');
    mkdirSync(t.at('p/maps'));
    renameSync(t.at('p/m.owc.json'), t.at('p/maps/m.owc.json'));
    expect(states('p')).toEqual(['adrift', 'adrift', 'adrift']);
    const view = mend('p');
    expect(view.shifts.map((s) => [s.kind, s.layers.length])).toEqual([['map-moved', 3]]);
    expect(states('p')).toEqual(['sound', 'sound', 'sound']);
  });
  test('root moved while paths were absolute: one shift, and the paths become those of the map', () => {
    project(3, 'absolute');
    renameSync(t.at('p'), t.at('q'));
    expect(mend('q').shifts).toHaveLength(1);
    expect(states('q')).toEqual(['sound', 'sound', 'sound']);
  });
  test('only the address changes: every other byte of the map stays', () => {
    project(3, 'relative', 'old');
    const before = readFileSync(t.at('p/m.owc.json'), 'utf8');
    renameSync(t.at('p/old'), t.at('p/new folder'));
    mend('p');
    expect(readFileSync(t.at('p/m.owc.json'), 'utf8')).toBe(before.replaceAll('"old/', '"new%20folder/'));
  });
  test('spelled otherwise on disk: sound, listed, and mended', () => {
    project(3, 'relative', 'old');
    renameSync(t.at('p/old'), t.at('p/Old'));
    const seen = readMaps(t.scope('p')).maps[0]!.layers;
    expect(seen.map((l) => [l.judgement.state, l.judgement.reason])).toEqual(Array(3).fill(['sound', 'spelling']));
    mend('p');
    expect(readMaps(t.scope('p')).maps[0]!.layers.map((l) => l.judgement.reason)).toEqual(Array(3).fill(undefined));
  });
});

describe('switching the stored form', () => {
  test('there and back, each byte is as it was', () => {
    project(3, 'relative', 'data');
    const before = readFileSync(t.at('p/m.owc.json'), 'utf8');
    carryOut(planPaths(t.scope('p'), 'absolute', 'test').change);
    expect(readFileSync(t.at('p/m.owc.json'), 'utf8')).toContain(pathToFileURL(t.at('p/data/point.shp')).href);
    expect(states('p')).toEqual(['sound', 'sound', 'sound']);
    carryOut(planPaths(t.scope('p'), 'relative', 'test').change);
    expect(readFileSync(t.at('p/m.owc.json'), 'utf8')).toBe(before);
  });
  test('what no place claims is kept, with the reason', () => {
    t.map('p/m.owc.json', ['file:///Q:/x.shp', 'https://x.example/wms']);
    const plan = planPaths(t.scope('p'), 'relative', 'test');
    expect(plan.changes).toEqual([]);
    expect(plan.kept.map((k) => k.why)).toEqual(['no place is known as Q:', 'it is a service']);
  });
});

describe('links of the file system', () => {
  test('a layer through one is sound, its reach that of the real path; a loop ends', async () => {
    const { symlinkSync } = await import('node:fs');
    t.shapefile('point', 'elsewhere/point');
    mkdirSync(t.at('p'));
    symlinkSync(t.at('elsewhere'), t.at('p/linked'));
    symlinkSync(t.at('p'), t.at('p/loop'));
    writeFileSync(t.at('p/x.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'i' }));
    t.map('p/m.owc.json', ['linked/point.shp']);
    const [layer] = readMaps(t.scope('p')).maps[0]!.layers;
    expect(layer!.judgement).toMatchObject({ state: 'sound', reason: 'through-link', reach: 'outside' });
  });
});

test('a stick under another letter: found where its folders stand, one shift for everything on it', async () => {
  const { openPlace } = await import('../places/places.js');
  t.shapefile('point', 'stick/dives/point');
  t.shapefile('polygon', 'stick/dives/deep/polygon');
  t.map('p/m.owc.json', ['file:///E:/dives/point.shp', 'file:///E:/dives/deep/polygon.shp']);
  const places = (letter: string) => [...t.places, openPlace({ name: 'stick', folder: t.at('stick'), driveNames: [letter] })];
  const { findScope } = await import('./scope.js');
  const scope = (letter: string) => findScope(t.at('p'), { places: places(letter) });
  carryOut(planRemember(scope('E:'), 'test').change);
  const work = explainBroken(scope('F:'));
  expect(work.view.shifts.map((s) => [s.layers.length, s.verdict])).toEqual([[2, 'certain']]);
  expect(work.view.layers.map((l) => l.after)).toEqual([
    { href: 'file:///F:/dives/point.shp', state: 'sound' },
    { href: 'file:///F:/dives/deep/polygon.shp', state: 'sound' },
  ]);
});
