import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { writeProjectFile } from '@rootmap/core';
import type { DataSource } from 'typeorm';
import { TestFolder } from '../../test/test-project.js';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { stayedOut } from '../folders/stayed-out.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { findScope, rooted } from '../project/scope.js';
import { planPutBack } from './put-back.js';
import { stageEdition } from './stage-edition.js';

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('stick/p/received'), { recursive: true });
  mkdirSync(t.at('came'));
  const project = { id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: { received: 'originals' } };
  writeFileSync(t.at('stick/p/p.rootmap.json'), writeProjectFile(project));
  t.shapefile('point', 'came/BUOYS');
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const ADDRESS = 'https://x.example/a.zip';
const scope = () => rooted(findScope(t.at('stick/p'), { places: t.places, root: t.at('stick/p') }));
const edition = { etag: '"2"', modified: null, bytes: 9, sha256: 'x', records: null, updated: null };
/** Coreutils make the sums that are written down. */
const sum = (file: string): string => `sha256:${execFileSync('sha256sum', [t.at(file)], { encoding: 'utf8' }).slice(0, 64)}`;
const record = (files: unknown, more: object = {}): void =>
  writeFileSync(
    t.at('stick/p/received/datapackage.json'),
    JSON.stringify({
      resources: [{ name: 'b', path: 'buoys.shp', sources: [{ title: 'Office', path: ADDRESS }], 'rootmap:files': files, ...more }],
    }),
  );
const plan = (takesOther = false) =>
  planPutBack(scope(), stayedOut(scope()), t.at('came'), { fetched: '2026-11-30', edition }, { takesOther, who: 'test' });
const here = (): string[] => readdirSync(t.at('stick/p/received')).sort();

test('what comes is what stayed out, by its checksums: put in place as one change, read-only among originals, undone', async () => {
  const endings = ['shp', 'shx', 'dbf', 'prj'].filter((e) => existsSync(t.at(`came/BUOYS.${e}`)));
  record([
    ...endings.map((e) => ({ path: `buoys.${e}`, hash: sum(`came/BUOYS.${e}`) })),
    { path: 'buoys.qix', hash: `sha256:${'0'.repeat(64)}` },
  ]);
  const { change, copies, rows } = await plan();
  expect(rows).toEqual([{ path: 'received/buoys.shp', address: ADDRESS, state: 'as-it-was', why: null, missing: ['buoys.qix'] }]);
  const done = await runChange(change!, { journal: new SqlJournal(store), program: 'test', stageAll: stageEdition(copies) });
  expect(here()).toEqual([...endings.map((e) => `buoys.${e}`), 'datapackage.json'].sort());
  for (const e of endings)
    expect(readFileSync(t.at(`stick/p/received/buoys.${e}`)).equals(readFileSync(t.at(`came/BUOYS.${e}`)))).toBe(true);
  expect(stayedOut(scope())).toEqual([]);
  await undoChange(done.id, 'test', { journal: new SqlJournal(store), program: 'test' });
  expect(here()).toEqual(['datapackage.json']);
});

test('another edition stays away unless it is wanted; without checksums nothing is said to be the same', async () => {
  record([
    { path: 'buoys.shp', hash: sum('came/BUOYS.shp') },
    { path: 'buoys.dbf', hash: `sha256:${'1'.repeat(64)}` },
  ]);
  const away = await plan();
  expect([away.change, away.rows[0]!.state]).toEqual([null, 'left']);
  const taken = await plan(true);
  expect([taken.copies.length > 0, taken.rows[0]!.state]).toEqual([true, 'other']);
  record(undefined);
  expect((await plan()).rows[0]!.state).toBe('not-told');
});

test('a file beside it that nobody wrote down did not stand there: it is not as it was', async () => {
  const endings = ['shp', 'shx', 'dbf'];
  writeFileSync(t.at('came/BUOYS.cpg'), 'UTF-8');
  const told = (more: readonly string[]) =>
    record([...endings, ...more].map((e) => ({ path: `buoys.${e}`, hash: sum(`came/BUOYS.${e}`) })));
  const others = existsSync(t.at('came/BUOYS.prj')) ? ['prj'] : [];
  told(others);
  expect((await plan()).rows[0]!.state).toBe('left');
  told([...others, 'cpg']);
  expect((await plan()).rows[0]!.state).toBe('as-it-was');
});

test('a companion that stands there alone gives way; what is not in it is said; what may not be fetched is not asked for', async () => {
  record(undefined);
  writeFileSync(t.at('stick/p/received/buoys.dbf'), 'left behind');
  const { change, copies } = await plan();
  await runChange(change!, { journal: new SqlJournal(store), program: 'test', stageAll: stageEdition(copies) });
  expect(readFileSync(t.at('stick/p/received/buoys.dbf')).equals(readFileSync(t.at('came/BUOYS.dbf')))).toBe(true);
  record([], { path: 'wrecks.geojson' });
  expect(await plan()).toMatchObject({ change: null, rows: [{ path: 'received/wrecks.geojson', state: 'not-in-it' }] });
  record([], { path: 'wrecks.shp', 'rootmap:reobtainable': false });
  expect(stayedOut(scope())).toEqual([]);
  record([], { path: '../wrecks.shp' });
  expect(stayedOut(scope())).toEqual([]);
});
