import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { copyFileSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, truncateSync } from 'node:fs';
import type { EditRequest } from '@rootmap/core/contract';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { readMaps } from '../project/read-maps.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import { explainBroken } from '../mend/plan-mend.js';
import { findLostCompanions } from '../mend/lost-companions.js';
import { planEdit } from './plan-edit.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  t.shapefile('polygon', 'p/data/beds');
  t.map('p/maps/m.owc.json', ['../data/beds.shp']);
});
afterEach(() => t.remove());
const at = (path: string) => ({ place: 'local', path: t.at(path) });
const edit = async (request: EditRequest) =>
  planEdit(t.scope('p'), request, { roots: [t.at('p')], who: 'test', isQuick: true, missed: [], resolve: ({ path }) => path });
const plan = (name: string, isSpatial = false) => edit({ kind: 'rebuild-index', dataset: at(`p/data/${name}`), isSpatial });
const stateOfLayer = () => readMaps(t.scope('p')).maps[0]!.layers[0]!.judgement.state;

test('a lost index is made as its writer made it, and undone', async () => {
  const published = readFileSync(t.at('p/data/beds.shx'));
  rmSync(t.at('p/data/beds.shx'));
  expect(stateOfLayer()).toBe('incomplete');
  const store = await openStore(t.at('data'));
  const options = { journal: new SqlJournal(store), program: 'test' };
  const done = await runChange((await plan('beds.shp')).change!, options);
  expect(readFileSync(t.at('p/data/beds.shx'))).toEqual(published);
  expect(stateOfLayer()).toBe('sound');
  await undoChange(done.id, 'test', options);
  expect(existsSync(t.at('p/data/beds.shx'))).toBe(false);
  await store.destroy();
});

test('an index that is there, damaged shapes, and what is no shapefile are refused', async () => {
  await expect(plan('beds.shp')).rejects.toMatchObject({ problem: { code: 'exists' } });
  rmSync(t.at('p/data/beds.shx'));
  await expect(plan('beds.dbf')).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
  truncateSync(t.at('p/data/beds.shp'), 150);
  await expect(plan('beds.shp')).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
});

test('a spatial index is made where there is none, with a lost index or without', async () => {
  rmSync(t.at('p/data/beds.shx'));
  const both = (await plan('beds.shp', true)).change!;
  expect(both.steps.map((s) => s.path)).toEqual([t.at('p/data/beds.shx'), t.at('p/data/beds.qix')]);
  const store = await openStore(t.at('data'));
  await runChange(both, { journal: new SqlJournal(store), program: 'test' });
  await store.destroy();
  expect(readFileSync(t.at('p/data/beds.qix')).subarray(0, 3).toString()).toBe('SQT');
  await expect(plan('beds.shp', true)).rejects.toMatchObject({ problem: { code: 'exists' } });
});

test('a lost table is found where it lies, by name or by what the map remembers, and brought back; others are not', async () => {
  const [shapes, table] = ['beds.shp', 'beds.dbf'].map((n) => t.at('p/data', n)) as [string, string];
  const published = readFileSync(table);
  mkdirSync(t.at('p/mail/attached'), { recursive: true });
  renameSync(table, t.at('p/mail/attached/Beds.dbf'));
  copyFileSync('testdata/open/spdata/shapes/columbus.dbf', t.at('p/mail/beds.dbf')); // the name, and other records
  t.shapefile('polygon', 'p/mail/whole/beds'); // belongs to shapes of its own
  expect(stateOfLayer()).toBe('incomplete');
  const [found] = findLostCompanions(explainBroken(t.scope('p'))).values();
  expect(found!.map((f) => f.path)).toEqual([t.at('p/mail/attached/Beds.dbf')]);
  expect(found![0]!.evidence[0]).toBe('It has the name of the shapes.');
  expect(found![0]!.evidence[1]).toMatch(/^It has \d+ records, as many as there are shapes\.$/);
  await expect(edit({ kind: 'bring-table', dataset: at('p/data/beds.shp'), table: at('p/mail/beds.dbf') })).rejects.toThrow(
    /It is not its table/,
  );
  const { change } = await edit({ kind: 'bring-table', dataset: at('p/data/beds.shp'), table: at('p/mail/attached/Beds.dbf') });
  const store = await openStore(t.at('data'));
  const options = { journal: new SqlJournal(store), program: 'test' };
  const done = await runChange(change!, options);
  expect(readFileSync(table)).toEqual(published);
  expect(stateOfLayer()).toBe('sound');
  expect(existsSync(shapes)).toBe(true);
  await undoChange(done.id, 'test', options);
  expect(existsSync(table)).toBe(false);
  await store.destroy();
});
