import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type { ProjectSummary, ProjectView } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

/** What the list of projects says when folders are deleted, moved and copied behind its back. */
const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
const keys: Record<string, string> = {};

/** The open example under an id and a title of its own. */
function make(name: string): void {
  cpSync('testdata/open/example_project', at(name), { recursive: true });
  const file = at(
    name,
    readdirSync(at(name)).find((f) => f.endsWith('.rootmap.json'))!,
  );
  const project = JSON.parse(readFileSync(file, 'utf8')) as object;
  writeFileSync(file, JSON.stringify({ ...project, id: `urn:x:${name}`, title: name }));
}
const open = async (path: string): Promise<string> =>
  ((await server.post('/api/projects', { place: 'desk', path })).body as { key: string }).key;
const list = async (): Promise<ProjectSummary[]> => (await server.get('/api/projects')).body as ProjectSummary[];
const listed = async (title: string): Promise<ProjectSummary[]> => (await list()).filter((p) => p.title === title);
async function until<T>(look: () => Promise<T>, isSo: (value: T) => boolean, ms = 5000): Promise<T> {
  const endMs = Date.now() + ms;
  for (;;) {
    const value = await look();
    if (isSo(value) || Date.now() > endMs) return value;
    await new Promise((next) => setTimeout(next, 50));
  }
}

beforeAll(async () => {
  mkdirSync(at(), { recursive: true });
  mkdirSync(join(server.folder, 'stick'));
  for (const name of ['works', 'deleted', 'copied']) make(name);
  cpSync(at('works'), join(server.folder, 'stick', 'away'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:;stick=${join(server.folder, 'stick')}` });
  for (const name of ['works', 'deleted', 'copied']) keys[name] = await open(name);
  for (const key of Object.values(keys)) await server.get(`/api/projects/${key}`);
});
afterAll(() => server.stop());

test('one whose folder was deleted is told as that, keeps nothing else from being done, and is taken off', async () => {
  rmSync(at('deleted'), { recursive: true });
  const [gone] = await until(
    () => listed('deleted'),
    ([p]) => p?.present === false,
  );
  expect(gone).toMatchObject({ present: false, away: 'folder', totals: null });
  const edit = (body: object) => server.post(`/api/projects/${keys['works']}/edits`, body);
  const from = (path: string) => ({ place: 'desk', path: `works/${path}` });
  const dataset = await edit({ kind: 'move', moves: [{ from: from('working/fairway_006.shp'), to: from('working/fw.shp') }] });
  const folder = await edit({ kind: 'move', moves: [{ from: from('working'), to: from('at_work') }] });
  writeFileSync(at('works', 'x.txt'), '');
  const trash = await edit({ kind: 'trash', paths: [from('x.txt')] });
  const names = await edit({ kind: 'names' });
  expect([dataset.status, folder.status, trash.status, names.status]).toEqual([200, 200, 200, 200]);
  expect(existsSync(at('works', 'at_work', 'fw.shp'))).toBe(true);
  expect((await server.post(`/api/projects/${keys['deleted']}/find`)).body).toEqual({ found: [] });
  expect((await server.ask('DELETE', `/api/projects/${keys['deleted']}`)).status).toBe(204);
  expect(await listed('deleted')).toEqual([]);
});

test('one that moved is followed, and that is said; a copy laid where it was is a project of its own in the list', async () => {
  renameSync(at('copied'), at('moved'));
  const [moved] = await until(
    () => listed('copied'),
    ([p]) => p?.path === 'moved',
  );
  expect(moved).toMatchObject({ path: 'moved', present: true, cameFrom: 'copied', isCopy: false });
  cpSync(at('moved'), at('copied'), { recursive: true });
  writeFileSync(at('copied', 'only here.txt'), '');
  const key = await open('copied');
  const view = (await server.get(`/api/projects/${key}`)).body as ProjectView;
  expect(view.root).toBe(at('copied'));
  expect((await listed('copied')).map((p) => [p.path, p.isCopy])).toEqual(
    expect.arrayContaining([
      ['copied', true],
      ['moved', true],
    ]),
  );
  const made = await server.post(`/api/projects/${key}/edits`, {
    kind: 'folders',
    folders: [{ path: 'here', role: 'working' }],
  });
  expect([made.status, existsSync(at('copied', 'here')), existsSync(at('moved', 'here'))]).toEqual([200, true, false]);
  expect((await server.post(`/api/projects/${key}/edits`, { kind: 'separate' })).status).toBe(200);
  expect((await listed('copied')).map((p) => p.isCopy)).toEqual([false, false]);
});

test('a place that goes, and comes back, is noticed within five seconds; nothing there counts as sound meanwhile', async () => {
  const key = ((await server.post('/api/projects', { place: 'stick', path: 'away' })).body as { key: string }).key;
  await server.get(`/api/projects/${key}`);
  const one = async (): Promise<ProjectSummary> => (await list()).find((p) => p.key === key)!;
  expect((await one()).totals).not.toBeNull();
  const events: string[] = [];
  const stream = await fetch(`http://127.0.0.1:${server.port}/api/events`);
  const reader = stream.body!.getReader();
  const reading = (async () => {
    for (let piece = await reader.read(); !piece.done; piece = await reader.read()) events.push(Buffer.from(piece.value).toString('utf8'));
  })();
  const heard = (): Promise<boolean> => Promise.resolve(/"type":"places"/.test(events.join('')));
  renameSync(join(server.folder, 'stick'), join(server.folder, 'pulled'));
  expect(await until(heard, (h) => h)).toBe(true);
  expect(await one()).toMatchObject({ present: false, away: 'place', totals: null });
  expect((await server.get(`/api/projects/${key}`)).body).toMatchObject({ code: 'place-absent' });
  events.length = 0;
  renameSync(join(server.folder, 'pulled'), join(server.folder, 'stick'));
  expect(await until(heard, (h) => h)).toBe(true);
  expect((await server.get(`/api/projects/${key}`)).status).toBe(200);
  expect((await one()).totals).not.toBeNull();
  await reader.cancel();
  await reading;
});
