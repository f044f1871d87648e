import { randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { EMPTY_ORIGIN } from '@rootmap/core';
import type {
  CopiesPreview,
  CrsCandidate,
  EditApplied,
  IntakeView,
  JobView,
  LinkAdvice,
  PreviewView,
  ProjectView,
  SourcesView,
  StarterLink,
  StatisticsView,
  ThumbnailView,
} from '@rootmap/core/contract';
import { writeZip } from '../../engine/test/small-zip.js';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
let key = '';
let base = '';

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  cpSync('testdata/open/shape-types', at('library', 'shapes'), { recursive: true });
  cpSync('testdata/open/shape-types', at('library', 'more'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  base = `http://127.0.0.1:${server.port}`;
  key = ((await server.post('/api/projects', desk('check'))).body as { key: string }).key;
});
afterAll(() => server.stop());
const get = async <T>(path: string): Promise<T> => (await server.get(`/api/projects/${key}${path}`)).body as T;
const upload = async (path: string, bytes: Uint8Array | string, drop: string = randomUUID()) => {
  const response = await fetch(`${base}/api/arrivals?drop=${drop}&path=${encodeURIComponent(path)}&modified=86400000`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream', origin: base },
    body: bytes as never,
  });
  return { status: response.status, body: (await response.json()) as { id: string; detail: string } };
};
const shape = (ending: string): Buffer => readFileSync(`testdata/open/shape-types/point.${ending}`);
const request = (into: string, over: object = {}) => ({
  into: desk(into),
  origin: { ...EMPTY_ORIGIN, publisher: 'P', licence: 'CC0-1.0' },
  ...over,
});

test('an archive is uploaded, looked at, brought in, and its datasets have their origin', async () => {
  const { body } = await upload('buoys.zip', writeZip({ 'buoys.shp': shape('shp'), 'buoys.shx': shape('shx'), 'buoys.dbf': shape('dbf') }));
  const seen = await get<IntakeView>(`/arrivals/${body.id}`);
  expect(seen).toMatchObject({ name: 'buoys.zip', source: null, problem: null, proposed: { fetched: '1970-01-02' } });
  expect(seen.groups).toMatchObject([{ path: 'buoys.shp', geometry: 'Point' }]);
  const job = (await server.post(`/api/projects/${key}/arrivals/${body.id}`, request('check/originals/p/buoys'))).body as JobView;
  expect(await server.finished(job.id)).toMatchObject({ state: 'done', result: { files: 3 } });
  expect(readdirSync(at('check/originals/p/buoys')).sort()).toEqual(['buoys.dbf', 'buoys.shp', 'buoys.shx', 'datapackage.json']);
  const { sources } = await get<SourcesView>('/sources');
  expect(sources.find((s) => s.id === at('check/originals/p/buoys/buoys.shp'))).toMatchObject({
    origin: { publisher: 'P', licence: 'CC0-1.0' },
  });
  expect((await server.get(`/api/projects/${key}/arrivals/${body.id}`)).status).toBe(404); // an upload does not stay once it is in
});

test('an archive that grew since it was looked into is not brought in before it is looked into again', async () => {
  const point = { 'buoys.shp': shape('shp'), 'buoys.shx': shape('shx'), 'buoys.dbf': shape('dbf') };
  writeFileSync(at('grows.zip'), writeZip(point));
  const { id } = (await server.post('/api/arrivals', desk('grows.zip'))).body as { id: string };
  expect((await get<IntakeView>(`/arrivals/${id}`)).files).toBe(3);
  writeFileSync(at('grows.zip'), writeZip({ ...point, 'more.csv': 'x,y\n1,2\n' }));
  const into = request('check/originals/p/grown');
  const refused = await server.post(`/api/projects/${key}/arrivals/${id}`, into);
  expect([refused.status, (refused.body as { detail: string }).detail]).toEqual([
    409,
    expect.stringMatching(/^grows\.zip was changed .* Look at it again/),
  ]);
  expect(existsSync(at('check/originals/p/grown'))).toBe(false);
  expect((await get<IntakeView>(`/arrivals/${id}`)).files).toBe(4);
  const job = (await server.post(`/api/projects/${key}/arrivals/${id}`, into)).body as JobView;
  expect(await server.finished(job.id)).toMatchObject({ state: 'done', result: { files: 4 } });
});

test('an upload that could not be brought in is kept, so that it can be tried again', async () => {
  const bytes = writeZip({ 'a.csv': 'x,y\n1,2\n' });
  bytes.writeUInt32LE(1, bytes.lastIndexOf(Buffer.from('PK\x01\x02', 'latin1')) + 16); // a checksum that is wrong
  const { body } = await upload('wrong.zip', bytes);
  const job = (await server.post(`/api/projects/${key}/arrivals/${body.id}`, request('check/originals'))).body as JobView;
  expect(await server.finished(job.id)).toMatchObject({ state: 'failed', message: expect.stringContaining('checksum') });
  expect((await server.get(`/api/projects/${key}/arrivals/${body.id}`)).status).toBe(200);
  const origin = { datasets: ['/etc/passwd'], origin: EMPTY_ORIGIN };
  expect((await server.post(`/api/projects/${key}/origins`, origin)).status).toBe(404);
});

test('loose files of one drop are one arrival; another drop is another', async () => {
  const drop = randomUUID();
  const first = await upload('s/loose.shp', shape('shp'), drop);
  const second = await upload('s/loose.dbf', shape('dbf'), drop);
  expect(second.body.id).toBe(first.body.id);
  expect((await upload('x.csv', 'a\n')).body.id).not.toBe(first.body.id);
  const seen = await get<IntakeView>(`/arrivals/${first.body.id}`);
  expect(seen.groups.map((g) => [g.path, g.files.length])).toEqual([['s/loose.shp', 2]]);
  expect(seen.groups[0]!.findings.map((f) => f.message).join()).toMatch(/\.shx/);
  expect((await server.ask('DELETE', `/api/arrivals/${first.body.id}`)).status).toBe(204);
});

test.each(['../up.csv', 'a/../../up.csv', '/etc/x.csv', 'C:/x.csv', 'a\\b.csv', '.hidden/x.csv', 'nul', 'a/.b.csv', 'x\u0000.csv'])(
  'hostile: a file called %j is refused',
  async (path) => {
    const { status, body } = await upload(path, 'x');
    expect(status).toBeGreaterThanOrEqual(400);
    expect(status).toBeLessThan(500);
    expect(body.detail).toMatch(/[.]$/);
  },
);

test('hostile: a drop that is no uuid, an arrival that is none, a target outside the places', async () => {
  expect((await upload('x.csv', 'x', '../../x')).status).toBe(400);
  expect((await server.get(`/api/projects/${key}/arrivals/none`)).status).toBe(404);
  const { body } = await upload('x.csv', 'x\n');
  for (const into of ['../out', '/etc', 'check/%2e%2e/%2e%2e/x'])
    expect((await server.post(`/api/projects/${key}/arrivals/${body.id}`, request(into))).status).toBe(403);
  expect((await server.post('/api/arrivals', desk('../x'))).status).toBe(403);
  expect(existsSync(join(server.folder, 'out'))).toBe(false);
});

test('a dataset without a CRS: candidates, one is written, undone', async () => {
  const id = at('check/originals/p/buoys/buoys.shp');
  const candidates = await get<CrsCandidate[]>(`/crs-candidates?dataset=${encodeURIComponent(id)}`);
  expect(candidates.some((c) => c.crs.code === 'EPSG:4326')).toBe(true);
  const dataset = desk('check/originals/p/buoys/buoys.shp');
  const done = (await server.post(`/api/projects/${key}/edits`, { kind: 'assign-crs', dataset, crs: 'EPSG:4326' })).body as EditApplied;
  const crsOf = async (): Promise<string | null> => (await get<ProjectView>('')).datasets.find((d) => d.id === id)!.crs;
  expect(await crsOf()).toBe('EPSG:4326');
  expect((await server.post(`/api/projects/${key}/edits`, { kind: 'assign-crs', dataset, crs: 'EPSG:3857' })).status).toBe(409);
  await server.post(`/api/journal/${done.change!.id}/undo`);
  expect(await crsOf()).toBeNull();
  // One that says what nobody knows can be told otherwise; an undo brings its text back.
  const prj = at('check/originals/p/buoys/buoys.prj');
  const unknown = 'LOCAL_CS["Harbour grid of 1931",UNIT["Meter",1.0]]';
  writeFileSync(prj, unknown);
  const told = (await server.post(`/api/projects/${key}/edits`, { kind: 'assign-crs', dataset, crs: 'EPSG:4326' })).body as EditApplied;
  expect(await crsOf()).toBe('EPSG:4326');
  await server.post(`/api/journal/${told.change!.id}/undo`);
  expect(readFileSync(prj, 'utf8')).toBe(unknown);
  rmSync(prj);
});

test('a dataset is chosen in a place: its companions come along; what is none, and what cannot be done, is said at once', async () => {
  for (const e of ['shp', 'shx', 'dbf']) writeFileSync(at(`lent.${e}`), shape(e));
  writeFileSync(at('note.xyz'), 'x');
  const { id } = (await server.post('/api/arrivals', desk('lent.shp'))).body as { id: string };
  expect((await get<IntakeView>(`/arrivals/${id}`)).groups).toMatchObject([
    { path: 'lent.shp', files: ['lent.shp', 'lent.dbf', 'lent.shx'] },
  ]);
  expect((await server.post('/api/arrivals', desk('note.xyz'))).status).toBe(400);
  const none = await server.post(`/api/projects/${key}/arrivals/${id}`, request('check/originals/lent', { wanted: [] }));
  expect([none.status, (none.body as { detail: string }).detail]).toEqual([400, expect.stringContaining('is chosen')]);
  const job = (await server.post(`/api/projects/${key}/arrivals/${id}`, request('check/originals/lent'))).body as JobView;
  expect(await server.finished(job.id)).toMatchObject({ state: 'done', result: { files: 3 } });
  expect(existsSync(at('lent.shp'))).toBe(true);
});

test('links: advice, linked, replaced by the folder above, unlinked', async () => {
  const edit = (body: object) => server.post(`/api/projects/${key}/edits`, body);
  expect((await edit({ kind: 'link', name: 'shapes', folder: desk('library/shapes') })).status).toBe(200);
  const p = await get<ProjectView>('');
  expect(p.links).toMatchObject([{ name: 'shapes', present: true }]);
  expect(p.datasets.some((d) => d.link === 'shapes')).toBe(true);
  const advice = await get<LinkAdvice>('/link-advice?place=desk&path=library/more');
  expect(advice.parent).toMatchObject({ at: desk('library'), replaces: ['shapes'] });
  expect((await edit({ kind: 'link', name: 'library', folder: desk('library'), replaces: ['shapes'] })).status).toBe(200);
  expect((await get<ProjectView>('')).links.map((l) => l.name)).toEqual(['library']);
  expect((await edit({ kind: 'link', name: 'inner', folder: desk('check/maps') })).status).toBe(400);
  expect((await edit({ kind: 'unlink', name: 'none' })).status).toBe(404);
  rmSync(at('library'), { recursive: true });
  const gone = (await server.post(`/api/projects/${key}/rescan`)).body as ProjectView;
  expect(gone.links[0]).toMatchObject({ present: false, known: { seenMs: expect.any(Number) } });
  expect(gone.links[0]!.known!.datasets.length).toBeGreaterThan(0);
  expect((await edit({ kind: 'unlink', name: 'library' })).status).toBe(200);
});

describe('knowing what is there', () => {
  const id = (): string => at('check/originals/p/buoys/buoys.shp');
  const query = (): string => `dataset=${encodeURIComponent(id())}`;
  test('a preview, its tiles, a thumbnail, what stands in the fields', async () => {
    const view = await get<PreviewView>(`/preview?${query()}`);
    expect(view).toMatchObject({ kind: 'vector', crs: null, count: expect.any(Number) });
    const tile = await fetch(`${base}/api/tiles/${view.version}/0/0/0`);
    expect([tile.status, tile.headers.get('content-type')]).toEqual([200, 'application/vnd.mapbox-vector-tile']);
    expect(tile.headers.get('cache-control')).toContain('immutable');
    const [thumbnail, none] = (await server.post(`/api/projects/${key}/thumbnails`, { datasets: [id(), '/gone.shp'] }))
      .body as ThumbnailView[];
    expect(thumbnail).toMatchObject({ kind: 'point', path: expect.stringMatching(/^M\d/) });
    expect(none).toBeNull();
    expect(await get<StatisticsView>(`/statistics?${query()}`)).toMatchObject({ records: view.count });
  });
  test('hostile: files outside, tiles of nothing, a CRS that is none', async () => {
    for (const path of ['/etc/passwd', at('check/../../x.shp'), `${at('check')}/../secret.shp`])
      expect((await server.get(`/api/projects/${key}/preview?dataset=${encodeURIComponent(path)}`)).status).toBe(404);
    expect((await server.get(`/api/tiles/${'0'.repeat(32)}/0/0/0`)).status).toBe(404);
    expect((await server.get('/api/tiles/..%2f..%2fetc/0/0/0')).status).toBe(400);
    expect((await server.get(`/api/projects/${key}/preview?${query()}&crs=EPSG:x`)).status).toBe(400);
  });
  test('copies in a CRS: planned, left out with the reason, written as one change that is undone', async () => {
    const table = { 'p.csv': 'lon,lat,name\n-39.5,44.2,A\n-39.4,44.3,B\n', 't.csv': 'a,b\nx,y\n' };
    for (const [name, text] of Object.entries(table)) writeFileSync(at('check', name), text);
    const body = { datasets: [at('check/p.csv'), at('check/t.csv'), id()], crs: 'EPSG:32624', into: desk('check/copies') };
    const plan = (await server.post(`/api/projects/${key}/copies/plan`, body)).body as CopiesPreview;
    expect(plan.copies).toMatchObject([{ name: 'p_32624.gpkg', from: 'EPSG:4326', doubt: null, records: 2 }]);
    expect(plan.left.map((l) => l.why)).toEqual(['it has no shapes', 'nobody knows which CRS it is in']);
    const job = (await server.post(`/api/projects/${key}/copies`, body)).body as JobView;
    expect(await server.finished(job.id)).toMatchObject({
      state: 'done',
      result: { copies: [{ name: 'p_32624.gpkg', read: 2, written: 2, skipped: [] }] },
    });
    expect(readdirSync(at('check/copies'))).toEqual(['p_32624.gpkg']);
    const [change] = (await server.get('/api/journal')).body as { id: string; title: string }[];
    expect(change!.title).toBe('Copy p_32624 in EPSG:32624');
    expect((await server.post(`/api/journal/${change!.id}/undo`, {})).status).toBeLessThan(300);
    expect(existsSync(at('check/copies'))).toBe(false);
  });
  test('a folder that projects link is offered to a new one, whose geodatabase is made', async () => {
    const links = (await server.get('/api/starter-links')).body as StarterLink[];
    expect(Array.isArray(links)).toBe(true);
    const made = await server.post('/api/new-project', {
      at: desk('fresh'),
      title: 'Fresh',
      folders: [{ path: 'geodatabases', role: 'geodatabases', note: '' }],
      crs: 'EPSG:32624',
      withGeodatabase: true,
      links: [{ name: 'check', at: desk('check') }],
    });
    expect(made.status).toBeLessThan(300);
    const project = JSON.parse(readFileSync(at('fresh/fresh.rootmap.json'), 'utf8')) as { links: unknown[]; workingGeodatabase: string };
    expect(project).toMatchObject({ workingGeodatabase: 'geodatabases/fresh.gpkg', links: [{ name: 'check', path: '../check' }] });
    expect(readFileSync(at('fresh/geodatabases/fresh.gpkg')).toString('latin1', 0, 15)).toBe('SQLite format 3');
    expect(((await server.get('/api/starter-links')).body as StarterLink[]).map((l) => [l.name, l.projects])).toEqual([['check', 1]]);
  });
});
