import { execFileSync } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import type {
  CrsAdvice,
  JobView,
  KeptView,
  LayerPictureView,
  MapDocView,
  MapDraft,
  MapFromTableView,
  NewLayerView,
  OutsideView,
  RehearsalView,
  SavedView,
} from '@rootmap/core/contract';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
let key = '';
const [mine, theirs] = [randomUUID(), randomUUID()];
const FILE = 'maps/sites.owc.json';

beforeAll(async () => {
  mkdirSync(at());
  cpSync('testdata/open/example_project', at('check'), { recursive: true });
  cpSync('testdata/open/spdata/shapes', at('library'), { recursive: true });
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', desk('check'))).body as { key: string }).key;
  await server.get(`/api/projects/${key}`);
});
afterAll(() => server.stop());
const post = (path: string, body: unknown) => server.post(`/api/projects/${key}/maps${path}`, body);
const ask = async <T>(path: string, body: unknown): Promise<T> => (await post(path, body)).body as T;
const doc = async (editor = mine, path = FILE): Promise<MapDocView> =>
  (await server.get(`/api/projects/${key}/maps/doc?path=${path}&editor=${editor}`)).body as MapDocView;
const datasets = async (): Promise<string[]> =>
  ((await server.get(`/api/projects/${key}`)).body as { datasets: { id: string; kind: string }[] }).datasets
    .filter((d) => d.kind === 'vector')
    .map((d) => d.id);
async function save(draft: MapDraft, base: string, over: { readonly editor?: string; readonly as?: string } = {}): Promise<JobView> {
  const job = await ask<JobView>('/save', { path: FILE, editor: mine, base, draft, thumbnail: null, ...over });
  return server.finished(job.id);
}
const text = (): string => readFileSync(at('check', FILE), 'utf8');

describe('a map from nothing to its file', () => {
  test('made empty; layers proposed with what is known of their data; saved with full fingerprints and styles', async () => {
    expect((await post('', { title: 'Sites' })).body).toEqual({ map: FILE });
    const [first, second] = await datasets();
    const found = await ask<NewLayerView[]>('/new-layers', { path: FILE, datasets: [first, second] });
    expect(found[0]).toMatchObject({ reach: 'inside', otherProject: null, href: expect.stringMatching(/^\.\.\//) });
    const { draft, base } = await doc();
    const symbol = {
      fill: '#1f6f5c',
      fillOpacity: 0.5,
      stroke: '#1c2a27',
      strokeWidth: 1,
      strokeOpacity: 1,
      dash: null,
      mark: 'circle',
      size: 8,
      picture: null,
    } as const;
    const layer = (source: string, title: string) => ({
      id: `urn:uuid:${randomUUID()}`,
      title,
      folder: 'g',
      active: true,
      opacity: 0.5,
      minScale: null,
      maxScale: 50_000,
      filter: '',
      label: null,
      look: { kind: 'one' as const, symbol },
      source,
    });
    const job = await save({ ...draft, crs: 'EPSG:4326', layers: [layer(first!, 'A'), layer(second!, 'B')] }, base);
    expect(job).toMatchObject({ state: 'done', result: { remembered: 2 } });
    const file = JSON.parse(text()) as { features: { properties: { rootmap: { fingerprint: { hash: string } } } }[] };
    for (const f of file.features) expect(f.properties.rootmap.fingerprint.hash).toMatch(/^sha256:[0-9a-f]{64}$/);
    const again = await doc();
    expect(again.draft.layers.map((l) => [l.title, l.opacity, l.maxScale, l.look])).toEqual([
      ['A', 0.5, 50_000, expect.objectContaining({ kind: 'one' })],
      ['B', 0.5, 50_000, expect.anything()],
    ]);
    expect(again.layers.map((l) => [l.state, l.style.kind, l.style.state])).toEqual([
      ['sound', 'inline', 'sound'],
      ['sound', 'inline', 'sound'],
    ]);
    // Saved again without a change: not a byte differs, and the journal has nothing new.
    const before = text();
    expect(((await save(again.draft, again.base)).result as SavedView).changeId).toBeNull();
    expect(text()).toBe(before);
  });

  test('under another name: a map of its own beside it, from an old base too; the file stays, and nothing is written over', async () => {
    const { draft, base } = await doc();
    const before = text();
    const refused = async (over: { readonly as?: string; readonly base?: string }) =>
      ask<{ status: number; code: string; detail: string }>('/save', { path: FILE, editor: mine, base, draft, thumbnail: null, ...over });
    const as = (name: string, from = base) => save({ ...draft, title: 'Second' }, from, { as: name });
    const job = await as('second', 'f'.repeat(64));
    expect(job).toMatchObject({ state: 'done', result: { path: 'maps/second.owc.json', changeId: expect.any(String) } });
    const [one, two] = [before, readFileSync(at('check', 'maps/second.owc.json'), 'utf8')].map(
      (t) => JSON.parse(t) as { id: string; properties: { title: string }; features: unknown[] },
    );
    expect([text(), two!.properties.title, two!.id === one!.id]).toEqual([before, 'Second', false]);
    expect(two!.features).toEqual(one!.features);
    for (const [name, why] of [
      ['second', 'there already'],
      ['../outside', 'cannot be a name'],
      ['sub/map', 'cannot be a name'],
      [' ', 'cannot be a name'],
    ] as const)
      expect([name, (await refused({ as: name })).detail]).toEqual([name, expect.stringContaining(why)]);
    // Refused at once, not by a job that fails later.
    expect(await refused({ base: 'f'.repeat(64) })).toMatchObject({ status: 409, code: 'changed-meanwhile' });
    expect(text()).toBe(before);
  });
  // Source: OWSLib, another reader of OWS Context (python3-owslib of Debian).
  test('the file is read by OWSLib', () => {
    const script =
      'import sys, json\nfrom owslib.owscontext.core import OwcContext\nc = OwcContext.from_json(open(sys.argv[1]).read())\nprint(json.dumps([c.title, [[r.title, r.active, r.folder, r.max_scale_denominator, [k.mimetype for o in r.offerings for k in o.contents], [s.content.mimetype for o in r.offerings for s in o.styles]] for r in c.resources]]))';
    const [title, layers] = JSON.parse(execFileSync('/usr/bin/python3', ['-c', script, at('check', FILE)]).toString()) as [
      string,
      [string, boolean, string, number | string, string[], string[]][],
    ];
    expect(title).toBe('Sites');
    expect(layers.map((l) => [l[0], l[1], l[2], Number(l[3]), l[5]])).toEqual([
      ['A', true, 'g', 50_000, ['application/vnd.ogc.sld+xml']],
      ['B', true, 'g', 50_000, ['application/vnd.ogc.sld+xml']],
    ]);
    for (const l of layers) expect(l[4]).toHaveLength(1);
  });
});

describe('unsaved work', () => {
  const keep = (editor: string, base: string, draft: MapDraft | null) => ask<KeptView>('/draft', { path: FILE, editor, base, draft });
  test('is kept for its own page, told to others, and gone once it is saved', async () => {
    const { draft, base } = await doc();
    await keep(mine, base, { ...draft, title: 'Unsaved' });
    expect((await keep(theirs, base, null)).others).toEqual([{ who: expect.any(String), hasChanges: true }]);
    expect((await doc(mine)).kept).toMatchObject({ isOwn: true, draft: { title: 'Unsaved' } });
    // Whoever has it open still holds it: nobody else is offered it.
    expect((await doc(theirs)).kept).toBeNull();
    expect((await save({ ...draft, title: 'Unsaved' }, base)).state).toBe('done');
    expect((await doc(mine)).kept).toBeNull();
  });
  test('whoever saves second is refused, and nothing is written over', async () => {
    const { draft, base } = await doc();
    expect((await save({ ...draft, title: 'First' }, base, { editor: theirs })).state).toBe('done');
    const answer = await post('/save', { path: FILE, editor: mine, base, draft: { ...draft, title: 'Second' }, thumbnail: null });
    expect(answer.body).toMatchObject({ status: 409, detail: expect.stringMatching(/was changed by someone else since it was read/) });
    expect((JSON.parse(text()) as { properties: { title: string } }).properties.title).toBe('First');
    expect((await keep(mine, base, null)).base).not.toBe(base);
  });
  test('is given up when asked', async () => {
    const { draft, base } = await doc();
    await keep(mine, base, { ...draft, title: 'Dropped' });
    expect((await server.ask('DELETE', `/api/projects/${key}/maps/draft?path=${FILE}&editor=${mine}`)).status).toBe(204);
    expect((await doc(mine)).kept).toBeNull();
  });
});

describe('styles in files of their own', () => {
  const SLD = (picture: string): string =>
    `<?xml version="1.0"?><StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc" xmlns:xlink="http://www.w3.org/1999/xlink"><NamedLayer><Name>x</Name><UserStyle><FeatureTypeStyle><Rule><Name>r</Name><PointSymbolizer><Graphic><ExternalGraphic><OnlineResource xlink:type="simple" xlink:href="${picture}"/><Format>image/svg+xml</Format></ExternalGraphic><Size>20</Size></Graphic></PointSymbolizer></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>`;
  test('the look is read from there; a picture that is missing, a style that is, are told; the layer is drawn plainly', async () => {
    const map = JSON.parse(text()) as { features: { id: string; properties: { offerings: { styles: unknown }[] } }[] };
    map.features[0]!.properties.offerings[0]!.styles = [{ name: 's', content: { href: '../styles/buoy.sld' } }];
    mkdirSync(at('check', 'styles'));
    writeFileSync(at('check', FILE), JSON.stringify(map));
    expect((await doc()).layers[0]!.style).toMatchObject({ kind: 'file', href: '../styles/buoy.sld', state: 'adrift' });
    writeFileSync(at('check', 'styles', 'buoy.sld'), SLD('pictures/buoy.svg'));
    const without = await doc();
    expect(without.layers[0]!.style).toMatchObject({ state: 'sound', missing: ['pictures/buoy.svg'] });
    expect(without.draft.layers[0]!.look).toMatchObject({ kind: 'one', symbol: { picture: 'pictures/buoy.svg', size: 20 } });
    const picture = (href: string) =>
      server.get(
        `/api/projects/${key}/maps/style-picture?path=${FILE}&layer=${encodeURIComponent(map.features[0]!.id)}&href=${encodeURIComponent(href)}`,
      );
    expect((await picture('pictures/buoy.svg')).status).toBe(404);
    mkdirSync(at('check', 'styles', 'pictures'));
    writeFileSync(at('check', 'styles', 'pictures', 'buoy.svg'), '<svg xmlns="http://www.w3.org/2000/svg" width="8" height="8"/>');
    const shown = await picture('pictures/buoy.svg');
    expect([shown.status, shown.headers['content-type'], shown.headers['content-security-policy']]).toEqual([
      200,
      expect.stringMatching(/^image\/svg/),
      expect.stringContaining("default-src 'none'"),
    ]);
    expect((await doc()).layers[0]!.style.missing).toEqual([]);
    expect((await picture('../../../../../../etc/passwd')).status).toBe(404);
    writeFileSync(at('check', 'styles', 'buoy.sld'), '<broken');
    expect((await doc()).layers[0]!.style.state).toBe('unreadable');
  });
});

describe('what is asked about data', () => {
  test('a CRS for it, with its distortion; tiles told apart; classes', async () => {
    const all = await datasets();
    const advice = await ask<CrsAdvice>('/crs-advice', { datasets: all.slice(0, 1) });
    expect(advice.degrees === null || advice.proposed !== null).toBe(true);
    const picture = (
      await server.post(`/api/projects/${key}/layer-picture`, {
        dataset: all[0],
        crs: null,
        drawing: { filter: '', rules: [{ filter: null, isElse: false }], label: null, raster: null },
      })
    ).body as LayerPictureView;
    expect(picture).toMatchObject({ kind: 'vector', drawing: null, hidden: 0 });
    const bad = await server.post(`/api/projects/${key}/layer-picture`, {
      dataset: all[0],
      crs: null,
      drawing: { filter: 'a =', rules: [], label: null, raster: null },
    });
    expect([bad.status, (bad.body as { detail: string }).detail]).toEqual([
      400,
      expect.stringMatching(/cannot be used: something is missing/),
    ]);
  });
  test('outside data: what it is, and that it is outside', async () => {
    const found = await ask<OutsideView>('/outside', desk('library/columbus.shp'));
    expect(found).toMatchObject({ reach: 'outside', otherProject: null, folder: desk('library'), datasets: [{ kind: 'area', count: 49 }] });
    expect((await post('/outside', desk('../etc'))).status).toBe(403);
    writeFileSync(at('library', 'notes.txt'), 'x');
    expect((await post('/outside', desk('library/notes.txt'))).status).toBe(400);
  });
  test('a rehearsal over HTTP: nothing is moved', async () => {
    const told = await ask<RehearsalView>('/rehearsal', { to: 'G:\\check', isCopy: true, isElsewhere: true });
    expect(told.layers.length).toBeGreaterThan(0);
    expect(existsSync(at('check'))).toBe(true);
    expect((await post('/rehearsal', { without: ['nowhere'] })).status).toBe(404);
  });
  test('a map of a pasted table, with what is not there too', async () => {
    const body = { title: 'Pasted', text: 'title,path,table\r\nBeds,D:\\library\\columbus.shp,\r\nGone,Q:/x/y.shp,\r\nNo data,notes.txt,' };
    const shown = await ask<MapFromTableView>('/from-table', { ...body, apply: false });
    expect(shown.rows.map((r) => [r.title, r.state, r.href])).toEqual([
      ['Beds', 'sound', '../../library/columbus.shp'],
      ['Gone', 'adrift', 'file:///Q:/x/y.shp'],
      ['No data', null, null],
    ]);
    expect(existsSync(at('check', 'maps', 'pasted.owc.json'))).toBe(false);
    expect((await ask<MapFromTableView>('/from-table', { ...body, apply: true })).map).toBe('maps/pasted.owc.json');
    expect((await doc(mine, 'maps/pasted.owc.json')).layers.map((l) => l.state)).toEqual(['sound', 'adrift']);
  });
});

describe('what must not be done', () => {
  test.each(['../check/x.owc.json', '/etc/passwd', 'maps/none.owc.json', 'maps/sites.txt', ''])('a map called "%s"', async (path) => {
    expect([400, 404]).toContain(
      (await server.get(`/api/projects/${key}/maps/doc?path=${encodeURIComponent(path)}&editor=${mine}`)).status,
    );
  });
  test('a page is written where nothing stands, and is a page', async () => {
    const put = (path: string) =>
      server.ask('PUT', `/api/projects/${key}/maps/print?place=desk&path=${encodeURIComponent(path)}&title=t`, {
        raw: '%PDF-1.7',
        headers: { 'content-type': 'application/octet-stream', 'content-length': '8', origin: `http://127.0.0.1:${server.port}` },
      });
    expect((await put('check/exports/a.pdf')).status).toBe(200);
    expect(readFileSync(at('check', 'exports', 'a.pdf'), 'utf8')).toBe('%PDF-1.7');
    expect((await put('check/exports/a.pdf')).status).toBe(409);
    expect((await put('check/exports/a.sh')).status).toBe(400);
    expect((await put('../a.pdf')).status).toBe(403);
    rmSync(at('check', 'exports'), { recursive: true });
  });
  test('a draft of another shape', async () => {
    const { draft, base } = await doc();
    expect((await post('/draft', { path: FILE, editor: mine, base, draft: { ...draft, layers: [{ id: 'x' }] } })).status).toBe(400);
    expect((await post('/save', { path: FILE, editor: 'me', base, draft })).status).toBe(400);
  });
  test('nothing is left behind', () => expect(readdirSync(at('check', 'maps')).filter((f) => f.startsWith('.'))).toEqual([]));
});
