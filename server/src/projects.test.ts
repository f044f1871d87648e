import { cpSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { SEND_ALL } from '@rootmap/core';
import { join } from '@rootmap/engine';
import type {
  ArrivedView,
  AppliedView,
  ChangeView,
  JobView,
  MendAnswer,
  MendProjectView,
  ProjectView,
  TrashedView,
  UndoneView,
  UndoPreview,
} from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
let key = '';

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  renameSync(at('check', 'working'), at('check', 'moved'));
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', { place: 'desk', path: 'check/maps' })).body as { key: string }).key;
});
afterAll(() => server.stop());
const view = async (): Promise<ProjectView> => (await server.get(`/api/projects/${key}`)).body as ProjectView;

test('a folder below the root opens the project around it', async () => {
  const p = await view();
  expect(p).toMatchObject({ title: 'Check', shownRoot: 'D:/check', totals: { sound: 6, adrift: 3 } });
  expect((await server.get('/api/projects')).body).toMatchObject([{ key, watched: 'watched' }]);
  expect(p.datasets).toHaveLength(8);
});

test('explained, mended, undone; the journal has both', async () => {
  const map = at('check', 'maps', 'map_01.owc.json');
  const before = readFileSync(map, 'utf8');
  const mend = (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;
  expect(mend.shifts).toHaveLength(1);
  expect(mend.shifts[0]).toMatchObject({ from: 'working', to: 'moved', maps: 2 });
  const choices = mend.layers.filter((l) => l.verdict === 'certain').map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  expect(choices).toHaveLength(3);
  const applied = (await server.post(`/api/projects/${key}/mend/apply`, { choices })).body as AppliedView;
  expect(applied).toMatchObject({ applied: 3, left: 0, change: { title: 'Mend 3 layers in 2 maps', state: 'done' } });
  expect((await view()).totals.sound).toBe(9);
  const undone = await server.post(`/api/journal/${applied.change!.id}/undo`);
  expect(undone.body).toMatchObject({ kept: [] });
  expect(readFileSync(map, 'utf8')).toBe(before);
  const journal = (await server.get('/api/journal')).body as ChangeView[];
  expect(journal.map((c) => [c.kind, c.state])).toEqual([
    ['undo', 'done'],
    ['mend', 'undone'],
  ]);
  expect((await server.post(`/api/journal/${applied.change!.id}/undo`)).status).toBe(409);
});

test('what was accepted is evidence for later until it is undone; what was turned down is not offered again until it is forgiven', async () => {
  const explain = async (): Promise<MendProjectView> => (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;
  const ACCEPTED = 'It moved as you accepted for other layers before.';
  const first = (await explain()).layers[0]!;
  const [other] = (await explain()).layers.slice(1);
  const applied = (await server.post(`/api/projects/${key}/mend/apply`, { choices: [{ key: first.key, path: first.candidates[0]!.path }] }))
    .body as AppliedView;
  const evidence = async (): Promise<readonly string[]> =>
    (await explain()).layers.find((l) => l.key === other!.key)!.candidates[0]!.evidence;
  expect(await evidence()).toContain(ACCEPTED);
  await server.post(`/api/journal/${applied.change!.id}/undo`);
  expect(await evidence()).not.toContain(ACCEPTED);

  const { path } = first.candidates[0]!;
  expect((await server.post(`/api/projects/${key}/mend/reject`, { key: first.key, path })).status).toBe(204);
  const paths = async (): Promise<string[]> => (await explain()).layers.find((l) => l.key === first.key)!.candidates.map((c) => c.path);
  expect(await paths()).not.toContain(path);
  expect((await server.post(`/api/projects/${key}/mend/reject`, { key: first.key, path: '/nowhere' })).status).toBe(404);
  expect((await server.post(`/api/projects/${key}/mend/forgive`, { keys: [first.key] })).body).toEqual({ forgiven: 1 });
  expect(await paths()).toContain(path);
});

test('pointing at a folder mends what the same shift explains', async () => {
  const { layers } = (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;
  const fairway = layers.find((l) => l.title === 'fairway_006')!;
  const pointed = await server.post(`/api/projects/${key}/mend/point`, {
    key: fairway.key,
    target: { place: 'desk', path: 'check/moved' },
  });
  expect((pointed.body as { mends: { title: string }[] }).mends.map((m) => m.title).sort()).toEqual([
    'fairway_006',
    'quay_002',
    'quay_002',
  ]);
  const nothing = await server.post(`/api/projects/${key}/mend/point`, { key: fairway.key, target: { place: 'desk', path: 'check/maps' } });
  expect(nothing.status).toBe(400);
});

test('a map changed meanwhile is not overwritten', async () => {
  const mend = (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;
  const choices = mend.layers.map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  writeFileSync(
    at('check', 'maps', 'map_01.owc.json'),
    readFileSync(at('check', 'maps', 'map_01.owc.json'), 'utf8').replace('Map 1', 'Map one'),
  );
  // Planned afresh from what is there now: the other window's edit stays, and the mend is made on top of it.
  expect((await server.post(`/api/projects/${key}/mend/apply`, { choices })).status).toBe(200);
  expect(readFileSync(at('check', 'maps', 'map_01.owc.json'), 'utf8')).toContain('Map one');
});

test('a damaged map is told by line and column, the others go on; live update sees its mending', async () => {
  writeFileSync(at('check', 'maps', 'bad.owc.json'), '{\n "type": "FeatureCollection",,\n}');
  const wait = async (done: (p: ProjectView) => boolean): Promise<ProjectView> => {
    for (let i = 0; i < 40; i++) {
      const p = await view();
      if (done(p)) return p;
      await new Promise((r) => setTimeout(r, 100));
    }
    throw new Error('the change on disk was not noticed');
  };
  const p = await wait((v) => v.damaged.length === 1);
  expect(p.damaged[0]!.message).toMatch(/line 2, column 30/);
  expect(p.maps).toHaveLength(3);
  renameSync(at('check', 'maps', 'bad.owc.json'), at('bad.txt'));
  await wait((v) => v.damaged.length === 0);
});

test('a bundle is made and received as jobs', async () => {
  const pack = (
    await server.post(`/api/projects/${key}/bundle`, {
      out: { place: 'desk', path: 'out.zip' },
      asFolder: false,
      send: { ...SEND_ALL, added: [] },
    })
  ).body as JobView;
  expect(await server.finished(pack.id)).toMatchObject({ state: 'done', result: { payload: { files: 44 } } });
  const receive = (
    await server.post('/api/receive', { bundle: { place: 'desk', path: 'out.zip' }, into: { place: 'desk', path: 'arrived/check' } })
  ).body as JobView;
  const job = await server.finished(receive.id);
  expect(job).toMatchObject({ state: 'done', result: { findings: [] } });
  expect((job.result as ArrivedView).layers.every((l) => l.state === 'sound')).toBe(true);
  const again = await server.post('/api/receive', {
    bundle: { place: 'desk', path: 'out.zip' },
    into: { place: 'desk', path: 'arrived/check' },
  });
  expect(again).toMatchObject({ status: 409, body: { code: 'exists' } });
  const copies = (await server.get('/api/projects')).body as { isCopy: boolean }[];
  expect(copies.filter((c) => c.isCopy)).toHaveLength(2);
});

test('a place that vanishes is told, and comes back', async () => {
  renameSync(at(), `${at()}_gone`);
  expect((await server.get(`/api/projects/${key}`)).status).toBe(409);
  expect((await server.get('/api/places')).body).toMatchObject([{ present: false }]);
  renameSync(`${at()}_gone`, at());
  expect((await server.post(`/api/projects/${key}/rescan`)).status).toBe(200);
});

test('OpenAPI describes every operation, bodies by the schemas that check them', async () => {
  const docs = (await server.ask('GET', '/api/docs', { headers: { accept: 'application/json' } })).body as {
    openapi: string;
    paths: Record<string, Record<string, { requestBody?: { content: Record<string, { schema: { properties?: object } }> } }>>;
  };
  expect(docs.openapi).toMatch(/^3\./);
  expect(Object.keys(docs.paths).length).toBeGreaterThan(15);
  expect(docs.paths['/api/projects/{key}/mend/apply']!['post']!.requestBody!.content['application/json']!.schema).toMatchObject({
    properties: { choices: expect.anything() },
  });
});

test('layers by the thousand come in pages, each of them once; a page that is not kept is told in a sentence', async () => {
  const features = Array.from({ length: 2000 }, (_, i) => ({
    type: 'Feature',
    id: `layer ${i}`,
    properties: {
      title: `Layer ${i}`,
      offerings: [{ code: 'urn:x-rootmap:offering:shapefile', contents: [{ type: 'application/x-shapefile', href: `gone/${i}.shp` }] }],
    },
  }));
  mkdirSync(at('wide'));
  writeFileSync(
    at('wide', 'all.owc.json'),
    JSON.stringify({ type: 'FeatureCollection', id: 'urn:x:wide', properties: { title: 'All' }, features }),
  );
  const wide = ((await server.post('/api/projects', { place: 'desk', path: 'wide' })).body as { key: string }).key;
  const answer = (await server.post(`/api/projects/${wide}/mend/explain`, { reach: 'near' })).body as MendAnswer;
  expect(answer.layers.length).toBeLessThan(1000);
  const pages: MendProjectView['layers'][] = [];
  for (const id of answer.more) pages.push((await server.get(`/api/projects/${wide}/mend/pages/${id}`)).body as MendProjectView['layers']);
  expect([answer.layers, ...pages].flat().map((l) => l.layer)).toEqual(features.map((f) => f.id));
  const unknown = await server.get(`/api/projects/${wide}/mend/pages/${answer.more[0]!}0`);
  expect(unknown).toMatchObject({ status: 404, body: { code: 'not-found' } });
});

test('an undo is shown first: what comes back, which layers are lost, what goes along; done again from the journal', async () => {
  cpSync('testdata/open/example_project', at('again'), { recursive: true });
  renameSync(at('again', 'working'), at('again', 'moved'));
  const key = ((await server.post('/api/projects', { place: 'desk', path: 'again' })).body as { key: string }).key;
  const maps = (): string => readFileSync(at('again', 'maps', 'map_01.owc.json'), 'utf8');
  const { layers } = (await server.post(`/api/projects/${key}/mend/explain`)).body as MendProjectView;
  const choices = layers.filter((l) => l.verdict === 'certain').map((l) => ({ key: l.key, path: l.candidates[0]!.path }));
  const before = maps();
  const mended = ((await server.post(`/api/projects/${key}/mend/apply`, { choices })).body as AppliedView).change!;
  const after = maps();
  await server.post(`/api/projects/${key}/paths`, { store: 'absolute', apply: true });
  const stored = maps();
  const preview = (await server.get(`/api/journal/${mended.id}/undo`)).body as UndoPreview;
  expect(preview).toMatchObject({
    title: 'Undo: Mend 3 layers in 2 maps',
    isRedo: false,
    kept: [],
    along: [{ title: expect.stringContaining('absolutely') }],
  });
  expect(preview.lost).toHaveLength(3);
  const refused = await server.post(`/api/journal/${mended.id}/undo`);
  expect(refused).toMatchObject({ status: 409, body: { code: 'cannot-undo' } });
  expect([maps(), stored === after]).toEqual([stored, false]);
  const undone = (await server.post(`/api/journal/${mended.id}/undo`, { along: true, shown: preview.digest })).body as UndoneView;
  expect(undone).toMatchObject({ changes: 2, kept: [], isRedo: false });
  expect(maps()).toBe(before);
  const listed = (await server.get(`/api/journal?kind=mend&project=${key}&text=MAP_01`)).body as ChangeView[];
  expect(listed.map((c) => c.kind)).toEqual(listed.map(() => 'mend'));
  const row = listed.find((c) => c.id === mended.id)!;
  expect(row).toMatchObject({ state: 'undone', canUndo: false, redo: expect.any(String) });
  expect((await server.post(`/api/journal/${row.redo!}/undo`)).body).toMatchObject({ isRedo: true, changes: 1 });
  expect(maps()).toBe(after);
  expect((await server.get(`/api/journal/${mended.id}/files`)).body).toMatchObject({
    count: 2,
    files: [{ did: 'written' }, { did: 'written' }],
  });
  expect((await server.get('/api/journal?text=nothing%20like%20that')).body).toEqual([]);
});

test('an undo also tells of layers of other projects that would lose their data', async () => {
  cpSync('testdata/open/example_project', at('other'), { recursive: true });
  const file = at('other', 'check.rootmap.json');
  writeFileSync(file, JSON.stringify({ ...(JSON.parse(readFileSync(file, 'utf8')) as object), id: 'urn:x:other', title: 'The other one' }));
  await server.post('/api/projects', { place: 'desk', path: 'other' });
  cpSync('testdata/open/example_project', at('lender'), { recursive: true });
  const key = ((await server.post('/api/projects', { place: 'desk', path: 'lender' })).body as { key: string }).key;
  const [from, to] = ['working/fairway_006.shp', 'results/lent.shp'].map((path) => ({ place: 'desk', path: `lender/${path}` }));
  const { change } = (await server.post(`/api/projects/${key}/edits`, { kind: 'copy', from, to })).body as AppliedView;
  const map = at('other', 'maps', 'map_01.owc.json');
  const text = readFileSync(map, 'utf8');
  const [href] = /[^"]*fairway_006\.shp/.exec(text)!;
  writeFileSync(map, text.replaceAll(href, '../../lender/results/lent.shp'));
  const { lost } = (await server.get(`/api/journal/${change!.id}/undo`)).body as UndoPreview;
  expect(lost).toEqual([{ map: expect.any(String), layer: expect.any(String), project: 'The other one' }]);
});

test('the trash is listed by what put it there, and what is deleted is brought back', async () => {
  writeFileSync(at('check', 'notes.txt'), 'kept');
  const paths = [{ place: 'desk', path: 'check/notes.txt' }];
  const { change } = (await server.post(`/api/projects/${key}/edits`, { kind: 'trash', paths })).body as AppliedView;
  const trashed = async () => (await server.get(`/api/projects/${key}/trash`)).body as TrashedView[];
  const [first] = await trashed();
  expect(first).toMatchObject({ id: change!.id, restore: change!.id, paths: ['D:/check/notes.txt'], count: 1, bytes: 4 });
  expect((await server.post(`/api/journal/${change!.id}/undo`)).status).toBe(200);
  expect(readFileSync(at('check', 'notes.txt'), 'utf8')).toBe('kept');
  expect((await trashed()).filter((t) => t.id === change!.id)).toEqual([]);
});

test('the list tells when each project was changed last, and not when another was', async () => {
  mkdirSync(at('untouched'));
  await server.post('/api/projects', { place: 'desk', path: 'untouched' });
  const before = Date.now();
  const edit = { kind: 'folders', folders: [{ path: 'drafts', role: 'working' }] };
  expect((await server.post(`/api/projects/${key}/edits`, edit)).status).toBe(200);
  const list = (await server.get('/api/projects')).body as { key: string; path: string; changedMs: number | null }[];
  const changed = list.find((p) => p.key === key)!.changedMs!;
  expect(changed).toBeGreaterThanOrEqual(before);
  expect(changed).toBeLessThanOrEqual(Date.now());
  expect(list.find((p) => p.path === 'untouched')!.changedMs).toBeNull();
});
