import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type { JobView, QualityView } from '@rootmap/core/contract';
import { geopackagesAt, hostileFiles } from '../test/hostile-files.js';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);

beforeAll(async () => {
  mkdirSync(at('p'), { recursive: true });
  const files = hostileFiles(geopackagesAt(join(server.folder, 'made.gpkg')), (name) => readFileSync(`testdata/open/shape-types/${name}`));
  for (const [name, content] of Object.entries(files)) writeFileSync(at('p', name), content);
  writeFileSync(at('p/zz_plain.csv'), 'id,kind\n1,a\n2,b\n');
  await server.start({ ROOTMAP_PLACES: `desk=${at()}`, ROOTMAP_READ_SECONDS: '4' });
}, 60_000);
afterAll(() => server.stop());

test('files made to break readers are checked one by one: each gets a sheet or a sentence, and what is sound is checked, too', async () => {
  const { key } = (await server.post('/api/projects', { place: 'desk', path: 'p' })).body as { key: string };
  const failed = new Map<string, string>();
  const check = async (): Promise<readonly QualityView['rows'][number][]> => {
    const started = (await server.post(`/api/projects/${key}/quality/check`, {})).body as JobView<'quality'>;
    const job = (await server.finished(started.id, 2000)) as JobView<'quality'>;
    expect([job.state, job.message]).toEqual(['done', null]);
    for (const f of job.result!.failed) failed.set(f.dataset, f.why);
    return ((await server.get(`/api/projects/${key}/quality`)).body as QualityView).rows;
  };
  const isUntold = (r: QualityView['rows'][number]): boolean => r.state === 'none' && !failed.has(r.id);
  let rows = await check();
  // On a busy machine what takes near to its four seconds is cut off at one look and not at the next: its tables are known at one of them.
  if (rows.some(isUntold)) rows = await check();
  expect(rows.length).toBeGreaterThan(60);
  expect(rows.find((r) => r.name === 'zz_plain.csv')).toMatchObject({ state: 'computed' });
  expect(rows.filter(isUntold).map((r) => r.name)).toEqual([]);
  expect([...failed.values()].filter((why) => !/^.{10,}\.$/.test(why))).toEqual([]);
  expect(server.log).not.toMatch(/at .*:\d+:\d+/); // no stack of an error of ours
}, 180_000);
