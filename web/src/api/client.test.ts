import { afterEach, expect, test } from '@jest/globals';
import { answerWith } from '../../test/render.js';
import { api, ServerProblem } from './client.js';

const before = globalThis.fetch;
afterEach(() => void (globalThis.fetch = before));

test('what is asked goes as JSON, and the answer comes back as it is', async () => {
  const asked = answerWith({ 'POST /api/projects/k/edits': { body: { change: null } }, 'GET /api/folder': { body: { folders: [] } } });
  expect(await api.applyEdit('k', { kind: 'protect' })).toEqual({ change: null });
  await api.folder({ place: 'desk', path: 'a b/Süd & co' });
  expect(asked).toEqual([
    { what: 'POST /api/projects/k/edits', body: { kind: 'protect' } },
    { what: `GET /api/folder?place=desk&path=${encodeURIComponent('a b/Süd & co')}`, body: null },
  ]);
});

test('a refusal is a problem with its sentence', async () => {
  const detail = 'The place stick is not there. Plug it in.';
  answerWith({ 'GET /api/projects/k': { status: 409, body: { code: 'place-absent', detail, status: 409 } } });
  const error: unknown = await api.project('k').catch((e: unknown) => e);
  expect(error).toBeInstanceOf(ServerProblem);
  expect((error as ServerProblem).message).toBe(detail);
  expect((error as ServerProblem).details.code).toBe('place-absent');
});

test('an answer in pages is whole when it is given', async () => {
  const page = (...keys: string[]) => ({ body: keys.map((key) => ({ key })) });
  const asked = answerWith({
    'POST /api/projects/k/mend/explain': { body: { shifts: [], layers: [{ key: 'a' }, { key: 'b' }], more: ['x-1', 'x-2'] } },
    'GET /api/projects/k/mend/pages/x-1': page('c', 'd'),
    'GET /api/projects/k/mend/pages/x-2': page('e'),
  });
  const view = await api.mend('k', { search: [], reach: 'near' });
  expect(view).toEqual({ shifts: [], layers: ['a', 'b', 'c', 'd', 'e'].map((key) => ({ key })) });
  expect(asked).toHaveLength(3);
});

test('no answer, and an answer that is no JSON, are told as such', async () => {
  answerWith({});
  const away: unknown = await api.projects().catch((e: unknown) => e);
  expect(away).toBeInstanceOf(ServerProblem);
  expect((away as ServerProblem).message).toMatch(/server/i);
  globalThis.fetch = (() =>
    Promise.resolve({ status: 502, ok: false, json: () => Promise.reject(new SyntaxError('<')) })) as unknown as typeof fetch;
  expect(await api.projects().catch((e: unknown) => e)).toEqual(away);
});

test('a question that was taken back is no problem of the server', async () => {
  const gone = new AbortController();
  gone.abort();
  globalThis.fetch = () => Promise.reject(gone.signal.reason as Error);
  const error: unknown = await api
    .layerPicture('k', { dataset: 'd', crs: null, drawing: { filter: '', rules: [], label: null, raster: null } }, gone.signal)
    .catch((e: unknown) => e);
  expect(error).toBe(gone.signal.reason);
});
