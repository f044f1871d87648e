import { afterEach, beforeEach, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { mkdirSync, readFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { TestFolder } from '../../test/test-project.js';
import { MendDecisionRepository } from '../repositories/mend-decision-repository.js';
import { PlaceRepository } from '../repositories/place-repository.js';
import { PlanRepository } from '../repositories/plan-repository.js';
import { SeenFolderRepository } from '../repositories/seen-folder-repository.js';
import { openStore } from './open-store.js';
import { SqlJournal } from './sql-journal.js';
import { missedMoveTable, originalsTable } from './remembered.js';
import { draftTable, projectTable } from './tables.js';

let t: TestFolder;
let store: DataSource;
beforeEach(() => void (t = new TestFolder()));
afterEach(async () => {
  await store.destroy();
  t.remove();
});

test('a data folder of the version before opens without loss', async () => {
  // Made by the commit before these tables came; paths and names are invented.
  mkdirSync(t.at('data'));
  const before = new Database(t.at('data/journal.sqlite'));
  before.exec(readFileSync('testdata/data-folder/journal-before-remembered-tables.sql', 'utf8'));
  before.close();
  store = await openStore(t.at('data'));
  const own = (await new PlanRepository(store).list()).filter((p) => !p.isBuiltIn);
  expect(own.map((p) => [p.title, p.folders.map((f) => f.path)])).toEqual([
    ['Field jobs', ['field/2026', 'maps']],
    ['By sheet', ['sheets']],
  ]);
  const at = (...segments: string[]) => ({ place: 'desk', segments });
  expect(await new MendDecisionRepository(store).read()).toEqual({
    rejected: ['lights', 'buoys'].map((l) => `desk\ngis/a/maps/one.owc.json\n${l}\n/srv/desk/gis/a/${l === 'buoys' ? 'x' : 'y'}.shp`),
    accepted: [
      { from: at('gis', 'b'), to: at('gis', 'c') },
      { from: at('gis', 'd'), to: at('gis', 'e') },
      { from: at('gis', 'old'), to: at('gis', 'new') },
    ],
  });
  expect((await store.manager.find(missedMoveTable)).map((r) => [r.root, JSON.parse(r.pairs)])).toEqual([
    ['/srv/stick/away', [{ from: '/srv/desk/gis/a/x.shp', to: '/srv/desk/gis/b/x.shp' }]],
    ['/srv/stick/away', [{ from: '/srv/desk/gis/c', to: '/srv/desk/gis/d' }]],
  ]);
  const places = await PlaceRepository.open(store, []);
  expect(places.all()).toEqual([
    { folder: '/srv/desk', name: 'desk', driveNames: ['D:'], formerly: [] },
    { folder: '/srv/stick', name: 'stick', driveNames: ['E:', '\\\\harbour\\stick'], formerly: [] },
  ]);
  expect(await store.manager.find(originalsTable)).toEqual([
    { root: '/srv/desk/gis/a', known: '{"files":{"received/x.csv":{"bytes":3,"hash":"abc"}}}' },
  ]);
  expect(await new SeenFolderRepository(store).all()).toEqual({ '/srv/desk/linked': 1764000000000 });
  expect(await store.manager.find(projectTable)).toMatchObject([{ id: 'one', title: 'A' }]);
  expect((await store.manager.find(draftTable))[0]).toMatchObject({ editor: 'e1', who: 'ana', content: '{"x":1}' });
  const change = (await new SqlJournal(store).get('change-1'))!;
  expect(change).toMatchObject({
    state: 'done',
    title: 'Mend 1 layer in 1 map',
    steps: [{ kind: 'write', before: Buffer.from('before') }, { kind: 'move' }],
  });
});

test('what is turned down, accepted and kept at the same time is all kept', async () => {
  store = await openStore(t.at('data'));
  const decisions = new MendDecisionRepository(store);
  const seen = new SeenFolderRepository(store);
  const move = (n: number) => ({ from: { place: 'a', segments: [`${n}`] }, to: { place: 'b', segments: [`${n}`] } });
  await Promise.all(
    Array.from({ length: 50 }, async (_, n) => {
      await Promise.all([
        decisions.reject(`layer ${n}\nx`),
        decisions.accept([move(n)] as never, `change ${n % 2}`),
        seen.note([`/folder ${n}`]),
        new PlanRepository(store).save({ title: `Plan ${n}`, folders: [] } as never),
      ]);
    }),
  );
  const { rejected, accepted } = await decisions.read();
  expect([rejected.length, accepted.length]).toEqual([50, 50]);
  expect(Object.keys(await seen.all())).toHaveLength(50);
  expect((await new PlanRepository(store).list()).filter((p) => !p.isBuiltIn)).toHaveLength(50);
  // What an undone mend accepted does not hold; done again it does.
  await store.query(
    `INSERT INTO "change" ("id", "title", "kind", "root", "who", "createdMs", "state", "owner", "beatMs")
     VALUES ('change 1', 'Mend', 'mend', '/r', 'me', 0, 'undone', '{}', 0)`,
  );
  expect((await decisions.read()).accepted).toHaveLength(25);
  await store.query(`UPDATE "change" SET "state" = 'done'`);
  expect((await decisions.read()).accepted).toHaveLength(50);
  expect(await decisions.forgive(['layer 3', 'layer 4', 'layer'])).toBe(2);
  expect((await decisions.read()).rejected).toHaveLength(48);
});

test('a person who removed every place has none at the next start; a new one has the folder of its account', async () => {
  store = await openStore(t.at('data'));
  const first = await PlaceRepository.open(store, []);
  expect(first.all().map((p) => p.name)).toEqual(['home']);
  await first.remove('home');
  expect((await PlaceRepository.open(store, [])).all()).toEqual([]);
});
