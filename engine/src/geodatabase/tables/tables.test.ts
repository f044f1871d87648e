import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { copyFileSync, cpSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { writeProjectFile } from '@rootmap/core';
import type { TableEdit } from '@rootmap/core/contract';
import { ChangeDisk } from '../../changes/disk.js';
import { recoverChanges } from '../../changes/recover.js';
import { runChange, StopHere } from '../../changes/run-change.js';
import { undoChange } from '../../changes/undo-change.js';
import { planEdit } from '../../edit/plan-edit.js';
import { findScope, rooted } from '../../project/scope.js';
import { openStore } from '../../store/open-store.js';
import { SqlJournal } from '../../store/sql-journal.js';
import { faultOf, gdal, ogrinfo } from '../../../test/geopackage-validator.js';
import { TestFolder } from '../../../test/test-project.js';
import { checkGeodatabase } from '../check-geodatabase.js';
import { holdersOf } from '../holders.js';
import { viewGeodatabases } from '../view-geodatabases.js';
import { stageContainer } from './stage-tables.js';

let t: TestFolder;
let store: DataSource;
const at = (path: string) => ({ place: t.places[0]!.name, path: t.at('p', path) });

beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('p'));
  writeFileSync(
    t.at('p/p.rootmap.json'),
    writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: {} }),
  );
  // Written by ogr2ogr, with its index, its triggers and its own tables of counts.
  cpSync('testdata/open/spdata/shapes', t.at('shapes'), { recursive: true });
  gdal('ogr2ogr', '-f', 'GPKG', t.at('p/one.gpkg'), t.at('shapes/columbus.shp'));
  gdal('ogr2ogr', '-f', 'GPKG', '-update', t.at('p/one.gpkg'), t.at('shapes/baltim.shp'));
  gdal('ogr2ogr', '-f', 'GPKG', t.at('p/two.gpkg'), t.at('shapes/baltim.shp'), '-nln', 'points');
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const journal = () => new SqlJournal(store);
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const options = { roots: [], who: 'test', resolve: (a: { path: string }) => a.path, missed: [], isQuick: true };
const plan = (edit: TableEdit) => planEdit(scope(), { kind: 'tables', ...edit }, options);
async function apply(edit: TableEdit, disk?: ChangeDisk) {
  const { change, containers, preview } = await plan(edit);
  const notes: string[] = [];
  const stage = (staged: string, target: string): Promise<void> => {
    notes.push(
      ...stageContainer(
        containers!.find((c) => c.target === target)!,
        staged,
        () => undefined,
      ),
    );
    return Promise.resolve();
  };
  const done = await runChange(change!, { journal: journal(), program: 'test', stage, ...(disk ? { disk } : {}) });
  return { done, preview, notes };
}
const undo = (id: string) => undoChange(id, 'test', { journal: journal(), program: 'test' });
const facts = (file: string, table: string): string[] =>
  ogrinfo(t.at('p', file), table)
    .split('\n')
    .filter((line) => !/^(INFO|Layer name|Using|using|\s*using|DATA_LAST)/.test(line.trim()) && !line.includes('successful'));
const lines = (file: string): string[] => readFileSync(t.at('p', file), 'utf8').split('\n');
const sound = (file: string): void => {
  expect([file, faultOf(t.at('p', file)), checkGeodatabase(t.at('p', file))]).toEqual([file, null, []]);
  const db = new Database(t.at('p', file), { readonly: true });
  expect(db.pragma('integrity_check', { simple: true })).toBe('ok');
  for (const rtree of db.prepare<[], string>("SELECT name FROM sqlite_master WHERE sql LIKE 'CREATE VIRTUAL TABLE%'").pluck().all())
    expect([rtree, db.prepare('SELECT rtreecheck(?)').pluck().get(rtree)]).toEqual([rtree, 'ok']);
  db.close();
  expect(readdirSync(t.at('p')).filter((n) => /-(wal|shm|journal)$|rootmap-/.test(n))).toEqual([]);
};

describe('a table of another writer', () => {
  test('gets another name: ogrinfo reads the same, references follow', async () => {
    t.map('p/maps/a.owc.json', ['../one.gpkg#columbus', '../one.gpkg#baltim', '../two.gpkg']);
    const map = lines('maps/a.owc.json');
    const before = facts('one.gpkg', 'columbus');
    const { done, preview } = await apply({ geodatabase: at('one.gpkg'), action: 'rename', table: 'columbus', name: 'Wards_2026' });
    expect(preview.references.map((r) => [r.before, r.after])).toEqual([['../one.gpkg#columbus', '../one.gpkg#Wards_2026']]);
    sound('one.gpkg');
    expect(facts('one.gpkg', 'Wards_2026')).toEqual(before);
    expect(lines('maps/a.owc.json').filter((line, i) => line !== map[i])).toEqual([expect.stringContaining('"href"')]);
    // Edits by another program still keep the index.
    gdal('ogrinfo', t.at('p/one.gpkg'), '-sql', 'DELETE FROM Wards_2026 WHERE fid = 1');
    expect(checkGeodatabase(t.at('p/one.gpkg')).filter((f) => f.requirement !== null)).toEqual([]);
    expect(ogrinfo(t.at('p/one.gpkg'), 'Wards_2026')).toContain('Feature Count: 48'); // and the count that it keeps for itself
    expect((await undo(done.id)).kept).toEqual([{ path: t.at('p/one.gpkg'), why: 'edited' }]); // edited since
  });

  test('is copied and moved into another container; a reference that named none says which one it means', async () => {
    t.map('p/maps/a.owc.json', ['../one.gpkg#columbus', '../two.gpkg']);
    const before = facts('one.gpkg', 'columbus');
    const bytes = [readFileSync(t.at('p/one.gpkg')), readFileSync(t.at('p/two.gpkg')), readFileSync(t.at('p/maps/a.owc.json'))];
    const { done, preview } = await apply({
      geodatabase: at('one.gpkg'),
      action: 'copy',
      table: 'columbus',
      into: at('two.gpkg'),
      name: 'wards',
      isMove: true,
    });
    expect(preview.references.map((r) => [r.before, r.after])).toEqual([
      ['../one.gpkg#columbus', '../two.gpkg#wards'],
      ['../two.gpkg', '../two.gpkg#points'],
    ]);
    sound('one.gpkg');
    sound('two.gpkg');
    expect(facts('two.gpkg', 'wards')).toEqual(before);
    expect(() => ogrinfo(t.at('p/one.gpkg'), 'columbus')).toThrow();
    await undo(done.id);
    expect([readFileSync(t.at('p/one.gpkg')), readFileSync(t.at('p/two.gpkg')), readFileSync(t.at('p/maps/a.owc.json'))]).toEqual(bytes);
  });

  test('is copied under another name in its own container, with tiles and coverages alike', async () => {
    gdal('gdal_translate', '-q', '-of', 'GPKG', '-ot', 'Float32', 'testdata/open/spdata/raster/elev.tif', t.at('p/tiles.gpkg'));
    gdal(
      'gdal_translate',
      '-q',
      '-of',
      'GPKG',
      '-ot',
      'Byte',
      '-scale',
      '-co',
      'APPEND_SUBDATASET=YES',
      '-co',
      'RASTER_TABLE=picture',
      'testdata/open/spdata/raster/elev.tif',
      t.at('p/tiles.gpkg'),
    );
    for (const table of ['tiles', 'picture']) {
      await apply({ geodatabase: at('tiles.gpkg'), action: 'copy', table, into: at('one.gpkg'), name: `${table}_2`, isMove: false });
      expect(faultOf(t.at('p/one.gpkg'))).toBeNull();
      const sum = (file: string, name: string): string =>
        /Checksum=(\d+)/.exec(gdal('gdalinfo', '-checksum', `GPKG:${t.at('p', file)}:${name}`))![1]!;
      expect([table, sum('one.gpkg', `${table}_2`)]).toEqual([table, sum('tiles.gpkg', table)]);
    }
    const copy = { geodatabase: at('one.gpkg'), action: 'copy', table: 'baltim', into: at('one.gpkg'), isMove: false } as const;
    await apply({ ...copy, name: 'baltim_b' });
    expect(facts('one.gpkg', 'baltim_b')).toEqual(facts('one.gpkg', 'baltim'));
    await expect(plan({ ...copy, name: 'BALTIM' })).rejects.toThrow('there already');
    await expect(plan({ ...copy, name: 'gpkg_x' })).rejects.toThrow("container's own");
  });

  test('goes to the trash, told who uses it; compaction gives its room back', async () => {
    t.map('p/maps/a.owc.json', ['../one.gpkg#columbus']);
    const before = statSync(t.at('p/one.gpkg')).size;
    const { done, preview } = await apply({ geodatabase: at('one.gpkg'), action: 'drop', tables: ['columbus'] });
    expect(preview.usedBy.map((u) => u.path)).toEqual(['../one.gpkg#columbus']);
    sound('one.gpkg');
    const rest = facts('one.gpkg', 'baltim');
    await apply({ geodatabase: at('one.gpkg'), action: 'compact' });
    sound('one.gpkg');
    expect(facts('one.gpkg', 'baltim')).toEqual(rest);
    expect(statSync(t.at('p/one.gpkg')).size).toBeLessThan(before);
    expect(existsSync(t.at('p/.rootmap/trash', done.id))).toBe(true);
  });
});

test('a name in other letters only', async () => {
  t.map('p/maps/a.owc.json', ['../one.gpkg#columbus']);
  const before = facts('one.gpkg', 'columbus');
  await apply({ geodatabase: at('one.gpkg'), action: 'rename', table: 'columbus', name: 'Columbus' });
  sound('one.gpkg');
  expect(facts('one.gpkg', 'Columbus')).toEqual(before);
  expect(lines('maps/a.owc.json').join()).toContain('"../one.gpkg#Columbus"');
});

test.each(['one.gpkg', 'two.gpkg'])('%s is written to by somebody else meanwhile: nothing is replaced, and it is told', async (touched) => {
  const edit = { geodatabase: at('one.gpkg'), action: 'copy', table: 'columbus', into: at('two.gpkg'), name: 'c', isMove: true } as const;
  const { change, containers } = await plan(edit);
  let n = 0;
  const stage = (staged: string, target: string): Promise<void> => {
    stageContainer(
      containers!.find((c) => c.target === target)!,
      staged,
      () => undefined,
    );
    if (++n === 1) {
      const db = new Database(t.at('p', touched));
      db.exec('CREATE TABLE own (x)');
      db.close();
    }
    return Promise.resolve();
  };
  await expect(runChange(change!, { journal: journal(), program: 'test', stage })).rejects.toThrow('changed');
  expect([ogrinfo(t.at('p/one.gpkg'), 'columbus')].join()).toContain('Feature Count: 49');
  expect(() => ogrinfo(t.at('p/two.gpkg'), 'c')).toThrow();
  const db = new Database(t.at('p', touched), { readonly: true });
  expect(db.prepare("SELECT count(*) FROM sqlite_master WHERE name = 'own'").pluck().get()).toBe(1);
  db.close();
  expect(readdirSync(t.at('p')).filter((f) => f.includes('rootmap-'))).toEqual([]);
});

test('whatever step a move of a table stops before, both files and the map are old or new together', async () => {
  t.map('p/maps/a.owc.json', ['../one.gpkg#columbus']);
  const files = ['one.gpkg', 'two.gpkg', 'maps/a.owc.json'].map((f) => t.at('p', f));
  const before = files.map((f) => readFileSync(f));
  const move = { geodatabase: at('one.gpkg'), action: 'copy', table: 'columbus', into: at('two.gpkg'), name: 'c', isMove: true } as const;
  const gone = { pid: 999_999, startTime: '1', bootId: 'x', program: 'test' };
  let steps = 0;
  for (let stop = 1; ; stop++) {
    const disk = new ChangeDisk((n) => {
      if (n === stop) throw new StopHere();
    });
    try {
      const { done } = await apply(move, disk);
      await undo(done.id);
      break;
    } catch (error) {
      expect(error).toBeInstanceOf(StopHere);
      steps++;
    }
    await store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
    const [recovered] = await recoverChanges(journal());
    if (recovered!.outcome === 'finished') {
      expect(readFileSync(files[2]!, 'utf8')).toContain('../two.gpkg#c');
      await undo(recovered!.change.id);
    }
    expect([stop, files.map((f, i) => readFileSync(f).equals(before[i]!))]).toEqual([stop, [true, true, true]]);
  }
  expect(steps).toBeGreaterThan(8);
});

describe('repair', () => {
  test.each([
    ['its application id', 'PRAGMA application_id = 1196437808'],
    ['a CRS that must be there', 'DELETE FROM gpkg_spatial_ref_sys WHERE srs_id = 0'],
    ['a time', "UPDATE gpkg_contents SET last_change = 'yesterday'"],
    ['an index with a hole', 'DELETE FROM rtree_columbus_geom WHERE id = 1'],
    ['an extent', 'UPDATE gpkg_contents SET max_x = 0'],
    ['a count', 'UPDATE gpkg_ogr_contents SET feature_count = 3'],
  ])('%s', async (_, sql) => {
    const before = facts('one.gpkg', 'columbus');
    const db = new Database(t.at('p/one.gpkg'));
    db.pragma('foreign_keys = OFF');
    db.exec(sql);
    db.close();
    await apply({ geodatabase: at('one.gpkg'), action: 'repair' });
    sound('one.gpkg');
    expect(facts('one.gpkg', 'columbus')).toEqual(before);
  });

  test('a table without an index gets one', async () => {
    gdal('ogr2ogr', '-f', 'GPKG', '-lco', 'SPATIAL_INDEX=NO', t.at('p/bare.gpkg'), t.at('shapes/columbus.shp'));
    await apply({ geodatabase: at('bare.gpkg'), action: 'repair' });
    sound('bare.gpkg');
    expect(gdal('ogrinfo', t.at('p/bare.gpkg'), '-sql', "SELECT HasSpatialIndex('columbus', 'geom')")).toContain('= 1');
  });
});

describe('a damaged file', () => {
  test('is read as far as it goes into a new one, and stays as it is', async () => {
    const path = t.at('p/broken.gpkg');
    const features = Array.from({ length: 20_000 }, (_, i) => ({
      type: 'Feature',
      properties: { n: i, text: `record ${i}` },
      geometry: { type: 'Point', coordinates: [i / 1000, i / 2000] },
    }));
    writeFileSync(t.at('many.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
    gdal('ogr2ogr', '-f', 'GPKG', path, t.at('many.geojson'));
    gdal('ogr2ogr', '-f', 'GPKG', '-update', path, t.at('shapes/columbus.shp'));
    const bytes = readFileSync(path);
    // Pages on which some of the records stand are lost.
    for (const n of [2000, 2100, 15_000]) {
      const page = Math.floor(bytes.indexOf(`record ${n}`) / 4096);
      bytes.fill(0xff, page * 4096, (page + 1) * 4096);
    }
    writeFileSync(path, bytes);
    const { notes } = await apply({ geodatabase: at('broken.gpkg'), action: 'rescue', into: at('rescued.gpkg') });
    expect(readFileSync(path).equals(bytes)).toBe(true);
    expect(faultOf(t.at('p/rescued.gpkg'))).toBeNull();
    const rescued = new Database(t.at('p/rescued.gpkg'), { readonly: true });
    const rows = rescued.prepare<[], { n: number; text: string }>('SELECT n, text FROM many').all();
    rescued.close();
    for (const r of rows) expect(r.text).toBe(`record ${r.n}`);
    expect(new Set(rows.map((r) => r.n)).size).toBe(rows.length);
    expect(rows.length).toBeGreaterThan(19_000); // some sixty rows stand on a page
    expect(rows.length).toBeLessThan(20_000);
    expect(notes.join('\n')).toMatch(new RegExp(`many: ${rows.length} records read; .*lost`));
    const view = await viewGeodatabases(scope(), [], { load: () => new Map(), save: () => undefined });
    const broken = view.containers.find((c) => c.shownPath === 'broken.gpkg')!;
    expect([broken.problem, broken.tables.map((b) => b.name)]).toEqual([expect.stringContaining('damaged'), ['columbus', 'many']]);
    expect(facts('rescued.gpkg', 'columbus')).toEqual(facts('broken.gpkg', 'columbus'));
  });

  test('with nothing to make out is told in one sentence', async () => {
    writeFileSync(t.at('p/none.gpkg'), 'no database at all');
    const edit = { geodatabase: at('none.gpkg'), action: 'rescue', into: at('rescued.gpkg') } as const;
    await expect(apply(edit)).rejects.toThrow('nothing in it can be made out');
    expect(existsSync(t.at('p/rescued.gpkg'))).toBe(false);
    await expect(plan({ geodatabase: at('none.gpkg'), action: 'compact' })).rejects.toThrow('Rescue what can be read');
  });
});

describe('one that another program has open', () => {
  const hold = async (mode: string) => {
    const script = `require('fs').openSync(${JSON.stringify(t.at('p/one.gpkg'))}, '${mode}'); console.log('open'); setTimeout(() => {}, 60000)`;
    const child = spawn(process.execPath, ['-e', script], { stdio: ['ignore', 'pipe', 'inherit'] });
    await once(child.stdout, 'data');
    return child;
  };
  test('for writing is not replaced, and the program is named', async () => {
    const child = await hold('r+');
    try {
      expect(holdersOf(t.at('p/one.gpkg'))).toEqual([{ pid: child.pid, program: expect.any(String), canWrite: true }]);
      await expect(plan({ geodatabase: at('one.gpkg'), action: 'compact' })).rejects.toThrow(`process ${child.pid}`);
    } finally {
      child.kill();
    }
  });
  test('for reading is', async () => {
    const child = await hold('r');
    try {
      expect(holdersOf(t.at('p/one.gpkg'))).toMatchObject([{ pid: child.pid, canWrite: false }]);
      await apply({ geodatabase: at('one.gpkg'), action: 'compact' });
      sound('one.gpkg');
    } finally {
      child.kill();
    }
  });
});

test('what stands in a write-ahead log comes along, and nothing of it is left beside the new file', async () => {
  const path = t.at('p/one.gpkg');
  const db = new Database(path);
  db.pragma('journal_mode = WAL');
  db.pragma('wal_autocheckpoint = 0');
  db.exec("UPDATE gpkg_contents SET description = 'in the log'");
  for (const b of ['', '-wal', '-shm']) copyFileSync(path + b, t.at(`kept${b}`));
  db.close();
  for (const b of ['', '-wal', '-shm']) copyFileSync(t.at(`kept${b}`), path + b); // as a program leaves it that was ended
  const { done } = await apply({ geodatabase: at('one.gpkg'), action: 'rename', table: 'columbus', name: 'wards' });
  expect(readdirSync(t.at('p')).filter((n) => n.startsWith('one.gpkg'))).toEqual(['one.gpkg']);
  const now = new Database(path, { readonly: true });
  expect(now.prepare("SELECT description FROM gpkg_contents WHERE table_name = 'wards'").pluck().get()).toBe('in the log');
  now.close();
  await undo(done.id);
  expect(readdirSync(t.at('p')).filter((n) => n.startsWith('one.gpkg'))).toEqual(['one.gpkg', 'one.gpkg-shm', 'one.gpkg-wal']);
});

test('a map names a geodatabase of its own by a relative path, which follows when the file moves', async () => {
  const map = t.map('p/maps/a.owc.json', ['../two.gpkg']);
  const set = async (path: string | null) => {
    const { change } = await planEdit(scope(), { kind: 'working-geodatabase', path, map: 'maps/a.owc.json' }, options);
    await runChange(change!, { journal: journal(), program: 'test' });
    return readFileSync(map, 'utf8');
  };
  const before = readFileSync(map, 'utf8');
  expect(await set('one.gpkg')).toContain('"workingGeodatabase": "../one.gpkg"');
  const move = { from: at('one.gpkg'), to: at('data/one.gpkg') };
  const plan = await planEdit(scope(), { kind: 'move', moves: [move], evenOriginals: false, grown: null }, options);
  expect(plan.preview.references.map((r) => [r.before, r.after])).toEqual([['../one.gpkg', '../data/one.gpkg']]);
  await runChange(plan.change!, { journal: journal(), program: 'test' });
  const after = readFileSync(map, 'utf8');
  expect(
    after
      .split('\n')
      .filter((line, i) => line !== readLine(before, i))
      .join(),
  ).toContain('"../data/one.gpkg"');
  const view = await viewGeodatabases(scope(), [], { load: () => new Map(), save: () => undefined });
  expect(view.maps).toEqual([
    { map: 'maps/a.owc.json', title: 'p/maps/a.owc.json', href: '../data/one.gpkg', path: t.at('p/data/one.gpkg') },
  ]);
  expect(await set(null)).toContain('"workingGeodatabase": null');
});
const readLine = (text: string, i: number): string | undefined => text.split('\n')[i];
