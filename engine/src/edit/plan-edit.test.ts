import { chmodSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { type EditRequest } from '@rootmap/core/contract';
import { basename } from '../disk/native-path.js';
import { undoChange } from '../changes/undo-change.js';
import { viewFolders } from '../folders/view-folders.js';
import { ledFrom } from '../../test/resolve.js';
import { findDataset } from '../project/find-dataset.js';
import { EditWorld } from '../../test/edit-world.js';

let w: EditWorld;
beforeEach(async () => {
  w = await EditWorld.open();
});
afterEach(() => w.close());

describe('originals', () => {
  beforeEach(() => {
    w.project({ received: 'originals', derived: 'working' });
    w.t.shapefile('point', 'p/received/buoys');
    w.t.shapefile('point', 'p/derived/made');
    w.t.map('p/maps/a.owc.json', ['../received/buoys.shp', '../derived/made.shp']);
  });
  test('what comes among them is set read-only, what leaves them can be written again', async () => {
    await w.carryOut({
      kind: 'move',
      moves: [{ from: w.at('p/derived/made.shp'), to: w.at('p/received/made.shp') }],
      evenOriginals: false,
      grown: null,
    });
    expect(['shp', 'shx', 'dbf'].map((e) => w.writable(`p/received/made.${e}`))).toEqual([false, false, false]);
    const { done } = await w.carryOut({
      kind: 'move',
      moves: [{ from: w.at('p/received/made.shp'), to: w.at('p/derived/again.shp') }],
      evenOriginals: true,
      grown: null,
    });
    expect(w.writable('p/derived/again.shp')).toBe(true);
    expect(w.broken()).toEqual([]);
    await undoChange(done.id, 'test', w.run());
    expect(w.writable('p/received/made.shp')).toBe(false);
  });
  test('they do not move, and are not deleted, without being asked for by name', async () => {
    const move: EditRequest = {
      kind: 'move',
      moves: [{ from: w.at('p/received/buoys.shp'), to: w.at('p/derived/buoys.shp') }],
      evenOriginals: false,
      grown: null,
    };
    await expect(w.plan(move)).rejects.toMatchObject({ problem: { code: 'protected' } });
    await expect(w.plan({ kind: 'trash', paths: [w.at('p/received/buoys.shp')], evenOriginals: false })).rejects.toMatchObject({
      problem: { code: 'protected' },
    });
  });
  test('a folder gets the role: its files are set read-only; it loses it: they can be written; one undo each', async () => {
    const before = w.allBelow('p');
    const { done } = await w.carryOut({ kind: 'role', path: 'derived', role: 'originals' });
    expect(w.projectFile().folders['derived']).toBe('originals');
    expect(w.writable('p/derived/made.dbf')).toBe(false);
    await undoChange(done.id, 'test', w.run());
    expect(w.allBelow('p')).toEqual(before);
    await w.carryOut({ kind: 'role', path: 'received', role: null });
    expect(w.projectFile().folders).toEqual({ derived: 'working' });
    expect(w.writable('p/received/buoys.shp')).toBe(true);
  });
  test('files that came by another way are counted, and set read-only in one change', async () => {
    const unprotected = (): number => viewFolders(w.scope(), [], []).unprotected;
    expect(unprotected()).toBe(3);
    await w.carryOut({ kind: 'protect' });
    expect([unprotected(), w.writable('p/received/buoys.dbf'), w.writable('p/derived/made.dbf')]).toEqual([0, false, true]);
    expect((await w.plan({ kind: 'protect' })).preview.changes).toBe(false);
  });
  test('a renamed folder of originals keeps them protected', async () => {
    await w.carryOut({ kind: 'role', path: 'received', role: 'originals' });
    await w.carryOut({ kind: 'move', moves: [{ from: w.at('p/received'), to: w.at('p/incoming') }], evenOriginals: true, grown: null });
    expect(w.projectFile().folders['incoming']).toBe('originals');
    expect(w.broken()).toEqual([]);
    for (const file of readdirSync(w.t.at('p/incoming'))) expect([file, w.writable(`p/incoming/${file}`)]).toEqual([file, false]);
  });
  test('a working copy is whole and writable; the original and its layers stay', async () => {
    chmodSync(w.t.at('p/received/buoys.shp'), 0o444);
    const { preview } = await w.carryOut({ kind: 'copy', from: w.at('p/received/buoys.shp'), to: w.at('p/derived/buoys_work.shp') });
    expect(preview.files).toBe(3);
    expect(['shp', 'shx', 'dbf'].map((e) => w.writable(`p/derived/buoys_work.${e}`))).toEqual([true, true, true]);
    expect(readFileSync(w.t.at('p/derived/buoys_work.dbf'))).toEqual(readFileSync(w.t.at('p/received/buoys.dbf')));
    expect(ledFrom(w.t.at('p')).map((l) => basename(l.path))).toEqual(['buoys.shp', 'made.shp']);
  });
});

test('a duplicated map reaches the same data from where it stands', async () => {
  w.project({ maps: 'maps' });
  w.t.shapefile('point', 'p/data/buoys');
  w.t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  await w.carryOut({ kind: 'copy', from: w.at('p/maps/a.owc.json'), to: w.at('p/maps/2026/june/a.owc.json') });
  expect(readFileSync(w.t.at('p/maps/2026/june/a.owc.json'), 'utf8')).toContain('"../../../data/buoys.shp"');
  expect(readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8')).toContain('"../data/buoys.shp"');
  expect(w.broken()).toEqual([]);
});

test('a duplicate is another map: with an id of its own, and beside the first one with another title', async () => {
  w.project({ maps: 'maps' });
  w.t.map('p/maps/a.owc.json', []);
  const read = (name: string) => JSON.parse(readFileSync(w.t.at('p/maps', name), 'utf8')) as { id: string; properties: { title: string } };
  const before = readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8');
  await w.carryOut({ kind: 'copy', from: w.at('p/maps/a.owc.json'), to: w.at('p/maps/b.owc.json') });
  await w.carryOut({ kind: 'copy', from: w.at('p/maps/a.owc.json'), to: w.at('p/maps/old/a.owc.json') });
  const [first, beside, elsewhere] = [read('a.owc.json'), read('b.owc.json'), read('old/a.owc.json')];
  expect(readFileSync(w.t.at('p/maps/a.owc.json'), 'utf8')).toBe(before);
  expect(new Set([first.id, beside.id, elsewhere.id]).size).toBe(3);
  expect([beside.properties.title, elsewhere.properties.title]).toEqual([`${first.properties.title}, copy`, first.properties.title]);
});

test('a copied folder has its maps, whose references reach the copies inside and the same data outside; a project keeps its bits', async () => {
  w.project({ maps: 'maps' });
  w.t.shapefile('point', 'p/data/buoys');
  w.t.shapefile('point', 'p/job/near/zones');
  chmodSync(w.t.at('p/job/near/zones.shp'), 0o444);
  w.t.map('p/job/maps/a.owc.json', ['../../data/buoys.shp', '../near/zones.shp']);
  const before = w.allBelow('p');
  const { done } = await w.carryOut({ kind: 'copy', from: w.at('p/job'), to: w.at('p/archive/2026/job') });
  const text = readFileSync(w.t.at('p/archive/2026/job/maps/a.owc.json'), 'utf8');
  expect([text.includes('"../../../../data/buoys.shp"'), text.includes('"../near/zones.shp"')]).toEqual([true, true]);
  expect(w.writable('p/archive/2026/job/near/zones.shp')).toBe(true);
  expect(w.broken()).toEqual([]);
  await undoChange(done.id, 'test', w.run());
  expect(w.allBelow('p')).toEqual(before);

  await w.carryOut({ kind: 'copy', from: w.at('p'), to: w.at('stick/p') });
  expect(w.allBelow('stick/p')).toEqual(w.allBelow('p'));
  expect([w.writable('stick/p/job/near/zones.shp'), w.writable('stick/p/job/near/zones.dbf')]).toEqual([false, true]);
});

test('a style file that moves keeps its pictures; undo puts every byte back', async () => {
  w.project({ maps: 'maps' });
  w.t.shapefile('point', 'p/data/buoys');
  const map = w.t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  const json = JSON.parse(readFileSync(map, 'utf8'));
  json.features[0].properties.offerings[0].styles = [{ name: 's', content: { href: '../styles/a.sld' } }];
  writeFileSync(map, JSON.stringify(json));
  mkdirSync(w.t.at('p/styles'));
  const style = '<a><OnlineResource xlink:href="buoy.svg"/></a>';
  writeFileSync(w.t.at('p/styles/a.sld'), style);
  writeFileSync(w.t.at('p/styles/buoy.svg'), '<svg/>');
  const { done } = await w.carryOut({
    kind: 'move',
    moves: [{ from: w.at('p/styles/a.sld'), to: w.at('p/maps/looks/a.sld') }],
    evenOriginals: false,
    grown: null,
  });
  expect(readFileSync(w.t.at('p/maps/looks/a.sld'), 'utf8')).toBe(style.replace('buoy.svg', '../../styles/buoy.svg'));
  expect(readFileSync(map, 'utf8')).toContain('"href":"looks/a.sld"');
  await undoChange(done.id, 'test', w.run());
  expect(readFileSync(w.t.at('p/styles/a.sld'), 'utf8')).toBe(style);
});

describe('deleting', () => {
  beforeEach(() => {
    w.project({ data: 'working', 'data/old': 'working' });
    w.t.shapefile('point', 'p/data/buoys');
    w.t.shapefile('point', 'p/data/old/zones');
    w.t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
  });
  test('says which layers use the data, goes to the trash with its companions, and comes out again', async () => {
    const before = w.allBelow('p');
    const { preview, done } = await w.carryOut({ kind: 'trash', paths: [w.at('p/data/buoys.shp')], evenOriginals: false });
    expect(preview.usedBy).toEqual([{ map: 'a.owc.json', title: 'buoys.shp', path: '../data/buoys.shp' }]);
    expect(preview.files).toBe(3);
    expect(existsSync(w.t.at('p/data/buoys.dbf'))).toBe(false);
    const view = viewFolders(w.scope(), [], []);
    expect(view.trashBytes).toBe(preview.trashedBytes);
    expect(view.things.map((x) => x.path)).not.toContain('data/buoys.shp');
    await undoChange(done.id, 'test', w.run());
    expect(w.allBelow('p')).toEqual(before);
  });
  test('a folder of the plan goes from the project file, too', async () => {
    const { done } = await w.carryOut({ kind: 'trash', paths: [w.at('p/data/old')], evenOriginals: false });
    expect(w.projectFile().folders).toEqual({ data: 'working' });
    await undoChange(done.id, 'test', w.run());
    expect(w.projectFile().folders).toEqual({ data: 'working', 'data/old': 'working' });
    expect(existsSync(w.t.at('p/data/old/zones.shx'))).toBe(true);
  });
  test('a map that goes with its data is not named among those that use it', async () => {
    const { preview } = await w.plan({ kind: 'trash', paths: [w.at('p/data'), w.at('p/maps')], evenOriginals: false });
    expect(preview.usedBy).toEqual([]);
  });
});

describe('data and maps', () => {
  beforeEach(() => {
    w.project({ maps: 'maps' });
    w.t.shapefile('point', 'library/base/buoys');
    w.t.shapefile('point', 'library/base/lights');
    w.t.shapefile('polygon', 'p/areas');
  });
  test('a link that is gone is found once: it and every layer below it follow, and one undo puts all back', async () => {
    await w.carryOut({ kind: 'link', name: 'base', folder: w.at('library/base'), note: '', replaces: [] });
    w.t.map('p/maps/a.owc.json', ['../../library/base/buoys.shp', '../../library/base/lights.shp', '../areas.shp']);
    w.t.map('p/maps/b.owc.json', ['../../library/base/buoys.shp']);
    renameSync(w.t.at('library'), w.t.at('shelf'));
    expect(w.broken()).toHaveLength(3);
    const texts = ['a', 'b'].map((m) => readFileSync(w.t.at(`p/maps/${m}.owc.json`), 'utf8'));
    const { preview, done } = await w.carryOut({ kind: 'relink', name: 'base', folder: w.at('shelf/base') });
    expect(preview).toMatchObject({ referenceCount: 3, maps: 2 });
    expect(w.broken()).toEqual([]);
    expect(w.projectFile().links).toMatchObject([{ name: 'base', path: '../shelf/base' }]);
    await undoChange(done.id, 'test', w.run());
    expect(['a', 'b'].map((m) => readFileSync(w.t.at(`p/maps/${m}.owc.json`), 'utf8'))).toEqual(texts);
    await expect(w.plan({ kind: 'relink', name: 'none', folder: w.at('shelf/base') })).rejects.toThrow('There is no link');
  });
  test('datasets become layers of a new map, then of one that is there; through a link, the link is told', async () => {
    await w.carryOut({ kind: 'link', name: 'base', folder: w.at('library/base'), note: '', replaces: [] });
    const datasets = [w.t.at('p/areas.shp'), w.t.at('library/base/buoys.shp')];
    await w.carryOut({ kind: 'add-to-map', datasets, map: null, title: 'Buoys & areas' });
    const read = (): {
      features: { properties: { title: string; rootmap: { link?: object }; offerings: { contents: { href: string }[] }[] } }[];
    } => JSON.parse(readFileSync(w.t.at('p/maps/buoys_areas.owc.json'), 'utf8')) as ReturnType<typeof read>;
    expect(read().features.map((f) => f.properties.offerings[0]!.contents[0]!.href)).toEqual([
      '../../library/base/buoys.shp',
      '../areas.shp',
    ]);
    expect(read().features[0]!.properties.rootmap.link).toEqual({ name: 'base', path: 'buoys.shp' });
    await w.carryOut({ kind: 'add-to-map', datasets: [w.t.at('library/base/lights.shp')], map: 'maps/buoys_areas.owc.json', title: '' });
    expect(read().features.map((f) => f.properties.title)).toEqual(['buoys', 'lights', 'areas']);
    expect(w.broken()).toEqual([]);
    await expect(w.plan({ kind: 'add-to-map', datasets: [w.t.at('library/secret.shp')], map: null, title: 'X' })).rejects.toThrow(
      'There is no dataset',
    );
    await expect(w.plan({ kind: 'add-to-map', datasets, map: null, title: '??' })).rejects.toThrow('no title');
  });
  test('columns of a CSV: a name that is none is refused, what is said already changes nothing', async () => {
    writeFileSync(w.t.at('p/w.t.csv'), 'a,b,name\n1,2,x\n');
    const edit = { kind: 'csv-columns', dataset: w.at('p/w.t.csv'), columns: { x: 'a', y: 'b' } } as const;
    await w.carryOut(edit);
    expect(readFileSync(w.t.at('p/w.t.csvt'), 'utf8')).toBe('"CoordX","CoordY","String"\n');
    expect((await w.plan(edit)).change).toBeNull();
    await expect(w.plan({ ...edit, columns: { x: 'a', y: 'z' } })).rejects.toThrow('There is no column');
    // Keys that look like numbers are text from then on, in every reader of the app.
    writeFileSync(w.t.at('p/keys.csv'), 'key,day\n80331,31.12.2025\n');
    const keys = { kind: 'csv-columns', dataset: w.at('p/keys.csv'), columns: null, asText: ['key'] } as const;
    await w.carryOut(keys);
    expect(readFileSync(w.t.at('p/keys.csvt'), 'utf8')).toBe('"String",""\n');
    const { fields } = findDataset(w.scope(), w.t.at('p/keys.csv')).dataset;
    expect(fields).toEqual([
      { name: 'key', type: 'text' },
      { name: 'day', type: 'date', writtenAs: 'day-first' },
    ]);
    await expect(w.plan({ ...keys, asText: ['nothing'] })).rejects.toThrow('There is no column');
    // What keeps values apart and how letters are encoded can be said; columns are those that there are then.
    writeFileSync(w.t.at('p/bars.csv'), Buffer.from('d\u00e9but;x|n\nA;1|2\n', 'latin1'));
    const dialect = { delimiter: '|', encoding: 'iso-8859-15', hasNames: null };
    const bars = { kind: 'csv-columns', dataset: w.at('p/bars.csv'), columns: null, asText: ['n'], dialect } as const;
    expect((await w.plan(bars)).preview.reading).toMatchObject({
      encoding: 'iso-8859-15',
      delimiter: '|',
      columns: [
        { name: 'début;x', samples: ['A;1'] },
        { name: 'n', samples: ['2'] },
      ],
    });
    await w.carryOut(bars);
    expect(findDataset(w.scope(), w.t.at('p/bars.csv')).dataset.fields).toEqual([
      { name: 'début;x', type: 'text' },
      { name: 'n', type: 'text' },
    ]);
    expect(JSON.parse(readFileSync(w.t.at('p/bars.csv-metadata.json'), 'utf8'))).toMatchObject({
      url: 'bars.csv',
      dialect: { delimiter: '|' },
    });
    expect((await w.plan(bars)).change).toBeNull();
    await expect(w.plan({ ...edit, dataset: w.at('p/areas.shp') })).rejects.toThrow('is no CSV');
  });
});
