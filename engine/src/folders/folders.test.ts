import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdirSync, readFileSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { writeProjectFile } from '@rootmap/core';
import { findScope, rooted } from '../project/scope.js';
import { findVanished } from '../project/find-vanished.js';
import { writeZip } from '../../test/small-zip.js';
import { TestFolder } from '../../test/test-project.js';
import { findDuplicates } from './duplicates.js';
import { housekeep } from './housekeeping.js';
import { checkOriginals } from './originals.js';
import { emptyTrash, trashBytes } from './trash.js';
import { viewFolders } from './view-folders.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
function project(folders: Record<string, string>, name = 'p', id = 'one'): void {
  mkdirSync(t.at(name), { recursive: true });
  writeFileSync(
    t.at(name, 'x.rootmap.json'),
    writeProjectFile({ id, name, title: name, created: '2026-01-01T00:00:00Z', crs: null, folders }),
  );
}

test('one row for each thing: companions with their main file, containers whole, nested projects not entered', () => {
  project({ data: 'working' });
  t.shapefile('point', 'p/data/buoys');
  writeFileSync(t.at('p/data/buoys.prj'), 'x');
  t.map('p/maps/a.owc.json', ['../data/buoys.shp', '../data/BUOYS.shp']);
  writeFileSync(t.at('p/data/lost.shx'), 'x');
  writeFileSync(t.at('p/pack.zip'), writeZip({ 'a.txt': 'a' }));
  mkdirSync(t.at('p/empty'));
  project({}, 'p/inner', 'two');
  const view = viewFolders(scope(), [], []);
  expect(view.things.map((x) => [x.path, x.kind, x.files.length, x.usedBy])).toEqual([
    ['data/buoys.shp', 'dataset', 4, 2],
    ['data/lost.shx', 'left-behind', 1, 0],
    ['maps/a.owc.json', 'map', 1, 0],
    ['pack.zip', 'archive', 1, 0],
  ]);
  expect(view.nested).toEqual(['inner']);
  // du -b of the same folders, without what is not counted: project files.
  const du = Number(execFileSync('du', ['-b', '--apparent-size', '-s', t.at('p/data')], { encoding: 'utf8' }).split('\t')[0]);
  const own = Number(execFileSync('stat', ['-c', '%s', t.at('p/data')], { encoding: 'utf8' }));
  expect(view.folders.find((f) => f.path === 'data')).toMatchObject({ files: 5, bytes: du - own });
  expect(view.folders.find((f) => f.path === 'empty')).toMatchObject({ files: 0, bytes: 0 });
});

describe('equal byte for byte', () => {
  test('under any name, ending by ending; the same sizes are not enough', () => {
    project({});
    t.shapefile('point', 'p/a/buoys');
    t.shapefile('point', 'p/b/other_name');
    t.shapefile('point', 'p/b/changed');
    const dbf = readFileSync(t.at('p/b/changed.dbf'));
    dbf[dbf.length - 2]! ^= 1;
    writeFileSync(t.at('p/b/changed.dbf'), dbf);
    writeFileSync(t.at('p/one.csv'), 'x,y\n1,2\n');
    copyFileSync(t.at('p/one.csv'), t.at('p/two.csv'));
    writeFileSync(t.at('p/three.csv'), 'x,y\n1,3\n');
    const seen: number[] = [];
    const found = findDuplicates(scope(), ({ done }) => seen.push(done));
    expect(found.groups.map((g) => g.paths)).toEqual([
      ['a/buoys.shp', 'b/other_name.shp'],
      ['one.csv', 'two.csv'],
    ]);
    expect(seen.at(-1)).toBe(found.hashedBytes);
    const sums = execFileSync('sha256sum', [t.at('p/a/buoys.dbf'), t.at('p/b/other_name.dbf')], { encoding: 'utf8' });
    expect(
      new Set(
        sums
          .trim()
          .split('\n')
          .map((l) => l.slice(0, 64)),
      ).size,
    ).toBe(1);
  });
});

describe('housekeeping', () => {
  test('an archive counts as unpacked only when all that is in it stands beside it', async () => {
    project({});
    mkdirSync(t.at('p/in/x'), { recursive: true });
    writeFileSync(t.at('p/in/whole.zip'), writeZip({ 'x/a.csv': 'a,b\n', 'x/b.csv': 'c\n' }));
    writeFileSync(t.at('p/in/partly.zip'), writeZip({ 'x/a.csv': 'a,b\n', 'x/missing.csv': 'c\n' }));
    writeFileSync(t.at('p/in/broken.zip'), 'PK no zip');
    writeFileSync(t.at('p/in/x/a.csv'), 'a,b\n');
    writeFileSync(t.at('p/in/x/b.csv'), 'c\n');
    const { unpacked } = await housekeep(scope());
    expect(unpacked.map((u) => [u.path, u.where, u.files])).toEqual([['in/whole.zip', 'in/x', 2]]);
  });
  test('what an origin record says where to fetch, can be fetched again', async () => {
    project({});
    mkdirSync(t.at('p/in'));
    writeFileSync(t.at('p/in/a.csv'), 'a\n');
    writeFileSync(t.at('p/in/b.csv'), 'b\n');
    const sources = [{ title: 'x', path: 'https://data.example/a' }];
    const resources = [
      { path: 'a.csv', sources },
      { path: 'b.csv', sources, 'rootmap:reobtainable': false },
      { path: 'gone.csv', sources },
    ];
    writeFileSync(t.at('p/in/datapackage.json'), JSON.stringify({ resources }));
    expect((await housekeep(scope())).fetchable).toEqual([{ path: 'in/a.csv', bytes: 2, address: 'https://data.example/a' }]);
    writeFileSync(t.at('p/in/datapackage.json'), '{ damaged');
    expect((await housekeep(scope())).fetchable).toEqual([]);
  });
  test('the trash is counted and emptied', async () => {
    project({});
    mkdirSync(t.at('p/.rootmap/trash/c/0'), { recursive: true });
    writeFileSync(t.at('p/.rootmap/trash/c/0/a'), 'abc');
    expect([trashBytes(t.at('p')), await emptyTrash(t.at('p')), trashBytes(t.at('p'))]).toEqual([3, 3, 0]);
  });
});

describe('originals', () => {
  beforeEach(() => {
    project({ received: 'originals' });
    t.shapefile('point', 'p/received/buoys');
  });
  const check = (known: string | null, over = {}) => checkOriginals(scope(), known, { now: 1, ...over });

  test('the same bytes with another time are no change; other bytes are; taken as they are, they count', async () => {
    const first = await check(null);
    expect(first.tampered).toEqual([]);
    utimesSync(t.at('p/received/buoys.dbf'), 5, 5);
    const touched = await check(first.known);
    expect(touched.tampered).toEqual([]);
    writeFileSync(t.at('p/received/buoys.dbf'), 'other');
    const changed = await check(touched.known, { now: 7 });
    expect(changed.tampered).toEqual([{ path: 'received/buoys.dbf', why: 'changed', sinceMs: 7 }]);
    expect((await check(changed.known, { now: 9 })).tampered).toEqual(changed.tampered);
    expect((await check(changed.known, { accept: true })).tampered).toEqual([]);
  });
  test('what is gone is told; what only moved among them is not', async () => {
    const first = await check(null);
    renameSync(t.at('p/received/buoys.shx'), t.at('p/received/moved.shx'));
    rmSync(t.at('p/received/buoys.shp'));
    const now = await check(first.known);
    expect(now.tampered.map((x) => [x.path, x.why])).toEqual([['received/buoys.shp', 'gone']]);
    t.shapefile('point', 'p/received/buoys');
    rmSync(t.at('p/received/buoys.shx'));
    expect((await check(now.known)).tampered).toEqual([]);
  });
  test('what the app itself took away is not reported', async () => {
    const first = await check(null);
    rmSync(t.at('p/received/buoys.shp'));
    expect((await check(first.known, { own: [{ kind: 'trash', path: t.at('p/received/buoys.shp') }] })).tampered).toEqual([]);
  });
  test('what the app itself wrote, moved and brought back is not reported, and what goes after that is', async () => {
    const first = await check(null);
    writeFileSync(t.at('p/received/buoys.dbf'), 'written by the app');
    const wrote = await check(first.known, { own: [{ kind: 'write', path: t.at('p/received/buoys.dbf') }] });
    expect(wrote.tampered).toEqual([]);
    const moves = [
      ['received/buoys.shp', 'buoys.shp'],
      ['buoys.shp', 'received/buoys.shp'],
    ].map(([from, to]) => ({ kind: 'move' as const, source: t.at('p', from!), path: t.at('p', to!) }));
    // There and back before anybody looked: it is known still, so that its loss is told.
    rmSync(t.at('p/received/buoys.shp'));
    const lost = await check(wrote.known, { own: moves });
    expect(lost.tampered.map((x) => [x.path, x.why])).toEqual([['received/buoys.shp', 'gone']]);
    expect(
      (await check(lost.known, { own: [{ kind: 'move', source: t.at('p/received/buoys.shp'), path: t.at('p/.rootmap/trash/x') }] }))
        .tampered,
    ).toEqual([]);
  });
  test('much to read is read in turns, and nothing is taken for gone meanwhile', async () => {
    let known: string | null = null;
    let turns = 0;
    for (let partial = true; partial; turns++) {
      const run = await check(known, { mostBytes: 1 });
      expect(run.tampered).toEqual([]);
      [known, partial] = [run.known, run.isPartial];
    }
    expect(turns).toBe(3);
    rmSync(t.at('p/received/buoys.shp'));
    for (const e of ['shx', 'dbf']) utimesSync(t.at(`p/received/buoys.${e}`), 5, 5);
    for (let partial = true; partial;) {
      const run = await check(known, { mostBytes: 1 });
      [known, partial] = [run.known, run.isPartial];
      if (!partial) expect(run.tampered.map((x) => [x.path, x.why])).toEqual([['received/buoys.shp', 'gone']]);
    }
  });
});

test('a root that is gone is found by its id, near where it was; copies cannot be told apart', () => {
  project({}, 'jobs/a/p', 'one');
  expect(findVanished(t.at('jobs/p'), 'one', t.path)).toEqual([t.at('jobs/a/p')]);
  project({}, 'jobs/b/p', 'one');
  expect(findVanished(t.at('jobs/p'), 'one', t.path)).toHaveLength(2);
  expect(findVanished(t.at('jobs/p'), 'other', t.path)).toEqual([]);
});
