import { cpSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
let key = '';

beforeAll(async () => {
  cpSync('testdata/open/example_project', join(server.folder, 'desk', 'survey'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${join(server.folder, 'desk')}` });
  const { body } = await server.ask('POST', '/api/projects', { body: { place: 'desk', path: 'survey' } });
  ({ key } = body as { key: string });
});
afterAll(() => server.stop());

const references = (count: number, last: object): object => ({
  kind: 'references',
  layers: [...Array.from({ length: count }, (_, i) => ({ map: 'all.owc.json', layer: `layer ${i}`, act: 'relative' })), last],
});
const plan = (options: { body?: unknown; raw?: string }) => server.ask('POST', `/api/projects/${key}/edits/plan`, options);

test('a request of 40,000 layers is read in a thread, to its last entry', async () => {
  const last = { map: 'all.owc.json', layer: 'x', act: 'relative' };
  const fine = await plan({ body: references(40_000, last) });
  const small = await plan({ body: references(1, last) });
  expect([fine.status, fine.body]).toEqual([200, small.body]);
  const wrong = await plan({ body: references(40_000, { ...last, act: 'sideways' }) });
  expect(wrong.status).toBe(400);
  expect((wrong.body as { detail: string }).detail).toMatch(/^The request is not understood: "layers\[40000\]\.act" must be one of/);
});

// CWE-770 (allocation of resources without limits), CWE-400.
test('what is broken, deep, or too large for its kind is refused in a sentence, and the server goes on', async () => {
  const raw = JSON.stringify(references(40_000, {})).slice(0, -1);
  const [broken, deep, much, most] = [
    await plan({ raw }),
    await plan({ raw: `{"kind":"names","only":${'['.repeat(200_000)}${']'.repeat(200_000)}}` }),
    await server.ask('POST', '/api/projects', { body: { place: 'desk', path: 'x'.repeat(300_000) } }),
    await plan({ raw: `{"kind":"${'x'.repeat(9 << 20)}"}` }),
  ];
  for (const answer of [broken, deep, much, most]) expect((answer.body as { detail: string }).detail).toMatch(/^The request .*\.$/);
  expect([broken, deep, much, most].map((a) => a.status)).toEqual([400, 400, 413, 413]);
  expect((await server.ask('GET', '/api/status')).status).toBe(200);
});
