import { mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join, ChangeDisk, runChange, StopHere } from '@rootmap/engine';
import { openStore, SqlJournal } from '@rootmap/engine/store';
import type { ChangeView, StatusView } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const stick = (...parts: string[]): string => join(server.folder, 'stick', ...parts);
const desk = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
const FILES = 40;

/** A change on the stick that ended midway with its process, and then the stick was pulled. */
beforeAll(async () => {
  mkdirSync(stick('p', 'maps'), { recursive: true });
  mkdirSync(desk('q'), { recursive: true });
  for (let i = 0; i < FILES; i++) writeFileSync(stick('p', 'maps', `m${i}.txt`), `old ${i}`);
  const store = await openStore(join(server.folder, 'data'));
  let renames = 0;
  const disk = new ChangeDisk((_, what) => {
    if (what === 'rename' && ++renames === FILES / 2) throw new StopHere();
  });
  const steps = Array.from({ length: FILES }, (_, i) => ({
    kind: 'write' as const,
    path: stick('p', 'maps', `m${i}.txt`),
    before: Buffer.from(`old ${i}`),
    after: Buffer.from(`new ${i}`),
  }));
  const change = { title: 'Write forty', kind: 'mend' as const, root: stick('p'), who: 'test', steps };
  await expect(runChange(change, { journal: new SqlJournal(store), disk, program: 'test' })).rejects.toBeInstanceOf(StopHere);
  await store.query('UPDATE "change" SET "owner" = ?', [
    JSON.stringify({ pid: 2 ** 22 + 1, startTime: '1', bootId: 'x', program: 'gone' }),
  ]);
  await store.destroy();
  renameSync(stick(), `${stick()}-pulled`);
  mkdirSync(stick(), { recursive: true }); // the mount point that is left
  await server.start({ ROOTMAP_PLACES: `desk=${desk()};stick=${stick()}` });
});
afterAll(() => server.stop());

const notices = async (): Promise<readonly string[]> => ((await server.get('/api/status')).body as StatusView).notices;
const last = async (): Promise<ChangeView> => ((await server.get('/api/journal')).body as ChangeView[])[0]!;
const soon = async (holds: () => Promise<boolean>): Promise<void> => {
  for (let i = 0; i < 160 && !(await holds()); i++) await new Promise((r) => setTimeout(r, 50));
};

test('the server starts, says what waits, and keeps working elsewhere', async () => {
  expect(await notices()).toEqual([
    expect.stringMatching(/^"Write forty" is not finished\. .*stick\/p is not here now.* Until then its folder cannot be changed\.$/),
  ]);
  expect(await last()).toMatchObject({ state: 'applying', isWaiting: true, canUndo: false, note: expect.stringMatching(/not here now/) });
  const made = await server.post('/api/new-project', { at: { place: 'desk', path: 'fresh' }, title: 'Fresh', folders: [] });
  expect(made.status).toBeLessThan(300);
});

test('when the stick is back, it is brought to its end without anybody asking', async () => {
  renameSync(stick(), `${stick()}-empty`);
  renameSync(`${stick()}-pulled`, stick());
  await soon(async () => (await notices()).some((n) => n.includes('has been finished')));
  expect(await notices()).toEqual(['"Write forty" was left midway; it has been finished.']);
  expect(readdirSync(stick('p', 'maps')).sort()).toEqual(Array.from({ length: FILES }, (_, i) => `m${i}.txt`).sort());
  for (let i = 0; i < FILES; i++) expect(readFileSync(stick('p', 'maps', `m${i}.txt`), 'utf8')).toBe(`new ${i}`);
  const finished = ((await server.get('/api/journal')).body as ChangeView[]).find((c) => c.title === 'Write forty');
  expect(finished).toMatchObject({ state: 'done', canUndo: true });
});

test('a second server on the same data folder does not start, and takes nothing away', async () => {
  const id = (
    (
      await server.ask('PUT', `/api/arrivals?drop=00000000-0000-4000-8000-000000000001&path=a.csv`, {
        raw: 'a\n1\n',
        headers: { 'content-type': 'application/octet-stream' },
      })
    ).body as {
      id: string;
    }
  ).id;
  const second = new TestServer();
  await expect(second.start({ ROOTMAP_DATA: join(server.folder, 'data') })).rejects.toThrow(/Another server uses the data folder/);
  expect(readFileSync(join(server.folder, 'data', 'arrivals', id, 'files', 'a.csv'), 'utf8')).toBe('a\n1\n');
  await second.stop();
});

test.each(['..%2F..%2Fdesk', '..', '.', '', 'x%2F..%2F..%2F..%2Fdesk', '00000000-0000-4000-8000-00000000000f'])(
  'an arrival called %s is none: nothing is removed',
  async (id) => {
    const answer = await server.ask('DELETE', `/api/arrivals/${id}`);
    expect(answer.status).toBe(404);
    expect(readdirSync(desk())).toContain('q');
  },
);

test('the access key stands nowhere in the log, however it was sent', async () => {
  const key = 'a-very-secret-key-of-the-team';
  const guarded = new TestServer();
  await guarded.start({ ROOTMAP_KEY: key, ROOTMAP_LOG: 'trace' });
  const headers: Record<string, string>[] = [
    {},
    { authorization: `Bearer ${key}` },
    { cookie: `rootmap_key=${key}` },
    { cookie: 'rootmap_key=%E0' },
  ];
  for (const h of headers)
    for (const path of ['/api/status', `/api/status?key=${key}`, `/api/projects/ffffffffffff?key=${key}`, '/api/nothing'])
      expect((await guarded.ask('GET', path, { headers: h })).status).toBeLessThan(500);
  expect(guarded.log).toContain('/api/status');
  expect(guarded.log).not.toContain('very-secret');
  await guarded.stop();
});

test('served at another loopback address, it answers there', async () => {
  const other = new TestServer();
  await other.start({ ROOTMAP_HOST: '127.0.0.2' });
  const { status } = await other.ask('GET', '/api/status', { host: '127.0.0.2', headers: { host: `127.0.0.2:${other.port}` } });
  expect(status).toBe(200);
  await other.stop();
});

test.each([
  ['GET', '/api/places', 403],
  ['GET', '/api/tiles/x/0/0/0', 403],
  ['GET', '/', 200],
])('another page that asks %s %s gets %i', async (method, path, status) => {
  const mode = path === '/' ? 'navigate' : 'no-cors';
  expect((await server.ask(method, path, { headers: { 'sec-fetch-site': 'cross-site', 'sec-fetch-mode': mode } })).status).toBe(status);
});

test('a request without a body, or nested beyond all measure, is told so', async () => {
  expect((await server.ask('POST', '/api/projects')).body).toMatchObject({ status: 400, detail: expect.stringMatching(/no body/) });
  const deep = `{"place":"desk","path":${'['.repeat(3000)}${']'.repeat(3000)}}`;
  expect((await server.ask('POST', '/api/projects', { raw: deep })).body).toMatchObject({
    status: 400,
    detail: expect.stringMatching(/nested/),
  });
});
