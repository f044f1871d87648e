import { execFileSync } from 'node:child_process';
import { copyFileSync, cpSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type {
  TablesDone,
  EditApplied,
  EditPreview,
  ExportPreview,
  GeodatabasesView,
  ImportPreview,
  JobView,
  ProblemDetails,
  RowsPage,
} from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
let key = '';

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  cpSync('testdata/open/spdata/shapes', at('check', 'shapes'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', desk('check'))).body as { key: string }).key;
});
afterAll(() => server.stop());
const get = async <T>(path: string): Promise<T> => (await server.get(`/api/projects/${key}${path}`)).body as T;
const post = (path: string, body: object) => server.post(`/api/projects/${key}${path}`, body);
const finished = ({ body }: { body: unknown }): Promise<JobView> => server.finished((body as JobView).id);
/** Outside reference: ogrinfo of Debian's gdal-bin. */
const countOf = (file: string, table: string): string =>
  /Feature Count: \d+/.exec(execFileSync('ogrinfo', ['-so', file, table], { stdio: ['ignore', 'pipe', 'ignore'] }).toString())![0];
const edit = (body: object) => ({ kind: 'tables', geodatabase: desk('check/one.gpkg'), ...body });
const applied = async (body: object): Promise<JobView> => {
  const { job } = (await post('/edits', edit(body))).body as EditApplied;
  return finished({ body: job });
};

test('a queue is planned and brought in as a job with receipts', async () => {
  const items = ['columbus', 'baltim'].map((n) => ({ dataset: at('check/shapes', `${n}.shp`) }));
  const request = { into: desk('check/one.gpkg'), items };
  const { body } = await post('/geodatabases/import/plan', request);
  expect((body as ImportPreview).items.map((i) => [i.table, i.why, i.parts])).toEqual([
    ['columbus', null, []],
    ['baltim', null, []],
  ]);
  const job = await finished(await post('/geodatabases/import', request));
  expect(job).toMatchObject({
    state: 'done',
    result: { receipts: [{ written: 49, isEqual: true, isExtentEqual: true }, { written: 211 }] },
  });
  const view = await get<GeodatabasesView>('/geodatabases');
  const own = view.containers.find((c) => c.shownPath === 'one.gpkg')!;
  expect(own.tables.map((t) => [t.name, t.count, t.hasIndex, t.usedBy])).toEqual([
    ['baltim', 211, true, 0],
    ['columbus', 49, true, 0],
  ]);
  expect(own.tables.every((t) => (t.bytes ?? 0) > 4096)).toBe(true);
});

test('a name that is there in other letters is taken: on other systems the two would be one', async () => {
  const make = await post('/geodatabases', { at: desk('check/ONE.gpkg'), crs: null });
  expect([make.status, (make.body as { detail: string }).detail]).toEqual([400, expect.stringContaining('one.gpkg is there')]);
  const items = [{ dataset: at('check/shapes', 'columbus.shp') }];
  expect((await post('/geodatabases/import/plan', { into: desk('check/One.gpkg'), items })).status).toBe(400);
});

test('rows come page by page, and what cannot be asked is told in a sentence', async () => {
  const asked = { dataset: at('check/one.gpkg#columbus'), sort: { field: 'CRIME', isDescending: true }, from: 2, count: 3 };
  const page = (await post('/rows', asked)).body as RowsPage;
  const crime = page.fields.findIndex((f) => f.name === 'CRIME');
  const values = page.rows.map((r) => r.values[crime] as number);
  expect([page.found, page.all, values.length]).toEqual([49, 49, 3]);
  expect(values).toEqual([...values].sort((a, b) => b - a));
  const wrong = await post('/rows', { ...asked, sort: { field: 'nothing', isDescending: true } });
  expect([wrong.status, (wrong.body as ProblemDetails).detail]).toEqual([404, expect.stringContaining('nothing')]);
  expect((await post('/rows', { ...asked, count: 100_000 })).status).toBe(400);
  expect((await post('/rows', { ...asked, dataset: '/etc/passwd' })).status).toBeGreaterThanOrEqual(400);
});

test('a table is renamed as a job, and undone', async () => {
  const plan = (await post('/edits/plan', edit({ action: 'rename', table: 'columbus', name: 'wards' }))).body as EditPreview;
  expect(plan).toMatchObject({ title: 'Rename the table columbus to wards', changes: true });
  expect(plan.stagedBytes).toBeGreaterThan(0);
  const job = await applied({ action: 'rename', table: 'columbus', name: 'wards' });
  expect(job).toMatchObject({ state: 'done', result: { notes: [], change: { kind: 'geodatabase' } } });
  expect(countOf(at('check/one.gpkg'), 'wards')).toBe('Feature Count: 49');
  const { change } = job.result as { change: { id: string } };
  expect((await server.post(`/api/journal/${change.id}/undo`, {})).status).toBeLessThan(300);
  expect(countOf(at('check/one.gpkg'), 'columbus')).toBe('Feature Count: 49');
});

test('members of an action that are not its own are refused, and so is a path out of the place', async () => {
  for (const wrong of [
    { action: 'rename', table: 'a' },
    { action: 'compact', table: 'a' },
    { action: 'melt' },
    { action: 'drop', tables: [] },
  ])
    expect([wrong, (await post('/edits/plan', edit(wrong))).status]).toEqual([wrong, 400]);
  const outside = { ...edit({ action: 'compact' }), geodatabase: desk('../../etc/passwd') };
  expect((await post('/edits/plan', outside)).status).toBeGreaterThanOrEqual(400);
});

test('an export is planned with its losses, written as one change, and refused where files stand', async () => {
  const request = { dataset: at('check/one.gpkg#baltim'), format: 'shapefile', at: desk('check/exports/baltimore.shp') };
  const plan = (await post('/exports/plan', request)).body as ExportPreview;
  expect([plan.why, plan.records]).toEqual([null, 211]);
  const job = await finished(await post('/exports', request));
  expect(job).toMatchObject({ state: 'done', result: { read: 211, written: 211, skipped: [] } });
  expect(
    readdirSync(at('check/exports'))
      .filter((n) => n.startsWith('baltimore'))
      .sort(),
  ).toEqual(expect.arrayContaining(['baltimore.dbf', 'baltimore.shp', 'baltimore.shx']));
  expect(countOf(at('check/exports/baltimore.shp'), 'baltimore')).toBe('Feature Count: 211');
  expect(((await post('/exports/plan', request)).body as ExportPreview).why).toContain('there already');
  expect((await post('/exports', request)).status).toBe(400);
});

test('a damaged one is told, and what can be read is rescued', async () => {
  copyFileSync(at('check/one.gpkg'), at('check/broken.gpkg'));
  const bytes = readFileSync(at('check/broken.gpkg'));
  bytes.fill(0xff, bytes.length - 2 * 4096, bytes.length - 4096);
  writeFileSync(at('check/broken.gpkg'), bytes);
  const rescue = { kind: 'tables', geodatabase: desk('check/broken.gpkg'), action: 'rescue', into: desk('check/rescued.gpkg') };
  const { job } = (await post('/edits', rescue)).body as EditApplied;
  const done = await finished({ body: job });
  expect(done.state).toBe('done');
  expect((done.result as TablesDone).notes).toHaveLength(2);
  expect(existsSync(at('check/rescued.gpkg'))).toBe(true);
  expect(readFileSync(at('check/broken.gpkg')).equals(bytes)).toBe(true);
});
