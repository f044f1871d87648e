import { cpSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type { LayerView, ProjectSummary } from '@rootmap/core/contract';
import { rootmapLayers } from '../test/rootmap-layers.js';
import { TestServer } from '../test/start-server.js';

/** The list of projects right after the server started: nobody has opened any of them. */
const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
const list = async (): Promise<ProjectSummary[]> => (await server.get('/api/projects')).body as ProjectSummary[];

beforeAll(async () => {
  mkdirSync(at(), { recursive: true });
  for (const name of ['one', 'two']) cpSync('testdata/open/example_project', at(name), { recursive: true });
  const file = readdirSync(at('two')).find((f) => f.endsWith('.rootmap.json'))!;
  writeFileSync(at('two', file), '{ "format": "rootmap-project/1", "id": "urn:x:two", "name": "two", "title": "Two" }');
  await server.start({ ROOTMAP_PLACES: `desk=${at()}` });
  for (const path of ['one', 'two']) await server.post('/api/projects', { place: 'desk', path });
});
afterAll(() => server.stop());

test('how every project is comes by itself, as the command line has it, and no folder is watched for it', async () => {
  await list();
  const endMs = Date.now() + 20_000;
  let projects = await list();
  while (projects.some((p) => !p.totals) && Date.now() < endMs) {
    await new Promise((next) => setTimeout(next, 100));
    projects = await list();
  }
  expect(projects).toHaveLength(2);
  for (const p of projects) {
    // The command line reads the same folder in a process of its own.
    const layers: readonly Pick<LayerView, 'state'>[] = rootmapLayers(p.root, server.folder);
    const counts = Object.entries(p.totals!).filter(([, n]) => n > 0);
    expect(Object.fromEntries(counts)).toEqual(
      layers.reduce<Record<string, number>>((all, l) => ({ ...all, [l.state]: (all[l.state] ?? 0) + 1 }), {}),
    );
    expect(p).toMatchObject({ watched: null, trouble: null, datasets: expect.any(Number), bytes: expect.any(Number) });
  }
});
