import { cpSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { writeMapFile, writeProjectFile } from '@rootmap/core';
import type { EditApplied, EditPreview, MissedView, ProjectView } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const desk = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
const stick = (...parts: string[]): string => join(server.folder, 'stick', ...parts);
const keys = { library: '', study: '' };

/** A library on the desk, and a study on a stick that draws on it by the desk's drive name. */
beforeAll(async () => {
  for (const ending of ['shp', 'shx', 'dbf'])
    for (const name of ['buoys', 'lights']) {
      mkdirSync(desk('library', 'data'), { recursive: true });
      cpSync(`testdata/open/shape-types/point.${ending}`, desk('library', 'data', `${name}.${ending}`));
    }
  const project = (id: string) => ({ id, name: id, title: id, created: '2026-01-01T00:00:00Z', crs: null, folders: {} });
  writeFileSync(desk('library', 'library.rootmap.json'), writeProjectFile(project('library')));
  mkdirSync(stick('study', 'maps'), { recursive: true });
  writeFileSync(stick('study', 'study.rootmap.json'), writeProjectFile(project('study')));
  const layers = ['buoys', 'lights'].map((name) => ({
    id: name,
    title: name,
    format: 'shapefile' as const,
    href: `file:///D:/library/data/${name}.shp`,
  }));
  const map = { id: 'm', title: 'Study', updated: '2026-01-01T00:00:00Z', crs: null, storedForm: 'absolute' as const, layers };
  writeFileSync(stick('study', 'maps', 'm.owc.json'), writeMapFile(map));
  await server.start({ ROOTMAP_PLACES: `desk=${desk()},D:;stick=${stick()},E:` });
  for (const [name, place] of [
    ['library', 'desk'],
    ['study', 'stick'],
  ] as const)
    keys[name] = ((await server.post('/api/projects', { place, path: name })).body as { key: string }).key;
});
afterAll(() => server.stop());

const edit = async (key: string, body: object): Promise<EditApplied> =>
  (await server.post(`/api/projects/${key}/edits`, body)).body as EditApplied;
const view = async (key: string): Promise<ProjectView> => (await server.post(`/api/projects/${key}/rescan`)).body as ProjectView;
const missed = async (): Promise<number> => ((await server.get(`/api/projects/${keys.study}/missed`)).body as MissedView).moves;
const move = (from: string, to: string) => ({
  kind: 'move',
  moves: [{ from: { place: 'desk', path: from }, to: { place: 'desk', path: to } }],
});

test('while the stick is there, its map follows a move on the desk at once', async () => {
  expect((await view(keys.study)).totals.sound).toBe(2);
  await edit(keys.library, move('library/data/buoys.shp', 'library/data/floats.shp'));
  expect((await view(keys.study)).totals.sound).toBe(2);
  expect(readFileSync(stick('study/maps/m.owc.json'), 'utf8')).toContain('file:///D:/library/data/floats.shp');
  expect(await missed()).toBe(0);
});

test('what moves while it is away is offered when it is back, undone moves included', async () => {
  renameSync(stick(), `${stick()}-pulled`);
  await edit(keys.library, move('library/data', 'library/sources'));
  await edit(keys.library, move('library/sources/lights.shp', 'library/sources/beacons.shp'));
  const last = await edit(keys.library, move('library/sources/floats.shp', 'library/sources/wrong.shp'));
  await server.post(`/api/journal/${last.change!.id}/undo`);
  renameSync(`${stick()}-pulled`, stick());
  expect((await view(keys.study)).totals.adrift).toBe(2);
  expect(await missed()).toBe(4);
  const preview = (await server.post(`/api/projects/${keys.study}/edits/plan`, { kind: 'follow' })).body as EditPreview;
  expect(preview.references.map((r) => r.after)).toEqual([
    'file:///D:/library/sources/floats.shp',
    'file:///D:/library/sources/beacons.shp',
  ]);
  expect(await edit(keys.study, { kind: 'follow' })).toMatchObject({ left: 0, change: { state: 'done' } });
  expect((await view(keys.study)).totals.sound).toBe(2);
  expect(await missed()).toBe(0);
});

test('a project that is away says so and is not touched', async () => {
  renameSync(stick(), `${stick()}-pulled`);
  const answer = await server.get(`/api/projects/${keys.study}/folders`);
  expect(answer.status).toBe(409);
  expect((answer.body as { detail: string }).detail).toContain('stick');
  renameSync(`${stick()}-pulled`, stick());
  expect((await server.get(`/api/projects/${keys.study}/folders`)).status).toBe(200);
});
