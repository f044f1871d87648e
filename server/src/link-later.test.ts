import { cpSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync, symlinkSync, unlinkSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { SEND_ALL, writeMapFile, writeProjectFile } from '@rootmap/core';
import type { FolderView, PlaceView } from '@rootmap/core/contract';
import { writeZip } from '../../engine/test/small-zip.js';
import { TestServer } from '../test/start-server.js';

// CWE-59: what was a folder, a map or an archive when it was opened is a link when it is used.
const server = new TestServer();
const SECRET = 'secret_outside';
const place = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const outside = (...parts: string[]): string => join(server.folder, 'outside', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
const mapText = (title: string): string =>
  writeMapFile({ id: 'm', title, updated: '2026-01-01T00:00:00Z', crs: null, storedForm: 'relative', layers: [] });
const project = (id: string): string =>
  writeProjectFile({ id, name: id, title: id, created: '2026-01-01T00:00:00Z', crs: null, folders: {} });

beforeAll(async () => {
  for (const folder of [place('root/maps'), place('lone'), outside('maps')]) mkdirSync(folder, { recursive: true });
  writeFileSync(place('root/root.rootmap.json'), project('root'));
  writeFileSync(place('root/maps/m.owc.json'), mapText('inside'));
  writeFileSync(outside('root.rootmap.json'), project('root'));
  for (const path of ['maps/m.owc.json', 'm.owc.json']) writeFileSync(outside(path), mapText(SECRET));
  writeFileSync(outside('t.csv'), `name\n${SECRET}\n`);
  writeFileSync(outside('in.zip'), writeZip({ [`${SECRET}.csv`]: 'a\n1\n' }));
  writeFileSync(place('lone/l.owc.json'), mapText('alone'));
  writeFileSync(place('in.zip'), writeZip({ 'a.csv': 'a\n1\n' }));
  cpSync('testdata/open/shape-types/point.shp', outside('p.shp'));
  await server.start();
  await server.post('/api/places', { name: 'desk', folder: place(), driveNames: [] });
  await server.ask('DELETE', '/api/places/home');
});
afterAll(() => server.stop());

const walk = (folder = outside()): string[] =>
  readdirSync(folder)
    .sort()
    .flatMap((name) => {
      const path = join(folder, name);
      return statSync(path).isDirectory() ? [path, ...walk(path)] : [`${path} ${readFileSync(path, 'latin1')}`];
    });
const EDITOR = '00000000-0000-4000-8000-000000000000';
/** Everything that reads or writes in a project, once. */
const all = (key: string) => [
  () => server.post(`/api/projects/${key}/rescan`),
  () => server.get(`/api/projects/${key}/folders`),
  () => server.get(`/api/projects/${key}/maps/doc?path=maps/m.owc.json&editor=${EDITOR}`),
  () => server.post(`/api/projects/${key}/maps`, { title: 'New' }),
  () => server.post(`/api/projects/${key}/edits`, { kind: 'folders', folders: [{ path: 'made', role: 'working' }] }),
  () => server.post(`/api/projects/${key}/edits`, { kind: 'stored-form', form: 'absolute' }),
  () => server.post(`/api/projects/${key}/edits`, { kind: 'working-geodatabase', at: desk('root/new.gpkg') }),
  () => server.post(`/api/projects/${key}/edits`, { kind: 'trash', paths: [desk('root/maps')] }),
  () => server.post(`/api/projects/${key}/geodatabases`, { at: desk('root/g.gpkg'), crs: null }),
  () => server.post(`/api/projects/${key}/remember`),
  () => server.post(`/api/projects/${key}/bundle`, { out: desk('out.zip'), asFolder: false, send: { ...SEND_ALL, added: [] } }),
];
async function refusedAll(key: string): Promise<void> {
  const before = walk();
  for (const [i, ask] of all(key).entries()) {
    const { status, body } = await ask();
    expect([i, status < 500, JSON.stringify(body)]).toEqual([i, true, expect.not.stringContaining(SECRET)]);
    const job = (body as { id?: string; kind?: string }).kind ? (body as { id: string }).id : null;
    if (job) expect((await server.finished(job)).state).toBe('failed');
  }
  expect(walk()).toEqual(before);
}

test('a root that is replaced by a link', async () => {
  const { key } = (await server.post('/api/projects', desk('root'))).body as { key: string };
  expect((await server.get(`/api/projects/${key}`)).status).toBe(200);
  renameSync(place('root'), place('was'));
  symlinkSync(outside(), place('root'));
  await refusedAll(key);
  unlinkSync(place('root'));
  renameSync(place('was'), place('root'));
});

test('a folder in a project that is replaced by a link', async () => {
  const { key } = (await server.post('/api/projects', desk('root'))).body as { key: string };
  renameSync(place('root/maps'), place('maps-was'));
  symlinkSync(outside('maps'), place('root/maps'));
  const before = walk();
  for (const ask of all(key).slice(0, 4)) expect(JSON.stringify((await ask()).body)).not.toContain(SECRET);
  expect(walk()).toEqual(before);
  unlinkSync(place('root/maps'));
  renameSync(place('maps-was'), place('root/maps'));
});

test('a map by itself, and an archive, that are replaced by links', async () => {
  const { key } = (await server.post('/api/lone-maps', desk('lone/l.owc.json'))).body as { key: string };
  const { id } = (await server.post('/api/arrivals', desk('in.zip'))).body as { id: string };
  for (const [path, to] of [
    ['lone/l.owc.json', 'm.owc.json'],
    ['in.zip', 'in.zip'],
  ] as const) {
    unlinkSync(place(path));
    symlinkSync(outside(to), place(path));
  }
  const own = (await server.post('/api/projects', desk('root'))).body as { key: string };
  const before = walk();
  for (const answer of [
    await server.post(`/api/projects/${key}/mend/explain`, { search: [], reach: 'near' }),
    await server.post('/api/lone-maps', desk('lone/l.owc.json')),
    await server.get(`/api/projects/${own.key}/arrivals/${id}`),
  ])
    expect(JSON.stringify(answer.body)).not.toContain(SECRET);
  expect(walk()).toEqual(before);
});

test('a dataset called ...shp is refused, and nothing stands above the place', async () => {
  const { key } = (await server.post('/api/projects', desk('root'))).body as { key: string };
  const before = readdirSync(server.folder).sort();
  for (const [format, path] of [
    ['shapefile', '...shp'],
    ['geojson', '...geojson'],
    ['shapefile', 'root/...shp'],
  ]) {
    const create = { format, at: desk(path!), table: '', kind: 'Point', fields: [] };
    const added = [{ geometry: { type: 'Point', coordinates: [1, 2] }, values: [] }];
    const answer = await server.post(`/api/projects/${key}/maps/digitised`, { dataset: null, create, crs: 'EPSG:4326', added });
    expect([path, answer.status]).toEqual([path, 400]);
    expect(answer.body).toMatchObject({ detail: expect.stringMatching(/cannot be a name/) });
  }
  expect(readdirSync(server.folder).sort()).toEqual(before);
});

test('a place that is pointed elsewhere: what was opened below it is neither read nor written', async () => {
  const { key } = (await server.post('/api/projects', desk('root'))).body as { key: string };
  await server.ask('DELETE', '/api/places/desk');
  mkdirSync(join(server.folder, 'elsewhere'));
  const places = (await server.post('/api/places', { name: 'desk', folder: join(server.folder, 'elsewhere'), driveNames: [] }))
    .body as PlaceView[];
  expect(places.map((p) => p.name)).toEqual(['desk']);
  const before = walk(place());
  for (const ask of all(key)) expect((await ask()).status).toBeGreaterThanOrEqual(400);
  expect(walk(place())).toEqual(before);
  expect(((await server.get('/api/folder?place=desk&path=')).body as FolderView).isEmpty).toBe(true);
});
