import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { chmodSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import type { DataSource } from 'typeorm';
import { BUILT_IN_PLANS, must, parseProjectFile, writeProjectFile } from '@rootmap/core';
import type { EditRequest } from '@rootmap/core/contract';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { viewFolders } from '../folders/view-folders.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { ledFrom } from '../../test/resolve.js';
import { TestFolder } from '../../test/test-project.js';
import { planEdit } from './plan-edit.js';
import { proposeAdoption } from './propose-adoption.js';

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const run = () => ({ journal: new SqlJournal(store), program: 'test' });
const at = (path: string) => ({ place: 'local', path: t.at(path).slice(1) });
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const plan = (edit: EditRequest) =>
  planEdit(scope(), edit, { roots: [t.at('p')], who: 'test', isQuick: false, missed: [], resolve: ({ path }) => `/${path}` });
async function carryOut(edit: EditRequest) {
  const { change, preview } = await plan(edit);
  return { preview, done: await runChange(change!, run()) };
}
const allBelow = (folder: string): string[] =>
  readdirSync(t.at(folder), { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile() && !e.parentPath.includes('.rootmap'))
    .map(
      (e) => `${join(e.parentPath, e.name).slice(t.at(folder).length)} ${(statSync(join(e.parentPath, e.name)).mode & 0o777).toString(8)}`,
    )
    .sort();
const broken = (): string[] =>
  ledFrom(t.at('p'))
    .filter((l) => !l.isThere)
    .map((l) => l.path);
const projectFile = () => must(parseProjectFile('x', readFileSync(t.at('p/p.rootmap.json'), 'utf8')));
function project(folders: Record<string, string>): void {
  mkdirSync(t.at('p'), { recursive: true });
  for (const f of Object.keys(folders)) mkdirSync(t.at('p', f), { recursive: true });
  writeFileSync(
    t.at('p/p.rootmap.json'),
    writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders }),
  );
}
const writable = (path: string): boolean => (statSync(t.at(path)).mode & 0o222) !== 0;

describe('originals', () => {
  beforeEach(() => {
    project({ received: 'originals', derived: 'working' });
    t.shapefile('point', 'p/received/buoys');
    t.shapefile('point', 'p/derived/made');
    t.map('p/maps/a.owc.json', ['../received/buoys.shp', '../derived/made.shp']);
  });
  test('what comes among them is set read-only, what leaves them can be written again', async () => {
    await carryOut({
      kind: 'move',
      moves: [{ from: at('p/derived/made.shp'), to: at('p/received/made.shp') }],
      evenOriginals: false,
      grown: null,
    });
    expect(['shp', 'shx', 'dbf'].map((e) => writable(`p/received/made.${e}`))).toEqual([false, false, false]);
    const { done } = await carryOut({
      kind: 'move',
      moves: [{ from: at('p/received/made.shp'), to: at('p/derived/again.shp') }],
      evenOriginals: true,
      grown: null,
    });
    expect(writable('p/derived/again.shp')).toBe(true);
    expect(broken()).toEqual([]);
    await undoChange(done.id, 'test', run());
    expect(writable('p/received/made.shp')).toBe(false);
  });
  test('they do not move, and are not deleted, without being asked for by name', async () => {
    const move: EditRequest = {
      kind: 'move',
      moves: [{ from: at('p/received/buoys.shp'), to: at('p/derived/buoys.shp') }],
      evenOriginals: false,
      grown: null,
    };
    await expect(plan(move)).rejects.toMatchObject({ problem: { code: 'protected' } });
    await expect(plan({ kind: 'trash', paths: [at('p/received/buoys.shp')], evenOriginals: false })).rejects.toMatchObject({
      problem: { code: 'protected' },
    });
  });
  test('a folder gets the role: its files are set read-only; it loses it: they can be written; one undo each', async () => {
    const before = allBelow('p');
    const { done } = await carryOut({ kind: 'role', path: 'derived', role: 'originals' });
    expect(projectFile().folders['derived']).toBe('originals');
    expect(writable('p/derived/made.dbf')).toBe(false);
    await undoChange(done.id, 'test', run());
    expect(allBelow('p')).toEqual(before);
    await carryOut({ kind: 'role', path: 'received', role: null });
    expect(projectFile().folders).toEqual({ derived: 'working' });
    expect(writable('p/received/buoys.shp')).toBe(true);
  });
  test('files that came by another way are counted, and set read-only in one change', async () => {
    const unprotected = (): number => viewFolders(scope(), [], []).unprotected;
    expect(unprotected()).toBe(3);
    await carryOut({ kind: 'protect' });
    expect([unprotected(), writable('p/received/buoys.dbf'), writable('p/derived/made.dbf')]).toEqual([0, false, true]);
    expect((await plan({ kind: 'protect' })).preview.changes).toBe(false);
  });
  test('a renamed folder of originals keeps them protected', async () => {
    await carryOut({ kind: 'role', path: 'received', role: 'originals' });
    await carryOut({ kind: 'move', moves: [{ from: at('p/received'), to: at('p/incoming') }], evenOriginals: true, grown: null });
    expect(projectFile().folders['incoming']).toBe('originals');
    expect(broken()).toEqual([]);
    for (const file of readdirSync(t.at('p/incoming'))) expect([file, writable(`p/incoming/${file}`)]).toEqual([file, false]);
  });
  test('a working copy is whole and writable; the original and its layers stay', async () => {
    chmodSync(t.at('p/received/buoys.shp'), 0o444);
    const { preview } = await carryOut({ kind: 'copy', from: at('p/received/buoys.shp'), to: at('p/derived/buoys_work.shp') });
    expect(preview.files).toBe(3);
    expect(['shp', 'shx', 'dbf'].map((e) => writable(`p/derived/buoys_work.${e}`))).toEqual([true, true, true]);
    expect(readFileSync(t.at('p/derived/buoys_work.dbf'))).toEqual(readFileSync(t.at('p/received/buoys.dbf')));
    expect(ledFrom(t.at('p')).map((l) => basename(l.path))).toEqual(['buoys.shp', 'made.shp']);
  });
});

test('a duplicated map reaches the same data from where it stands', async () => {
  project({ maps: 'maps' });
  t.shapefile('point', 'p/data/buoys');
  t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  await carryOut({ kind: 'copy', from: at('p/maps/a.owc.json'), to: at('p/maps/2026/june/a.owc.json') });
  expect(readFileSync(t.at('p/maps/2026/june/a.owc.json'), 'utf8')).toContain('"../../../data/buoys.shp"');
  expect(readFileSync(t.at('p/maps/a.owc.json'), 'utf8')).toContain('"../data/buoys.shp"');
  expect(broken()).toEqual([]);
});

test('a copied folder has its maps, whose references reach the copies inside and the same data outside; a project keeps its bits', async () => {
  project({ maps: 'maps' });
  t.shapefile('point', 'p/data/buoys');
  t.shapefile('point', 'p/job/near/zones');
  chmodSync(t.at('p/job/near/zones.shp'), 0o444);
  t.map('p/job/maps/a.owc.json', ['../../data/buoys.shp', '../near/zones.shp']);
  const before = allBelow('p');
  const { done } = await carryOut({ kind: 'copy', from: at('p/job'), to: at('p/archive/2026/job') });
  const text = readFileSync(t.at('p/archive/2026/job/maps/a.owc.json'), 'utf8');
  expect([text.includes('"../../../../data/buoys.shp"'), text.includes('"../near/zones.shp"')]).toEqual([true, true]);
  expect(writable('p/archive/2026/job/near/zones.shp')).toBe(true);
  expect(broken()).toEqual([]);
  await undoChange(done.id, 'test', run());
  expect(allBelow('p')).toEqual(before);

  await carryOut({ kind: 'copy', from: at('p'), to: at('stick/p') });
  expect(allBelow('stick/p')).toEqual(allBelow('p'));
  expect([writable('stick/p/job/near/zones.shp'), writable('stick/p/job/near/zones.dbf')]).toEqual([false, true]);
});

test('a style file that moves keeps its pictures; undo puts every byte back', async () => {
  project({ maps: 'maps' });
  t.shapefile('point', 'p/data/buoys');
  const map = t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  const json = JSON.parse(readFileSync(map, 'utf8'));
  json.features[0].properties.offerings[0].styles = [{ name: 's', content: { href: '../styles/a.sld' } }];
  writeFileSync(map, JSON.stringify(json));
  mkdirSync(t.at('p/styles'));
  const style = '<a><OnlineResource xlink:href="buoy.svg"/></a>';
  writeFileSync(t.at('p/styles/a.sld'), style);
  writeFileSync(t.at('p/styles/buoy.svg'), '<svg/>');
  const { done } = await carryOut({
    kind: 'move',
    moves: [{ from: at('p/styles/a.sld'), to: at('p/maps/looks/a.sld') }],
    evenOriginals: false,
    grown: null,
  });
  expect(readFileSync(t.at('p/maps/looks/a.sld'), 'utf8')).toBe(style.replace('buoy.svg', '../../styles/buoy.svg'));
  expect(readFileSync(map, 'utf8')).toContain('"href":"looks/a.sld"');
  await undoChange(done.id, 'test', run());
  expect(readFileSync(t.at('p/styles/a.sld'), 'utf8')).toBe(style);
});

describe('deleting', () => {
  beforeEach(() => {
    project({ data: 'working', 'data/old': 'working' });
    t.shapefile('point', 'p/data/buoys');
    t.shapefile('point', 'p/data/old/zones');
    t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  });
  test('says which layers use the data, goes to the trash with its companions, and comes out again', async () => {
    const before = allBelow('p');
    const { preview, done } = await carryOut({ kind: 'trash', paths: [at('p/data/buoys.shp')], evenOriginals: false });
    expect(preview.usedBy).toEqual([{ map: 'a.owc.json', title: 'buoys.shp', path: '../data/buoys.shp' }]);
    expect(preview.files).toBe(3);
    expect(existsSync(t.at('p/data/buoys.dbf'))).toBe(false);
    const view = viewFolders(scope(), [], []);
    expect(view.trashBytes).toBe(preview.trashedBytes);
    expect(view.things.map((x) => x.path)).not.toContain('data/buoys.shp');
    await undoChange(done.id, 'test', run());
    expect(allBelow('p')).toEqual(before);
  });
  test('a folder of the plan goes from the project file, too', async () => {
    const { done } = await carryOut({ kind: 'trash', paths: [at('p/data/old')], evenOriginals: false });
    expect(projectFile().folders).toEqual({ data: 'working' });
    await undoChange(done.id, 'test', run());
    expect(projectFile().folders).toEqual({ data: 'working', 'data/old': 'working' });
    expect(existsSync(t.at('p/data/old/zones.shx'))).toBe(true);
  });
  test('a map that goes with its data is not named among those that use it', async () => {
    const { preview } = await plan({ kind: 'trash', paths: [at('p/data'), at('p/maps')], evenOriginals: false });
    expect(preview.usedBy).toEqual([]);
  });
});

describe('folders of a plan', () => {
  test('are added to what is there; those that are there already keep their role', async () => {
    project({ received: 'working' });
    const folders = BUILT_IN_PLANS[0]!.folders;
    const { preview } = await carryOut({ kind: 'folders', folders });
    expect(preview.folders.map((f) => basename(f))).not.toContain('received');
    expect(projectFile().folders).toMatchObject({ received: 'working', delivered: 'results' });
    expect(existsSync(t.at('p/geodatabases'))).toBe(true);
    const again = await plan({ kind: 'folders', folders });
    expect(again.preview.changes).toBe(false);
  });
  test('one that differs only in case from what is there is refused', async () => {
    project({});
    mkdirSync(t.at('p/Maps'));
    await expect(plan({ kind: 'folders', folders: [{ path: 'maps', role: 'maps', note: '' }] })).rejects.toMatchObject({
      problem: { code: 'exists' },
    });
  });
});

describe('a grown folder', () => {
  function grow(within: string): void {
    t.shapefile('point', `${within}/Data/buoys 2024`);
    t.shapefile('polygon', `${within}/Data/zones clip`);
    t.shapefile('point', `${within}/Data/old`);
    writeFileSync(t.at(within, 'Data/old zones.shx'), 'left');
    mkdirSync(t.at(within, 'Notes'));
    writeFileSync(t.at(within, 'Notes/read me.txt'), 'x');
    t.map(`${within}/Maps/m 1.owc.json`, ['../Data/buoys 2024.shp', '../Data/zones clip.shp']);
  }
  const folders = BUILT_IN_PLANS[0]!.folders;

  test('becomes a project in place, as one change with one undo', async () => {
    grow('p');
    const before = allBelow('p');
    const { proposals } = proposeAdoption(scope(), folders);
    expect(proposals.map((p) => [p.path, p.folder])).toEqual([
      ['Data/buoys 2024.shp', 'received/Data'],
      ['Data/old zones.shx', null],
      ['Data/old.shp', 'received/Data'],
      ['Data/zones clip.shp', 'derived/Data'],
      ['Maps/m 1.owc.json', 'maps'],
      ['Notes/read me.txt', 'documents/Notes'],
    ]);
    const moves = proposals.flatMap((p) => (p.folder ? [{ path: p.path, folder: p.folder }] : []));
    const { done, preview } = await carryOut({ kind: 'adopt', title: 'Buoys', crs: null, folders, moves });
    expect(preview.referenceCount).toBe(2);
    expect(broken()).toEqual([]);
    expect(existsSync(t.at('p/Maps'))).toBe(false); // nothing was left in it
    expect(existsSync(t.at('p/Data/old zones.shx'))).toBe(true);
    expect(writable('p/received/Data/old.dbf')).toBe(false);
    expect(scope().project).toMatchObject({ title: 'Buoys', folders: { received: 'originals' } });
    await undoChange(done.id, 'test', run());
    expect(allBelow('p')).toEqual(before);
  });
  test('is brought into a project: its maps follow', async () => {
    project({ received: 'originals', maps: 'maps' });
    grow('grown');
    const moves = [
      { from: at('grown/Data/buoys 2024.shp'), to: at('p/received/buoys 2024.shp') },
      { from: at('grown/Data/zones clip.shp'), to: at('p/received/zones clip.shp') },
      { from: at('grown/Maps/m 1.owc.json'), to: at('p/maps/m 1.owc.json') },
    ];
    const { done } = await carryOut({ kind: 'move', moves, evenOriginals: false, grown: at('grown') });
    expect(broken()).toEqual([]);
    expect(ledFrom(t.at('p'))).toHaveLength(2);
    expect(existsSync(t.at('grown/Maps'))).toBe(false);
    await undoChange(done.id, 'test', run());
    expect(ledFrom(t.at('grown')).every((l) => l.isThere)).toBe(true);
  });
});

describe('renames by the rules', () => {
  beforeEach(() => {
    project({ data: 'working' });
    t.shapefile('point', 'p/data/my buoys');
    t.shapefile('point', 'p/data/my zones');
    t.map('p/maps/a.owc.json', ['../data/my buoys.shp', '../data/my zones.shp']);
    writeFileSync(t.at('p/script.py'), 'read("data/my buoys.shp")');
  });
  const all: Extract<EditRequest, { kind: 'names' }> = {
    kind: 'names',
    only: null,
    chosen: {},
    evenOriginals: false,
    evenMentioned: false,
  };

  test('what a script mentions is left until the person says so', async () => {
    const { preview } = await plan(all);
    expect(preview.mentionedNames).toEqual([{ path: 'data/my buoys.shp', files: ['script.py'] }]);
    await carryOut(all);
    expect(readdirSync(t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['my buoys.shp', 'my_zones.shp']);
    await carryOut({ ...all, evenMentioned: true });
    expect(readdirSync(t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['my_buoys.shp', 'my_zones.shp']);
    expect(broken()).toEqual([]);
  });
  test('another name than the proposed one, for some only', async () => {
    await carryOut({ ...all, only: ['data/my zones.shp'], chosen: { 'data/my zones.shp': 'areas.shp' } });
    expect(readdirSync(t.at('p/data')).filter((n) => n.endsWith('.shp'))).toEqual(['areas.shp', 'my buoys.shp']);
    expect(broken()).toEqual([]);
  });
});

test('members of the project file: rules for names, a new id, the end of the job; all else in the file stays', async () => {
  project({ data: 'working' });
  const file = t.at('p/p.rootmap.json');
  const text = readFileSync(file, 'utf8').replace('"title"', '"own:note": [1,  2],\n  "title"');
  writeFileSync(file, text);
  await carryOut({ kind: 'naming', naming: { rules: 'plain', limit: 13, umlauts: 'a', pattern: null, values: {} } });
  expect(projectFile().naming).toMatchObject({ rules: 'plain', limit: 13 });
  await carryOut({ kind: 'separate' });
  expect(projectFile().id).toMatch(/^[0-9a-f-]{36}$/);
  await carryOut({ kind: 'finish', bundle: at('out.zip') });
  expect(projectFile()).toMatchObject({ status: 'finished', links: [] });
  expect(readFileSync(file, 'utf8')).toContain('"own:note": [1,  2],');
});
test('a folder that is no project says what to do', async () => {
  mkdirSync(t.at('p'));
  await expect(plan({ kind: 'separate' })).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
});

test('a project that was away follows what moved meanwhile, twice over', async () => {
  project({ data: 'working' });
  t.shapefile('point', 'p/data/buoys');
  t.shapefile('point', 'p/data/zones');
  mkdirSync(t.at('away'));
  const file = { id: 'two', name: 'away', title: 'Away', created: '2026-01-01T00:00:00Z', crs: null, folders: {} };
  const links = [{ name: 'lib', path: '../p/data', address: null, note: '' }];
  writeFileSync(t.at('away/away.rootmap.json'), writeProjectFile({ ...file, links }));
  t.map('away/maps/a.owc.json', ['../../p/data/buoys.shp', '../../p/data/zones.shp']);
  const first = await plan({
    kind: 'move',
    moves: [{ from: at('p/data/buoys.shp'), to: at('p/data/lights.shp') }],
    evenOriginals: false,
    grown: null,
  });
  await runChange(first.change!, run());
  const second = await plan({ kind: 'move', moves: [{ from: at('p/data'), to: at('p/library') }], evenOriginals: false, grown: null });
  await runChange(second.change!, run());
  expect(ledFrom(t.at('away')).map((l) => l.isThere)).toEqual([false, false]);
  const away = rooted(findScope(t.at('away'), { places: t.places, root: t.at('away') }));
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
  await runChange(follow.change!, run());
  expect(ledFrom(t.at('away')).map((l) => [basename(l.path), l.isThere])).toEqual([
    ['lights.shp', true],
    ['zones.shp', true],
  ]);
  expect(must(parseProjectFile('x', readFileSync(t.at('away/away.rootmap.json'), 'utf8'))).links[0]!.path).toBe('../p/library');
});

describe('data and maps', () => {
  beforeEach(() => {
    project({ maps: 'maps' });
    t.shapefile('point', 'library/base/buoys');
    t.shapefile('point', 'library/base/lights');
    t.shapefile('polygon', 'p/areas');
  });
  test('a link that is gone is found once: it and every layer below it follow, and one undo puts all back', async () => {
    await carryOut({ kind: 'link', name: 'base', folder: at('library/base'), note: '', replaces: [] });
    t.map('p/maps/a.owc.json', ['../../library/base/buoys.shp', '../../library/base/lights.shp', '../areas.shp']);
    t.map('p/maps/b.owc.json', ['../../library/base/buoys.shp']);
    renameSync(t.at('library'), t.at('shelf'));
    expect(broken()).toHaveLength(3);
    const texts = ['a', 'b'].map((m) => readFileSync(t.at(`p/maps/${m}.owc.json`), 'utf8'));
    const { preview, done } = await carryOut({ kind: 'relink', name: 'base', folder: at('shelf/base') });
    expect(preview).toMatchObject({ referenceCount: 3, maps: 2 });
    expect(broken()).toEqual([]);
    expect(projectFile().links).toMatchObject([{ name: 'base', path: '../shelf/base' }]);
    await undoChange(done.id, 'test', run());
    expect(['a', 'b'].map((m) => readFileSync(t.at(`p/maps/${m}.owc.json`), 'utf8'))).toEqual(texts);
    await expect(plan({ kind: 'relink', name: 'none', folder: at('shelf/base') })).rejects.toThrow('There is no link');
  });
  test('datasets become layers of a new map, then of one that is there; through a link, the link is told', async () => {
    await carryOut({ kind: 'link', name: 'base', folder: at('library/base'), note: '', replaces: [] });
    const datasets = [t.at('p/areas.shp'), t.at('library/base/buoys.shp')];
    await carryOut({ kind: 'add-to-map', datasets, map: null, title: 'Buoys & areas' });
    const read = (): {
      features: { properties: { title: string; rootmap: { link?: object }; offerings: { contents: { href: string }[] }[] } }[];
    } => JSON.parse(readFileSync(t.at('p/maps/buoys_areas.owc.json'), 'utf8')) as ReturnType<typeof read>;
    expect(read().features.map((f) => f.properties.offerings[0]!.contents[0]!.href)).toEqual([
      '../../library/base/buoys.shp',
      '../areas.shp',
    ]);
    expect(read().features[0]!.properties.rootmap.link).toEqual({ name: 'base', path: 'buoys.shp' });
    await carryOut({ kind: 'add-to-map', datasets: [t.at('library/base/lights.shp')], map: 'maps/buoys_areas.owc.json', title: '' });
    expect(read().features.map((f) => f.properties.title)).toEqual(['buoys', 'lights', 'areas']);
    expect(broken()).toEqual([]);
    await expect(plan({ kind: 'add-to-map', datasets: [t.at('library/secret.shp')], map: null, title: 'X' })).rejects.toThrow(
      'There is no dataset',
    );
    await expect(plan({ kind: 'add-to-map', datasets, map: null, title: '??' })).rejects.toThrow('no title');
  });
  test('columns of a CSV: a name that is none is refused, what is said already changes nothing', async () => {
    writeFileSync(t.at('p/t.csv'), 'a,b,name\n1,2,x\n');
    const edit = { kind: 'csv-columns', dataset: at('p/t.csv'), columns: { x: 'a', y: 'b' } } as const;
    await carryOut(edit);
    expect(readFileSync(t.at('p/t.csvt'), 'utf8')).toBe('"CoordX","CoordY","String"\n');
    expect((await plan(edit)).change).toBeNull();
    await expect(plan({ ...edit, columns: { x: 'a', y: 'z' } })).rejects.toThrow('There is no column');
    await expect(plan({ ...edit, dataset: at('p/areas.shp') })).rejects.toThrow('is no CSV');
  });
});
