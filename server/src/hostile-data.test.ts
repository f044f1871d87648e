import { mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type { EditableView, ProjectView } from '@rootmap/core/contract';
import { geopackagesAt, hostileFiles } from '../test/hostile-files.js';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
/** Two seconds on a machine at ease; beside other tests the same work computes for up to twice as long. */
const LIMIT_MS = 2000 * 2;
const WAIT_MS = 20_000;
/** Beyond what the process takes before it has read anything. */
const LIMIT_KB = 300 * 1024;
const files: Record<string, Buffer | string> = {};

beforeAll(async () => {
  Object.assign(
    files,
    hostileFiles(geopackagesAt(join(server.folder, 'made.gpkg')), (name) => readFileSync(`testdata/open/shape-types/${name}`)),
  );
  await server.start({ ROOTMAP_PLACES: `desk=${at()}`, ROOTMAP_READ_SECONDS: '2' });
}, 60_000);
afterAll(() => server.stop());

/** The server and its processes (proc(5): children). */
const family = (): string[] => [
  String(server.pid),
  ...readFileSync(`/proc/${server.pid}/task/${server.pid}/children`, 'utf8').split(' ').filter(Boolean),
];
const sizeOf = (pid: string, read: (pid: string) => number): number => {
  try {
    return read(pid);
  } catch {
    return 0; // it has ended meanwhile
  }
};

/** Memory that the server's processes took at most (proc(5): VmHWM), in KiB; reading it sets it back (clear_refs, 5). */
const mostMemory = (): number =>
  Math.max(
    ...family().map((pid) =>
      sizeOf(pid, () => {
        const peak = Number(/VmHWM:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0);
        writeFileSync(`/proc/${pid}/clear_refs`, '5');
        return peak;
      }),
    ),
  );

const TICK_MS = 10; // proc(5): clock ticks, 100 a second
/** Time that the server's processes computed, those that ended included (proc(5), stat: utime, stime, cutime, cstime): whatever else the machine does. */
const computedMs = (): number =>
  family().reduce((sum, pid, i) => {
    const ticks = sizeOf(pid, () => {
      const fields = readFileSync(`/proc/${pid}/stat`, 'utf8')
        .replace(/^.*\) /s, '')
        .split(' ')
        .map(Number);
      return fields[11]! + fields[12]! + (i === 0 ? fields[13]! + fields[14]! : 0);
    });
    return sum + ticks * TICK_MS;
  }, 0);

const COMPANION = /\.(shx|pgw|jgw|prj|gpkg-wal)$|^(points-promised|length-lies|no-length|deep)\.dbf$/;
const mains = (): string[] => Object.keys(files).filter((name) => !COMPANION.test(name));

test('there are eighty of them', () => expect(mains().length).toBeGreaterThanOrEqual(80));

test('each is listed, drawn, counted and read within two seconds and 300 MB; none ends what is asked of others', async () => {
  const faults: string[] = [];
  mkdirSync(at('warm'), { recursive: true });
  writeFileSync(at('warm', 'a.csv'), 'a\n1\n');
  const open = async (folder: string): Promise<string> =>
    ((await server.post('/api/projects', { place: 'desk', path: folder })).body as { key: string }).key;
  const timed = async (what: string, ask: () => Promise<{ status: number; body: unknown }>): Promise<unknown> => {
    const [before, startedMs] = [computedMs(), performance.now()];
    const { status, body } = await ask();
    const [ms, waited] = [computedMs() - before, performance.now() - startedMs];
    if (status >= 500) faults.push(`${what}: ${status} ${JSON.stringify(body).slice(0, 200)}`);
    if (ms > LIMIT_MS || waited > WAIT_MS) faults.push(`${what}: ${ms} ms, ${Math.round(waited)} ms until it was answered`);
    return body;
  };
  const ask = async (folder: string): Promise<ProjectView> => {
    const key = await open(folder);
    const view = (await timed(`${folder} listed`, () => server.post(`/api/projects/${key}/rescan`))) as ProjectView;
    for (const { id } of view.datasets.slice(0, 4)) {
      const query = `dataset=${encodeURIComponent(id)}`;
      await timed(`${id} drawn`, () => server.get(`/api/projects/${key}/preview?${query}`));
      await timed(`${id} counted`, () => server.get(`/api/projects/${key}/statistics?${query}`));
      await timed(`${id} as rows`, () => server.post(`/api/projects/${key}/rows`, { dataset: id, from: 0, count: 50 }));
      await timed(`${id} as a picture`, () => server.post(`/api/projects/${key}/thumbnails`, { datasets: [id] }));
    }
    await server.ask('DELETE', `/api/projects/${key}`);
    return view;
  };
  await ask('warm');
  const idle = mostMemory();
  for (const name of mains()) {
    const stem = name.replace(/\..*$/, '');
    const folder = `one_${name.replace(/\W/g, '_')}`;
    mkdirSync(at(folder));
    for (const [other, content] of Object.entries(files))
      if (other === name || other.startsWith(`${stem}.`)) writeFileSync(at(folder, other), content);
    await ask(folder);
    const grown = mostMemory() - idle;
    if (grown > LIMIT_KB) faults.push(`${name}: ${Math.round(grown / 1024)} MB`);
    rmSync(at(folder), { recursive: true });
  }
  expect(faults).toEqual([]);
  expect((await ask('warm')).datasets.map((d) => d.state)).toEqual(['ok']);
}, 300_000);

test('a trigger that never ends is ended, its file left as it was, and the next one is worked on', async () => {
  mkdirSync(at('edit'));
  writeFileSync(at('edit', 'bad.gpkg'), files['trigger-endless.gpkg']!);
  writeFileSync(at('edit', 'good.csv'), 'a\n1\n');
  const key = ((await server.post('/api/projects', { place: 'desk', path: 'edit' })).body as { key: string }).key;
  const before = readFileSync(at('edit', 'bad.gpkg'));
  const view = async (): Promise<ProjectView> => (await server.post(`/api/projects/${key}/rescan`)).body as ProjectView;
  const asked = { dataset: (await view()).datasets.find((d) => d.id.endsWith('bad.gpkg#a'))!.id, crs: 'EPSG:4326' };
  const editable = await server.post(`/api/projects/${key}/maps/editable`, asked);
  expect([editable.status, editable.body]).toEqual([200, expect.anything()]);
  const { state, fields } = editable.body as EditableView;
  const added = [{ geometry: { type: 'Point', coordinates: [1, 2] }, values: fields.map(() => 'x') }];
  const edited = await server.post(`/api/projects/${key}/maps/digitised`, {
    ...asked,
    create: null,
    state,
    newFields: [],
    added,
    changed: [],
    removed: [],
  });
  expect(edited.body).toMatchObject({ detail: expect.stringMatching(/busy without end/) });
  expect(edited.status).toBeLessThan(500);
  expect(readFileSync(at('edit', 'bad.gpkg')).equals(before)).toBe(true);
  expect(readdirSync(at('edit')).sort()).toEqual(['bad.gpkg', 'good.csv']);
  expect((await view()).datasets.find((d) => d.id.endsWith('good.csv'))).toMatchObject({
    state: 'ok',
  });
}, 60_000);
