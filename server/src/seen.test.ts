import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, renameSync } from 'node:fs';
import { join } from 'node:path';
import type { MendAnswer } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

/** What was seen where it was is known again where it went, whatever copies are kept. */
const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
let key = '';
const explain = async (): Promise<MendAnswer> =>
  (await server.post(`/api/projects/${key}/mend/explain`, { search: [], reach: 'places' })).body as MendAnswer;

beforeAll(async () => {
  mkdirSync(at(), { recursive: true });
  cpSync('testdata/open/example_project', at('works'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', { place: 'desk', path: 'works' })).body as { key: string }).key;
  await server.get(`/api/projects/${key}`);
  await server.post(`/api/projects/${key}/remember`);
  await server.get(`/api/projects/${key}`);
});
afterAll(() => server.stop());

test('a folder that was renamed outside the app, with the download and a backup kept', async () => {
  cpSync(at('works/originals'), at('downloads/originals'), { recursive: true });
  cpSync(at('works/originals'), at('works/backup/originals'), { recursive: true });
  renameSync(at('works/originals'), at('works/received'));
  const { layers, shifts } = await explain();
  expect(layers.length).toBeGreaterThan(3);
  expect(layers.map((l) => [l.verdict, l.choice, l.candidates[0]!.path.startsWith(at('works/received/'))])).toEqual(
    layers.map(() => ['certain', null, true]),
  );
  expect(shifts).toMatchObject([
    { verdict: 'certain', evidence: expect.arrayContaining([expect.stringMatching(/same folder on the disk/)]) },
  ]);
});
