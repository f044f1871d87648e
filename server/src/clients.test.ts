import { cpSync, readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const CLIENTS = 50;
const WARM_SECONDS = 5;
const WARM_ANSWERS = 1500;
const SECONDS = 12; // `npm run bench -- clients` runs the whole minute, and measures the event loop
let key = '';
beforeAll(async () => {
  cpSync('testdata/open/example_project', join(server.folder, 'place', 'check'), { recursive: true });
  await server.start({
    ROOTMAP_PLACES: `desk=${join(server.folder, 'place')},D:`,
  });
  key = ((await server.post('/api/projects', { place: 'desk', path: 'check' })).body as { key: string }).key;
});
afterAll(() => server.stop());

/** Resident memory of the server itself (proc(5)), in KiB. */
const memory = (): number => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))![1]);

test(`${CLIENTS} clients at once: no error, and memory stays where a warm server has it`, async () => {
  const project = `/api/projects/${key}`;
  const id = ((await server.post(`${project}/rescan`)).body as { datasets: { id: string }[] }).datasets[0]!.id;
  const asks: (() => Promise<{ status: number }>)[] = [
    () => server.get(project),
    () => server.post(`${project}/rescan`),
    () => server.get(`${project}/folders`),
    () => server.get(`${project}/sources`),
    () => server.get('/api/journal'),
    () => server.get('/api/folder?place=desk&path=check'),
    () => server.post(`${project}/rows`, { dataset: id, from: 0, count: 20 }),
    () => server.post(`${project}/mend/explain`, { search: [], reach: 'near' }),
    () => server.post(`${project}/edits/plan`, { kind: 'names', only: null, chosen: {} }),
  ];
  const bad: number[] = [];
  let answered = 0;
  /** For so long, and until so many were answered: a machine that is busy elsewhere is warm later. */
  const load = async (seconds: number, least: number): Promise<void> => {
    const end = Date.now() + seconds * 1000;
    const enough = answered + least;
    await Promise.all(
      Array.from({ length: CLIENTS }, async (_, c) => {
        for (let n = c; Date.now() < end || answered < enough; n++) {
          const { status } = await asks[n % asks.length]!();
          answered++;
          if (status >= 300) bad.push(status);
        }
      }),
    );
  };
  await load(WARM_SECONDS, WARM_ANSWERS); // what a heap and its pools take once is not what grows
  await wait(2500);
  const before = memory();
  await load(SECONDS, 0);
  expect(bad).toEqual([]);
  expect(answered).toBeGreaterThan(CLIENTS * (SECONDS + WARM_SECONDS));
  let now = memory();
  for (let i = 0; i < 20 && now > before * 1.2; i++) {
    await wait(1000);
    now = memory();
  }
  expect(now / before).toBeLessThan(1.2);
}, 120_000);
