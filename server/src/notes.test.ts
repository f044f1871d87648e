import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { SEND_ALL } from '@rootmap/core';
import { join } from '@rootmap/engine';
import type { JobView, KeptReviewTemplate, NotesView, NoteView, QualitySheetView, QualityView, SourcesView } from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
let key = '';
const of = (path: string): string => `/api/projects/${key}${path}`;
const get = async <T>(path: string): Promise<T> => (await server.get(of(path))).body as T;
const q = encodeURIComponent;

const square = (x: number, kind: string) => ({
  type: 'Feature',
  properties: { kind },
  geometry: {
    type: 'Polygon',
    coordinates: [
      [
        [x, 0],
        [x + 1, 0],
        [x + 1, 1],
        [x, 1],
        [x, 0],
      ],
    ],
  },
});
const collection = (features: readonly object[]): string => JSON.stringify({ type: 'FeatureCollection', features });

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  mkdirSync(at('check/received/new'), { recursive: true });
  writeFileSync(at('check/received/readme.txt'), 'All of it is under CC BY 4.0.');
  writeFileSync(at('check/received/new/terms.html'), '<h1>Terms</h1><p>Units: feet. No warranty.</p><script>x</script>');
  writeFileSync(at('check/received/new/cells.geojson'), collection([square(0, 'a'), square(2, 'b'), square(40, '<i>')]));
  writeFileSync(at('check/received/new/area.geojson'), collection([square(-1, 'area'), square(2, 'area')]));
  const point = { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [1, 1] } };
  writeFileSync(at('check/received/points.geojson'), collection([point]));
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', desk('check'))).body as { key: string }).key;
});
afterAll(() => server.stop());

const id = (name: string): string => at('check/received/new', name);
async function checkAll(): Promise<void> {
  const { body } = await server.post(of('/quality/check'), { datasets: [id('cells.geojson')], anew: true });
  const job = (body as JobView).id;
  for (;;) {
    const jobs = (await server.get('/api/jobs')).body as JobView[];
    const state = jobs.find((j) => j.id === job)!.state;
    if (state === 'done') return;
    if (state === 'failed') throw new Error('the check failed');
    await new Promise((r) => setTimeout(r, 50));
  }
}
const codes = async (): Promise<Record<string, string>> =>
  Object.fromEntries(
    (await get<QualitySheetView>(`/quality/sheet?dataset=${q(id('cells.geojson'))}`)).checks.map((c) => [c.code, c.result]),
  );

test('notes beside a dataset and above it are listed, read, and taken over for it and its neighbours, and taken back', async () => {
  const dataset = id('cells.geojson');
  const list = await get<NotesView>(`/notes?dataset=${q(dataset)}`);
  expect(list.notes.map((n) => [n.path, n.kind])).toEqual([
    ['terms.html', 'html'],
    ['../readme.txt', 'text'],
  ]);
  expect(list.siblings).toEqual([id('area.geojson')]);
  const { note, likely } = await get<NoteView>(`/notes/text?dataset=${q(dataset)}&note=terms.html`);
  expect(note.blocks.map((b) => b.text)).toEqual(['Terms', 'Units: feet. No warranty.']);
  expect(likely.map((l) => l.about)).toEqual(['units', 'limits']);
  const passage = { ...likely[0]!, note: 'terms.html' };
  const taken = await server.post(of('/passages'), { datasets: [dataset, ...list.siblings], passage, isTaken: true });
  expect(taken.status).toBe(200);
  const record = JSON.parse(readFileSync(at('check/received/new/datapackage.json'), 'utf8')) as { resources: { path: string }[] };
  expect(record.resources.map((r) => r.path).sort()).toEqual(['area.geojson', 'cells.geojson']);
  // Degrees, and its publisher says feet: told in Sources, and in its sheet.
  const { sources } = await get<SourcesView>('/sources');
  expect(sources.find((s) => s.id === dataset)!.findings.map((f) => f.code)).toContain('stated-units');
  await checkAll();
  expect(await codes()).toMatchObject({ 'stated-units': 'note' });
  expect((await get<QualitySheetView>(`/quality/sheet?dataset=${q(dataset)}`)).stated).toEqual([
    { about: 'units', words: 'Units: feet.', note: 'terms.html' },
  ]);
  const back = await server.post(of('/passages'), { datasets: [dataset], passage, isTaken: false });
  expect(back.status).toBe(200);
  expect((await get<QualitySheetView>(`/quality/sheet?dataset=${q(dataset)}`)).stated).toEqual([]);
});

test('what is no note beside it is not read', async () => {
  const dataset = id('cells.geojson');
  for (const note of ['../../check.rootmap.json', 'cells.geojson', '/etc/passwd', '../../../x.txt']) {
    const { status, body } = await server.get(of(`/notes/text?dataset=${q(dataset)}&note=${q(note)}`));
    expect([note, status, (body as { detail: string }).detail]).toEqual([note, 404, expect.stringContaining('There is no note')]);
  }
  const passage = { about: 'units', at: 0, words: 'x', note: 'none.txt' };
  expect((await server.post(of('/passages'), { datasets: [dataset], passage, isTaken: true })).status).toBe(404);
});

test('codes and an area of interest are asked for, found, and asked for no more', async () => {
  const dataset = id('cells.geojson');
  const edit = async (body: object): Promise<number> => (await server.post(of('/edits'), body)).status;
  expect(await edit({ kind: 'codes', dataset, field: 'kind', codes: ['a', 'b'] })).toBe(200);
  expect(await edit({ kind: 'codes', dataset, field: 'none', codes: ['a'] })).toBe(404);
  expect(await get(`/quality/codes?dataset=${q(dataset)}`)).toEqual({ kind: ['a', 'b'] });
  expect(await edit({ kind: 'quality', area: id('area.geojson'), sheets: 'reviewed' })).toBe(200);
  expect(JSON.parse(readFileSync(at('check/check.rootmap.json'), 'utf8'))).toMatchObject({
    quality: { area: 'received/new/area.geojson', sheets: 'reviewed' },
  });
  expect(await edit({ kind: 'quality', area: at('check/received/points.geojson'), sheets: 'none' })).toBe(400); // it has no areas
  await checkAll();
  expect(await codes()).toMatchObject({ codes: 'fail', 'outside-area': 'note' });
  expect((await get<QualityView>('/quality')).asks).toEqual({ area: id('area.geojson'), sheets: 'reviewed', problem: null });
  // Nothing is sent without them, and nothing is written.
  const preview = await server.post(of('/bundle/plan'), { ...SEND_ALL, added: [] });
  expect(preview.status).toBe(200);
  const checks = (preview.body as { checks: { check: string; path: string }[] }).checks.filter((c) => c.check === 'sheets');
  expect(checks.map((c) => c.path)).toContain('received/new/cells.geojson');
  expect(await edit({ kind: 'quality', area: null, sheets: 'none' })).toBe(200);
  expect(await edit({ kind: 'codes', dataset, field: 'kind', codes: [] })).toBe(200);
  await checkAll();
  const now = await codes();
  expect([now['codes'], now['outside-area']]).toEqual([undefined, undefined]);
});

test('templates of reviews: kept by title, replaced, forgotten', async () => {
  const template = {
    title: 'Soundings',
    elements: { positional: { fitness: 'limited', words: 'by sextant' } },
    accuracy: '5 m',
    fitFor: 'charts',
  };
  const all = async (): Promise<KeptReviewTemplate[]> => (await server.get('/api/review-templates')).body as KeptReviewTemplate[];
  await server.post('/api/review-templates', template);
  await server.post('/api/review-templates', { ...template, title: 'SOUNDINGS', accuracy: '3 m' });
  const kept = await all();
  expect(kept).toEqual([{ ...template, id: expect.any(String), title: 'SOUNDINGS', accuracy: '3 m' }]);
  expect((await server.post('/api/review-templates', { ...template, elements: { taste: { fitness: 'fit', words: '' } } })).status).toBe(
    400,
  );
  const gone = await fetch(`http://127.0.0.1:${server.port}/api/review-templates/${kept[0]!.id}`, {
    method: 'DELETE',
    headers: { origin: `http://127.0.0.1:${server.port}` },
  });
  expect([gone.status, await all()]).toEqual([200, []]);
});
