import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { BUILT_IN_PLANS, must, parseProjectFile, writeProjectFile } from '@rootmap/core';
import { type EditRequest } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { findScope, rooted } from '../project/scope.js';
import { ledFrom } from '../../test/resolve.js';
import { planEdit } from './plan-edit.js';
import { proposeAdoption } from './propose-adoption.js';
import { EditWorld } from '../../test/edit-world.js';

let w: EditWorld;
beforeEach(async () => {
  w = await EditWorld.open();
});
afterEach(() => w.close());

describe('folders of a plan', () => {
  test('are added to what is there; those that are there already keep their role', async () => {
    w.project({ received: 'working' });
    const folders = BUILT_IN_PLANS[0]!.folders;
    const { preview } = await w.carryOut({ kind: 'folders', folders });
    expect(preview.folders.map((f) => basename(f))).not.toContain('received');
    expect(w.projectFile().folders).toMatchObject({ received: 'working', delivered: 'results' });
    expect(existsSync(w.t.at('p/geodatabases'))).toBe(true);
    const again = await w.plan({ kind: 'folders', folders });
    expect(again.preview.changes).toBe(false);
  });
  test('one that differs only in case from what is there is refused', async () => {
    w.project({});
    mkdirSync(w.t.at('p/Maps'));
    await expect(w.plan({ kind: 'folders', folders: [{ path: 'maps', role: 'maps', note: '' }] })).rejects.toMatchObject({
      problem: { code: 'exists' },
    });
  });
});

describe('a grown folder', () => {
  function grow(within: string): void {
    w.t.shapefile('point', `${within}/Data/buoys 2024`);
    w.t.shapefile('polygon', `${within}/Data/zones clip`);
    w.t.shapefile('point', `${within}/Data/old`);
    writeFileSync(w.t.at(within, 'Data/old zones.shx'), 'left');
    mkdirSync(w.t.at(within, 'Notes'));
    writeFileSync(w.t.at(within, 'Notes/read me.txt'), 'x');
    w.t.map(`${within}/Maps/m 1.owc.json`, ['../Data/buoys 2024.shp', '../Data/zones clip.shp']);
  }
  const folders = BUILT_IN_PLANS[0]!.folders;

  test('becomes a project in place, as one change with one undo', async () => {
    grow('p');
    const before = w.allBelow('p');
    const { proposals } = proposeAdoption(w.scope(), folders);
    expect(proposals.map((p) => [p.path, p.folder])).toEqual([
      ['Data/buoys 2024.shp', 'received/Data'],
      ['Data/old zones.shx', null],
      ['Data/old.shp', 'received/Data'],
      ['Data/zones clip.shp', 'derived/Data'],
      ['Maps/m 1.owc.json', 'maps'],
      ['Notes/read me.txt', 'documents/Notes'],
    ]);
    const moves = proposals.flatMap((p) => (p.folder ? [{ path: p.path, folder: p.folder }] : []));
    const { done, preview } = await w.carryOut({ kind: 'adopt', title: 'Buoys', crs: null, folders, moves });
    expect(preview.referenceCount).toBe(2);
    expect(w.broken()).toEqual([]);
    expect(existsSync(w.t.at('p/Maps'))).toBe(false); // nothing was left in it
    expect(existsSync(w.t.at('p/Data/old zones.shx'))).toBe(true);
    expect(w.writable('p/received/Data/old.dbf')).toBe(false);
    expect(w.scope().project).toMatchObject({ title: 'Buoys', folders: { received: 'originals' } });
    await undoChange(done.id, 'test', w.run());
    expect(w.allBelow('p')).toEqual(before);
  });
  test('is brought into a project: its maps follow', async () => {
    w.project({ received: 'originals', maps: 'maps' });
    grow('grown');
    const moves = [
      { from: w.at('grown/Data/buoys 2024.shp'), to: w.at('p/received/buoys 2024.shp') },
      { from: w.at('grown/Data/zones clip.shp'), to: w.at('p/received/zones clip.shp') },
      { from: w.at('grown/Maps/m 1.owc.json'), to: w.at('p/maps/m 1.owc.json') },
    ];
    const { done } = await w.carryOut({ kind: 'move', moves, evenOriginals: false, grown: w.at('grown') });
    expect(w.broken()).toEqual([]);
    expect(ledFrom(w.t.at('p'))).toHaveLength(2);
    expect(existsSync(w.t.at('grown/Maps'))).toBe(false);
    await undoChange(done.id, 'test', w.run());
    expect(ledFrom(w.t.at('grown')).every((l) => l.isThere)).toBe(true);
  });
});

describe('renames by the rules', () => {
  beforeEach(() => {
    w.project({ data: 'working' });
    w.t.shapefile('point', 'p/data/my buoys');
    w.t.shapefile('point', 'p/data/my zones');
    w.t.map('p/maps/a.owc.json', ['../data/my buoys.shp', '../data/my zones.shp']);
    writeFileSync(w.t.at('p/script.py'), 'read("data/my buoys.shp")');
  });
  const all: Extract<EditRequest, { kind: 'names' }> = {
    kind: 'names',
    only: null,
    chosen: {},
    evenOriginals: false,
    evenMentioned: false,
  };

  test('what a script mentions is left until the person says so', async () => {
    const { preview } = await w.plan(all);
    expect(preview.mentionedNames).toEqual([{ path: 'data/my buoys.shp', files: ['script.py'] }]);
    await w.carryOut(all);
    expect(readdirSync(w.t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['my buoys.shp', 'my_zones.shp']);
    await w.carryOut({ ...all, evenMentioned: true });
    expect(readdirSync(w.t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['my_buoys.shp', 'my_zones.shp']);
    expect(w.broken()).toEqual([]);
  });
  test('another name than the proposed one, for some only', async () => {
    await w.carryOut({ ...all, only: ['data/my zones.shp'], chosen: { 'data/my zones.shp': 'areas.shp' } });
    expect(readdirSync(w.t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['areas.shp', 'my buoys.shp']);
    expect(w.broken()).toEqual([]);
  });
});

test('members of the project file: rules for names, a new id, the end of the job; all else in the file stays', async () => {
  w.project({ data: 'working' });
  const file = w.t.at('p/p.rootmap.json');
  const text = readFileSync(file, 'utf8').replace('"title"', '"own:note": [1,  2],\n  "title"');
  writeFileSync(file, text);
  await w.carryOut({ kind: 'naming', naming: { rules: 'plain', limit: 13, umlauts: 'a', pattern: null, values: {} } });
  expect(w.projectFile().naming).toMatchObject({ rules: 'plain', limit: 13 });
  await w.carryOut({ kind: 'separate' });
  expect(w.projectFile().id).toMatch(/^[0-9a-f-]{36}$/);
  await w.carryOut({ kind: 'finish', bundle: w.at('out.zip') });
  expect(w.projectFile()).toMatchObject({ status: 'finished', links: [] });
  expect(readFileSync(file, 'utf8')).toContain('"own:note": [1,  2],');
});
test('a folder that is no project says what to do', async () => {
  mkdirSync(w.t.at('p'));
  await expect(w.plan({ kind: 'separate' })).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
});

test('a project that was away follows what moved meanwhile, twice over', async () => {
  w.project({ data: 'working' });
  w.t.shapefile('point', 'p/data/buoys');
  w.t.shapefile('point', 'p/data/zones');
  mkdirSync(w.t.at('away'));
  const file = { id: 'two', name: 'away', title: 'Away', created: '2026-01-01T00:00:00Z', crs: null, folders: {} };
  const links = [{ name: 'lib', path: '../p/data', address: null, note: '' }];
  writeFileSync(w.t.at('away/away.rootmap.json'), writeProjectFile({ ...file, links }));
  w.t.map('away/maps/a.owc.json', ['../../p/data/buoys.shp', '../../p/data/zones.shp']);
  const first = await w.plan({
    kind: 'move',
    moves: [{ from: w.at('p/data/buoys.shp'), to: w.at('p/data/lights.shp') }],
    evenOriginals: false,
    grown: null,
  });
  await runChange(first.change!, w.run());
  const second = await w.plan({
    kind: 'move',
    moves: [{ from: w.at('p/data'), to: w.at('p/library') }],
    evenOriginals: false,
    grown: null,
  });
  await runChange(second.change!, w.run());
  expect(ledFrom(w.t.at('away')).map((l) => l.isThere)).toEqual([false, false]);
  const away = rooted(findScope(w.t.at('away'), { places: w.t.places, root: w.t.at('away') }));
  const follow = await planEdit(
    away,
    { kind: 'follow' },
    {
      roots: [],
      who: 'test',
      isQuick: true,
      missed: [first.moved!, second.moved!],
      resolve: ({ path }) => path,
    },
  );
  expect(follow.preview).toMatchObject({ referenceCount: 2, maps: 1, changes: true });
  await runChange(follow.change!, w.run());
  expect(ledFrom(w.t.at('away')).map((l) => [basename(l.path), l.isThere])).toEqual([
    ['lights.shp', true],
    ['zones.shp', true],
  ]);
  expect(must(parseProjectFile('x', readFileSync(w.t.at('away/away.rootmap.json'), 'utf8'))).links[0]!.path).toBe('../p/library');
});
