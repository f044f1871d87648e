import { cpSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type { AppliedView, LoneMapView, MendProjectView, ReplacementView, StrayMapsView } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const NAME = 'alone.owc.json';
const layer = (id: string, href: string, ours: object = {}) => ({
  type: 'Feature',
  id,
  properties: {
    title: id,
    offerings: [{ code: 'urn:x-rootmap:offering:shapefile', contents: [{ type: 'application/x-shapefile', href }] }],
    rootmap: ours,
  },
});
const text = JSON.stringify({
  type: 'FeatureCollection',
  properties: { title: 'Alone' },
  features: [
    layer('columbus', 'data/columbus.shp', { label: '{NEIG}' }),
    layer('baltim', 'data/baltim.shp'),
    layer('eire', 'data/eire.shp'),
  ],
});

beforeAll(async () => {
  mkdirSync(at('mail', 'data'), { recursive: true });
  for (const name of ['columbus', 'baltim', 'eire', 'wheat'])
    for (const e of ['shp', 'shx', 'dbf']) cpSync(`testdata/open/spdata/shapes/${name}.${e}`, at('mail', 'data', `${name}.${e}`));
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  writeFileSync(at('mail', NAME), text);
  renameSync(at('mail', 'data'), at('mail', 'data of March'));
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
});
afterAll(() => server.stop());

const open = async (): Promise<LoneMapView> =>
  (await server.post('/api/lone-maps', { place: 'desk', path: `mail/${NAME}` })).body as LoneMapView;
const explain = async (key: string): Promise<MendProjectView> =>
  (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;

test('maps in no project are told, with what is broken in them; those of a project are not', async () => {
  const { maps, isStopped } = (await server.get('/api/lone-maps')).body as StrayMapsView;
  expect(isStopped).toBe(false);
  expect(maps).toEqual([{ at: { place: 'desk', path: `mail/${NAME}` }, title: 'Alone', layers: 3, broken: 3, damaged: null }]);
});

test('a map by itself is explained and mended by its key; an undo puts its bytes back', async () => {
  const { key, title, layers } = await open();
  expect([title, layers]).toEqual(['Alone', 3]);
  const { layers: broken, searched } = await explain(key);
  expect(searched.isWider).toBe(false);
  const choices = broken.map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  const done = (await server.post(`/api/projects/${key}/mend/apply`, { choices })).body as AppliedView;
  expect(done).toMatchObject({ applied: 3, left: 0 });
  expect(readFileSync(at('mail', NAME), 'utf8')).toBe(text.replaceAll('"data/', '"data%20of%20March/'));
  await server.post(`/api/journal/${done.change!.id}/undo`);
  expect(readFileSync(at('mail', NAME), 'utf8')).toBe(text);
});

test('a lost index of its data is made anew', async () => {
  const { key } = await open();
  const choices = (await explain(key)).layers.map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  const mended = (await server.post(`/api/projects/${key}/mend/apply`, { choices })).body as AppliedView;
  const index = at('mail', 'data of March', 'eire.shx');
  const before = readFileSync(index);
  rmSync(index);
  const [layer] = (await explain(key)).layers;
  expect(layer).toMatchObject({ title: 'eire', indexLost: { place: 'desk', path: 'mail/data of March/eire.shp' } });
  const edit = await server.post(`/api/projects/${key}/edits`, { kind: 'rebuild-index', dataset: layer!.indexLost });
  expect(edit.status).toBe(200);
  expect(readFileSync(index)).toEqual(before);
  await server.post(`/api/journal/${mended.change!.id}/undo`);
  expect(readFileSync(at('mail', NAME), 'utf8')).toBe(text);
});

test('what is near first: wider is told and not looked at until it is asked for', async () => {
  const { key } = await open();
  renameSync(at('mail', 'data of March', 'eire.shp'), at('mail', 'data of March', 'eire.txt'));
  const near = (await server.post(`/api/projects/${key}/mend/explain`, { reach: 'near' })).body as MendProjectView;
  expect(near.searched).toMatchObject({ isWider: true });
  expect(near.searched.folders).toEqual([at('mail')]);
  const wide = await explain(key);
  expect(wide.searched).toMatchObject({ isWider: false, folders: [at()] });
  expect(wide.searched.datasets).toBeGreaterThan(near.searched.datasets);
  renameSync(at('mail', 'data of March', 'eire.txt'), at('mail', 'data of March', 'eire.shp'));
});

test('other data on purpose: asked, then written', async () => {
  const { key } = await open();
  const layerKey = (await explain(key)).layers[0]!.key;
  const target = { place: 'desk', path: 'mail/data of March/wheat.shp' };
  const view = (await server.post(`/api/projects/${key}/mend/replacement`, { key: layerKey, target })).body as ReplacementView;
  expect(view.needs).toEqual([{ field: 'NEIG', type: null, uses: ['label'], proposed: null }]);
  const refused = await server.post(`/api/projects/${key}/mend/replace`, { layers: [layerKey], target, fields: {} });
  expect([refused.status, (refused.body as { detail: string }).detail]).toEqual([400, expect.stringMatching(/uses the field NEIG/)]);
  const fields = { NEIG: view.fields[0]!.name };
  const done = (await server.post(`/api/projects/${key}/mend/replace`, { layers: [layerKey], target, fields })).body as AppliedView;
  expect(done.change!.title).toBe('Use wheat.shp instead in 1 layer');
  await server.post(`/api/journal/${done.change!.id}/undo`);
  expect(readFileSync(at('mail', NAME), 'utf8')).toBe(text);
});

test('a dropped file is found where it lies, or kept where the person says, never over another', async () => {
  const find = async (body: object) => (await server.post('/api/lone-maps/find', body)).body;
  expect(await find({ name: NAME, text })).toEqual([{ place: 'desk', path: `mail/${NAME}` }]);
  expect(await find({ name: 'other.owc.json', text })).toEqual([]);
  const kept = await server.post('/api/lone-maps/keep', { name: 'other.owc.json', text, folder: { place: 'desk', path: 'mail' } });
  expect(kept.body).toMatchObject({ title: 'Alone', at: { place: 'desk', path: 'mail/other.owc.json' } });
  expect(readFileSync(at('mail', 'other.owc.json'), 'utf8')).toBe(text);
  const again = await server.post('/api/lone-maps/keep', {
    name: 'other.owc.json',
    text: `${text} `,
    folder: { place: 'desk', path: 'mail' },
  });
  expect(again.status).toBeGreaterThanOrEqual(400);
  expect(readFileSync(at('mail', 'other.owc.json'), 'utf8')).toBe(text);
  rmSync(at('mail', 'other.owc.json'));
});

test.each([
  ['a name with a folder', '/api/lone-maps/keep', { name: '../x.owc.json', text, folder: { place: 'desk', path: 'mail' } }],
  ['no map', '/api/lone-maps/find', { name: NAME, text: '{"type":"Feature"}' }],
  ['a file that is no map', '/api/lone-maps', { place: 'desk', path: 'mail/data of March/eire.shp' }],
  ['outside of the places', '/api/lone-maps', { place: 'desk', path: '../../etc/a.owc.json' }],
])('%s is refused with a sentence', async (_, path, body) => {
  const { status, body: told } = await server.post(path, body);
  expect(status).toBeGreaterThanOrEqual(400);
  expect(status).toBeLessThan(500);
  expect((told as { detail: string }).detail).not.toMatch(/\n\s+at /);
  expect(existsSync(at('..', 'x.owc.json'))).toBe(false);
});

test('a map that was edited between plan and apply is told, and nothing is written over', async () => {
  const { key } = await open();
  const { layers } = await explain(key);
  const edited = text.replace('data/columbus', 'elsewhere/columbus');
  writeFileSync(at('mail', NAME), edited);
  const choices = layers.map((l) => ({ key: l.key, path: l.candidates[0]!.path, before: l.before.href }));
  const told = await server.post(`/api/projects/${key}/mend/apply`, { choices });
  expect([told.status, (told.body as { detail: string }).detail]).toEqual([409, expect.stringMatching(/changed by someone else/)]);
  expect(readFileSync(at('mail', NAME), 'utf8')).toBe(edited);
  writeFileSync(at('mail', NAME), text);
});

test('one more name for a place: its addresses are sound then, a second place by that name is refused', async () => {
  expect((await server.post('/api/places/desk/drive-names', { driveName: 'Q:' })).body).toEqual({ isKept: false });
  expect((await server.post('/api/places/desk/drive-names', { driveName: 'q:' })).status).toBe(409);
  expect((await server.post('/api/places/desk/drive-names', { driveName: 'no drive' })).status).toBe(400);
  expect((await server.get('/api/places')).body).toMatchObject([{ name: 'desk', driveNames: ['D:', 'Q:'] }]);
});
