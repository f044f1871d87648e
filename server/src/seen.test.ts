import { cpSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
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

test('what the app moved while a project was not known is known to have moved, though a copy is left', async () => {
  const late = at('late');
  cpSync('testdata/open/example_project', late, { recursive: true });
  const map = join(late, 'maps', 'map_01.owc.json');
  const [href] = /[^"]*fairway_006\.shp/.exec(readFileSync(map, 'utf8'))!;
  writeFileSync(map, readFileSync(map, 'utf8').replaceAll(href, '../../works/working/fairway_006.shp'));
  rmSync(join(late, 'working'), { recursive: true });
  const [from, to] = ['working/fairway_006.shp', 'results/fw.shp'].map((path) => ({ place: 'desk', path: `works/${path}` }));
  expect((await server.post(`/api/projects/${key}/edits`, { kind: 'move', moves: [{ from, to }] })).status).toBe(200);
  for (const e of ['shp', 'shx', 'dbf']) cpSync(at('works/results', `fw.${e}`), at('works', `fairway_006.${e}`));
  const own = ((await server.post('/api/projects', { place: 'desk', path: 'late' })).body as { key: string }).key;
  const { layers } = (
    await server.post(`/api/projects/${own}/mend/explain`, { search: [{ place: 'desk', path: 'works' }], reach: 'places' })
  ).body as MendAnswer;
  const best = layers.find((l) => l.before.href?.includes('works/working'))!.candidates[0]!;
  expect([best.path, best.evidence]).toEqual([
    at('works/results/fw.shp'),
    expect.arrayContaining([expect.stringMatching(/^The app moved it there: '.*fairway_006.*', \d{4}-/)]),
  ]);
});
