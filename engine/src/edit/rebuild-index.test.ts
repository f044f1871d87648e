import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { existsSync, readFileSync, rmSync, truncateSync } from 'node:fs';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { readMaps } from '../project/read-maps.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import { planEdit } from './plan-edit.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  t.shapefile('polygon', 'p/data/beds');
  t.map('p/maps/m.owc.json', ['../data/beds.shp']);
});
afterEach(() => t.remove());
const plan = (name: string) =>
  planEdit(
    t.scope('p'),
    { kind: 'rebuild-index', dataset: { place: 'local', path: t.at(`p/data/${name}`) } },
    { roots: [t.at('p')], who: 'test', isQuick: true, missed: [], resolve: ({ path }) => path },
  );
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
