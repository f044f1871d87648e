import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { copyFileSync, cpSync, linkSync, mkdirSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { openIndex } from '../survey/sqlite-index.js';
import { explainBroken } from './plan-mend.js';
import { movesInJournal, movesOnDisk, withObjects } from './seen-moves.js';

let t: TestFolder;
let index: Awaited<ReturnType<typeof openIndex>>;
beforeEach(async () => {
  t = new TestFolder();
  index = await openIndex(t.at('index.sqlite'));
  for (const folder of ['p/maps', 'p/data', 'downloads']) mkdirSync(t.at(folder), { recursive: true });
  t.shapefile('point', 'p/data/point');
  t.map('p/maps/m.owc.json', ['../data/point.shp']);
  index.noteSeen(withObjects([{ path: t.at('p/data/point.shp'), table: null }]), Date.UTC(2026, 0, 5));
});
afterEach(async () => {
  await index.close();
  t.remove();
});
const explain = () => {
  const work = explainBroken(t.scope('p'), [t.at('downloads')], { movesSeen: (sought, reached) => movesOnDisk(sought, reached, index) });
  const [layer] = work.view.layers;
  return { verdict: layer!.verdict, best: layer!.candidates[0]?.path, evidence: layer!.candidates[0]?.evidence.join(' ') };
};

describe('what data was on the disk tells where it went', () => {
  test('a folder that was renamed, and a file that was, beside an equal copy', () => {
    cpSync(t.at('p/data'), t.at('downloads/data'), { recursive: true });
    renameSync(t.at('p/data'), t.at('p/received'));
    expect(explain()).toMatchObject({ verdict: 'certain', best: t.at('p/received/point.shp') });
    expect(explain().evidence).toContain('It is the same folder on the disk that was seen there on 2026-01-05.');
    renameSync(t.at('p/received'), t.at('p/data'));
    for (const e of ['shp', 'shx', 'dbf']) renameSync(t.at(`p/data/point.${e}`), t.at(`p/data/anything.${e}`));
    expect(explain()).toMatchObject({ verdict: 'certain', best: t.at('p/data/anything.shp') });
    expect(explain().evidence).toContain('It is the same file on the disk that was seen there on 2026-01-05.');
  });
  test('a copy, and another file that has the inode now, are not the one', () => {
    cpSync(t.at('p/data'), t.at('downloads/data'), { recursive: true });
    rmSync(t.at('p/data'), { recursive: true });
    expect(explain()).toMatchObject({ verdict: 'likely', evidence: expect.not.stringContaining('on the disk') });
  });
  test('of a file of several names none is taken for the one', () => {
    for (const e of ['shp', 'shx', 'dbf']) {
      copyFileSync(t.at(`p/data/point.${e}`), t.at(`downloads/other.${e}`));
      linkSync(t.at(`p/data/point.${e}`), t.at(`downloads/point.${e}`));
    }
    index.noteSeen(withObjects([{ path: t.at('p/data/point.shp'), table: null }]), Date.UTC(2026, 0, 6));
    rmSync(t.at('p/data'), { recursive: true });
    expect(explain().evidence).not.toContain('on the disk');
  });
  test('a folder is the one only where the data in it is not ruled out', () => {
    renameSync(t.at('p/data'), t.at('p/received'));
    for (const e of ['shp', 'shx', 'dbf']) rmSync(t.at(`p/received/point.${e}`));
    writeFileSync(t.at('p/received/point.shp'), 'no shapes');
    expect(explain().verdict).toBe('none');
  });
});

test('what the app moved is followed to where it stands now, an undo and later moves reckoned in', () => {
  const sought = ['p/a/one.shp', 'p/b/g.gpkg#one', 'p/x'].map((path) => t.at(path));
  const moved = (...pairs: [string, string][]) =>
    movesInJournal(
      pairs.map(([from, to]) => ({ from: t.at(from), to: t.at(to), ms: Date.UTC(2026, 0, 5), title: 'Move' })),
      sought,
      t.scope('p'),
    ).map(({ from, to }) => [from.segments.at(-1), to.segments.slice(-2).join('/')]);
  expect(moved(['p/a', 'p/b'])).toEqual([['a', 'p/b']]);
  expect(moved(['p/a', 'p/b'], ['p/b', 'p/a'])).toEqual([['b', 'p/a']]);
  expect(moved(['p/x', 'p/a/x'], ['p/a', 'p/b'])).toEqual([
    ['x', 'b/x'],
    ['a', 'p/b'],
  ]);
  // What nothing is sought below is left out.
  expect(moved(['p/other', 'p/else'])).toEqual([]);
  // The same name twice: the later one tells.
  expect(moved(['p/a', 'p/b'], ['p/a', 'p/c'])).toEqual([['a', 'p/c']]);
});
