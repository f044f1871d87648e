import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, renameSync, rmSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import type { StepRecord } from '../changes/change.js';
import { openStore } from '../store/open-store.js';
import { TestFolder } from '../../test/test-project.js';
import { PlaceRepository } from './place-repository.js';
import { PlanRepository } from './plan-repository.js';
import { ProjectRepository } from './project-repository.js';
import { SeenFolderRepository } from './seen-folder-repository.js';
import { projectKey } from '../project/project-key.js';

let t: TestFolder;
let store: DataSource;
let book: ProjectRepository;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  for (const folder of ['place/a', 'place/b']) mkdirSync(t.at(folder), { recursive: true });
  book = new ProjectRepository(store, await PlaceRepository.open(store, [{ name: 'desk', folder: t.at('place'), driveNames: [] }]));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const moved = (from: string, to: string): StepRecord => ({
  kind: 'move',
  n: 0,
  path: t.at(to),
  source: t.at(from),
  identity: '',
  tree: null,
});
const copied = (from: string, to: string): StepRecord => ({
  kind: 'copy',
  n: 0,
  path: t.at(to),
  source: t.at(from),
  temp: '',
  treeHash: null,
});
const roots = async (): Promise<string[]> => (await book.roots()).sort();

test('a root that moved is the same project: found by its old key, not on the list twice', async () => {
  await book.note(t.at('place/a'), 'one', 'A');
  renameSync(t.at('place/a'), t.at('place/moved'));
  await book.note(t.at('place/moved'), 'one', 'A');
  expect(await roots()).toEqual([t.at('place/moved')]);
  expect((await book.row(projectKey(t.at('place/a')))).root).toBe(t.at('place/moved'));
});
test('a copy beside it is another row', async () => {
  await book.note(t.at('place/a'), 'one', 'A');
  await book.note(t.at('place/b'), 'one', 'A');
  expect(await roots()).toEqual([t.at('place/a'), t.at('place/b')]);
});
test('roots follow the steps of a change: moved with a folder above, or copied to another disk', async () => {
  mkdirSync(t.at('place/shelf/p'), { recursive: true });
  await book.note(t.at('place/shelf/p'), 'one', 'P');
  await book.note(t.at('place/b'), 'two', 'B');
  renameSync(t.at('place/shelf'), t.at('place/rack'));
  expect(await book.follow([moved('place/shelf', 'place/rack')])).toEqual([projectKey(t.at('place/shelf/p'))]);
  mkdirSync(t.at('place/other/b'), { recursive: true });
  rmSync(t.at('place/b'), { recursive: true });
  await book.follow([copied('place/b/maps/m.owc.json', 'place/other/b/maps/m.owc.json')]);
  expect(await roots()).toEqual([t.at('place/other/b'), t.at('place/rack/p')]);
});
test('there and back again: the first key leads there once more', async () => {
  await book.note(t.at('place/a'), 'one', 'A');
  renameSync(t.at('place/a'), t.at('place/c'));
  await book.follow([moved('place/a', 'place/c')]);
  renameSync(t.at('place/c'), t.at('place/a'));
  await book.follow([moved('place/c', 'place/a')]);
  for (const name of ['place/a', 'place/c']) expect((await book.row(projectKey(t.at(name)))).root).toBe(t.at('place/a'));
});
test('a root outside all places is refused; one that nobody knows is not found', async () => {
  await expect(book.note(t.at('elsewhere'), 'x', 'X')).rejects.toMatchObject({ problem: { code: 'outside-places' } });
  await expect(book.row('000000000000')).rejects.toMatchObject({ problem: { code: 'not-found' } });
});

test('plans of one’s own outlive the server; those that ship cannot be taken away', async () => {
  const body = { title: 'Mine', summary: '', folders: [{ path: 'in', role: 'originals' as const, note: '' }] };
  await new PlanRepository(store).save(body);
  const [mine] = (await new PlanRepository(store).list()).filter((p) => !p.isBuiltIn);
  expect(mine).toMatchObject(body);
  await expect(new PlanRepository(store).remove('by-use')).rejects.toMatchObject({ problem: { code: 'not-found' } });
  await expect(new PlanRepository(store).save({ ...body, title: 'BY USE' })).rejects.toMatchObject({ problem: { code: 'wrong-use' } });
});
test('folders that were seen keep their times', async () => {
  const seen = new SeenFolderRepository(store);
  await seen.note(['/x']);
  const first = (await seen.all())['/x']!;
  await seen.note(['/y']);
  expect(await seen.all()).toEqual({ '/x': first, '/y': expect.any(Number) });
});
