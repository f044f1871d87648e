import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { writeProjectFile } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { setBounds } from '../disk/bounds.js';
import { join } from '../disk/native-path.js';
import { runChange } from '../changes/run-change.js';
import { openPlace, realRoot } from '../places/places.js';
import { readMaps } from '../project/read-maps.js';
import { planRemember } from '../project/remember.js';
import { findScope } from '../project/scope.js';
import { PlaceRepository } from '../repositories/place-repository.js';
import { ProjectRepository } from '../repositories/project-repository.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { PROJECT_TASKS } from '../tasks/project-tasks.js';
import { KnownAgain } from './known-again.js';

let t: TestFolder;
let store: DataSource;
let places: PlaceRepository;
let known: ProjectRepository;
let drives: string[];

const pool = {
  run: (name: string, input: never) => Promise.resolve((PROJECT_TASKS as unknown as Record<string, (i: never) => unknown>)[name]!(input)),
};
const look = (): Promise<boolean> => new KnownAgain(places, known, pool as never, () => drives).look();
const project = (folder: string, id: string): void => {
  mkdirSync(t.at(folder), { recursive: true });
  writeFileSync(
    t.at(folder, 'p.rootmap.json'),
    writeProjectFile({ id, name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: {} }),
  );
};

// Folders stand for drives: E is where the stick was, F where it comes back.
beforeEach(async () => {
  t = new TestFolder();
  for (const name of ['desk', 'E']) mkdirSync(t.at(name));
  store = await openStore(t.at('data'));
  places = await PlaceRepository.open(store, []);
  await places.remove('home');
  await places.add({ name: 'desk', folder: t.at('desk'), driveNames: [] });
  await places.add({ name: 'stick', folder: t.at('E'), driveNames: [] });
  known = new ProjectRepository(store, places);
  drives = [t.at('desk'), t.at('E')];
  setBounds(() => ({ places: places.opened().map(realRoot), own: [t.at('data')] })); // as a server has them
});
afterEach(async () => {
  setBounds(() => null);
  await store.destroy();
  t.remove();
});
const comesBack = (as: string): void => {
  renameSync(t.at('E'), t.at(as));
  drives = [t.at('desk'), t.at(as)];
};
const folderOf = (name: string): string => places.all().find((p) => p.name === name)!.folder;

test('by its project file: the place stands there, the project is followed, and both are kept', async () => {
  project('E/kelp', 'one');
  await known.note(t.at('E', 'kelp'), 'one', 'P');
  expect(await look()).toBe(false);
  comesBack('F');
  expect(await look()).toBe(true);
  expect([folderOf('stick'), await known.roots()]).toEqual([t.at('F'), [t.at('F', 'kelp')]]);
  const again = await PlaceRepository.open(store, []);
  expect(again.all().find((p) => p.name === 'stick')).toMatchObject({ folder: t.at('F'), formerly: [t.at('E')] });
  // And back: the first letter is its own again.
  renameSync(t.at('F'), t.at('E'));
  drives = [t.at('desk'), t.at('E')];
  expect(await look()).toBe(true);
  expect(places.all().find((p) => p.name === 'stick')).toMatchObject({ folder: t.at('E'), formerly: [t.at('F')] });
});

test('where another stick has its letter now, it is found by what is on it all the same', async () => {
  project('E/kelp', 'one');
  await known.note(t.at('E', 'kelp'), 'one', 'P');
  comesBack('F');
  mkdirSync(t.at('E', 'kelp'), { recursive: true }); // somebody else's
  drives = [t.at('E'), t.at('F')];
  expect(await look()).toBe(true);
  expect(folderOf('stick')).toBe(t.at('F'));
});

test('by data that layers remember: they are sound without a mend, though maps name the old folder', async () => {
  project('desk/p', 'two');
  t.shapefile('polygon', 'E/dives/beds');
  const map = t.map('desk/p/m.owc.json', [`file://${t.at('E', 'dives', 'beds.shp')}`], 'absolute');
  await known.note(t.at('desk', 'p'), 'two', 'P');
  const scope = () => findScope(t.at('desk', 'p'), { places: places.all().map(openPlace) });
  await runChange(planRemember(scope(), 'test').change!, { journal: new SqlJournal(store), program: 'test' });
  const before = readFileSync(map, 'utf8');
  const states = () => readMaps(scope()).maps.flatMap((m) => m.layers.map((l) => l.judgement.state));
  expect(states()).toEqual(['sound']);
  comesBack('F');
  expect(states()).toEqual(['absent']);
  expect(await look()).toBe(true);
  expect([folderOf('stick'), states(), readFileSync(map, 'utf8') === before]).toEqual([t.at('F'), ['sound'], true]);
});

test('nobody guesses: other data of the same name, two that fit, a drive that is another place', async () => {
  project('desk/p', 'two');
  t.shapefile('polygon', 'E/dives/beds');
  t.map('desk/p/m.owc.json', [`file://${t.at('E', 'dives', 'beds.shp')}`], 'absolute');
  await known.note(t.at('desk', 'p'), 'two', 'P');
  const scope = findScope(t.at('desk', 'p'), { places: places.all().map(openPlace) });
  await runChange(planRemember(scope, 'test').change!, { journal: new SqlJournal(store), program: 'test' });
  renameSync(t.at('E'), t.at('gone'));
  t.shapefile('point', 'G/dives/beds');
  drives = [t.at('desk'), t.at('G')];
  expect(await look()).toBe(false);
  for (const twin of ['F', 'H']) t.shapefile('polygon', `${twin}/dives/beds`);
  drives = [t.at('desk'), t.at('F'), t.at('H')];
  expect(await look()).toBe(false);
  await places.add({ name: 'other', folder: t.at('H'), driveNames: [] });
  expect(await look()).toBe(true); // H is another place already, so that F alone fits
  expect(folderOf('stick')).toBe(t.at('F'));
  expect(join(folderOf('stick'), 'dives')).toBe(t.at('F', 'dives'));
});

test('where no drive may be looked on, as on a server that others reach, nothing is followed', async () => {
  project('E/kelp', 'one');
  await known.note(t.at('E', 'kelp'), 'one', 'P');
  comesBack('F');
  drives = [];
  expect(await look()).toBe(false);
  expect(folderOf('stick')).toBe(t.at('E'));
});

test('never to a drive on which another place stands, and never to the system’s own', async () => {
  project('E/kelp', 'one');
  await known.note(t.at('E', 'kelp'), 'one', 'P');
  renameSync(t.at('E'), t.at('desk/E'));
  drives = [t.at('desk'), '/'];
  expect(await look()).toBe(false);
  expect(folderOf('stick')).toBe(t.at('E'));
});
