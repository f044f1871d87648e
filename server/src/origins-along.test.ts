import { randomUUID } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { basename, dirname, join } from '@rootmap/engine';
import type { EditApplied, IntakeView, JobView, SourcesView } from '@rootmap/core/contract';
import { writeZip } from '../../engine/test/small-zip.js';
import { TestServer } from '../test/start-server.js';

/** Licence and origin go with the data, whatever way it takes through the product. The records are read as plain JSON here. */
const server = new TestServer();
const at = (...parts: string[]): string => join(server.folder, 'desk', ...parts);
const desk = (path: string) => ({ place: 'desk', path });
const shape = (name: string): string => join('testdata/open/spdata/shapes', name);
let key = '';

interface Written {
  readonly path: string;
  readonly licenses?: readonly { readonly name?: string }[];
  readonly [member: string]: unknown;
}
/** What stands beside a file: licence and attribution of it, or of one of its tables. */
function written(file: string, table?: string): [licence: string | undefined, attribution: unknown] | null {
  const record = join(dirname(file), 'datapackage.json');
  if (!existsSync(record)) return null;
  const { resources } = JSON.parse(readFileSync(record, 'utf8')) as { resources: readonly Written[] };
  const own = resources.find((r) => r.path === basename(file) && r['rootmap:table'] === table);
  return own ? [own.licenses?.[0]?.name, own['rootmap:attribution']] : null;
}
const LICENSED = ['CC-BY-SA-4.0', 'Contains data of the Harbour Survey'] as const;
const origin = {
  title: 'Wards',
  publisher: 'Harbour Survey',
  page: '',
  address: 'https://survey.example/wards',
  fetched: '2026-01-05',
  licence: LICENSED[0],
  attribution: LICENSED[1],
  isReobtainable: true,
  statedCrs: '',
  statedUnits: '',
  disclaimer: '',
  notes: '',
};

const post = (path: string, body: object) => server.post(`/api/projects/${key}${path}`, body);
const done = async (answer: { body: unknown }): Promise<void> => {
  const job = await server.finished((answer.body as JobView).id);
  expect([job.state, job.message]).toEqual(['done', null]);
};
const edit = async (body: object): Promise<void> => {
  const answer = await post('/edits', body);
  expect([answer.status, body]).toEqual([200, body]);
  const { job } = answer.body as EditApplied;
  if (job) await done({ body: job });
};
const tables = (geodatabase: string, body: object) => edit({ kind: 'tables', geodatabase: desk(geodatabase), ...body });
const attribution = async (): Promise<string> => ((await server.get(`/api/projects/${key}/sources`)).body as SourcesView).attribution;

beforeAll(async () => {
  mkdirSync(at(), { recursive: true });
  cpSync('testdata/open/example_project', at('works'), { recursive: true });
  for (const e of ['shp', 'shx', 'dbf', 'prj'])
    if (existsSync(shape(`columbus.${e}`))) cpSync(shape(`columbus.${e}`), at(`works/working/wards.${e}`));
  writeFileSync(at('works/working/points.csv'), 'lon,lat,name\n-39.5,44.2,A\n-39.4,44.3,B\n');
  await server.start({ ROOTMAP_PLACES: `desk=${at()},D:` });
  key = ((await server.post('/api/projects', desk('works'))).body as { key: string }).key;
  for (const name of ['wards.shp', 'points.csv'])
    expect((await post('/origins', { datasets: [at('works/working', name)], origin })).status).toBe(200);
});
afterAll(() => server.stop());

test('what is made of licensed data is licensed: tables, copies, exports, and what becomes of them', async () => {
  const items = ['wards.shp', 'points.csv'].map((n) => ({ dataset: at('works/working', n) }));
  await done(await post('/geodatabases/import', { into: desk('works/one.gpkg'), items }));
  expect(['wards', 'points'].map((t) => written(at('works/one.gpkg'), t))).toEqual([LICENSED, LICENSED]);
  await tables('works/one.gpkg', { action: 'rename', table: 'wards', name: 'districts' });
  expect(['wards', 'districts'].map((t) => written(at('works/one.gpkg'), t))).toEqual([null, LICENSED]);
  const two = { into: desk('works/results/two.gpkg'), items: [{ dataset: at('works/results/groyne_004.shp') }] };
  await done(await post('/geodatabases/import', two));
  expect(written(at('works/results/two.gpkg'), 'groyne_004')).toBeNull();
  await tables('works/one.gpkg', { action: 'copy', table: 'districts', into: two.into, name: 'copied', isMove: false });
  await tables('works/one.gpkg', { action: 'copy', table: 'points', into: two.into, name: 'moved', isMove: true });
  expect(['copied', 'moved'].map((t) => written(at('works/results/two.gpkg'), t))).toEqual([LICENSED, LICENSED]);
  expect(['districts', 'points'].map((t) => written(at('works/one.gpkg'), t))).toEqual([LICENSED, null]);
  await edit({ kind: 'move', moves: [{ from: two.into, to: desk('works/working/three.gpkg') }] });
  expect(['copied', 'moved'].map((t) => written(at('works/working/three.gpkg'), t))).toEqual([LICENSED, LICENSED]);
  await edit({ kind: 'copy', from: desk('works/working/three.gpkg'), to: desk('works/results/four.gpkg') });
  expect(['copied', 'moved'].map((t) => written(at('works/results/four.gpkg'), t))).toEqual([LICENSED, LICENSED]);
  await edit({ kind: 'copy', from: desk('works/working/wards.shp'), to: desk('works/results/copy_of_wards.shp') });
  expect(written(at('works/results/copy_of_wards.shp'))).toEqual(LICENSED);
  await done(await post('/copies', { datasets: [at('works/working/points.csv')], crs: 'EPSG:32624', into: desk('works/copies') }));
  expect(written(at('works/copies/points_32624.gpkg'), 'points_32624')).toEqual(LICENSED);
  const out = { dataset: at('works/results/four.gpkg#copied'), format: 'shapefile', at: desk('works/exports/out.shp') };
  await done(await post('/exports', out));
  expect(written(at('works/exports/out.shp'))).toEqual(LICENSED);
});

test('a map that draws the table has to name its publisher, as one that draws the file', async () => {
  expect(await attribution()).not.toContain('Harbour Survey');
  const map = at('works/maps/map_01.owc.json');
  const [href] = /[^"]*fairway_006\.shp/.exec(readFileSync(map, 'utf8'))!;
  writeFileSync(map, readFileSync(map, 'utf8').replaceAll(href, '../one.gpkg#districts'));
  await post('/rescan', {});
  expect(await attribution()).toContain('Contains data of the Harbour Survey');
});

test('what one dataset of an archive tells of itself is not said of the others in it', async () => {
  const metadata = `<metadata><idinfo><citation><citeinfo><origin>Tide Office</origin><title>Buoys</title></citeinfo></citation>
    <useconst>CC-BY-4.0</useconst></idinfo></metadata>`;
  const files = Object.fromEntries(
    ['buoys', 'banks'].flatMap((n) =>
      ['shp', 'shx', 'dbf'].map((e) => [`${n}.${e}`, readFileSync(`testdata/open/shape-types/point.${e}`)]),
    ),
  );
  const base = `http://127.0.0.1:${server.port}`;
  const upload = await fetch(`${base}/api/arrivals?drop=${randomUUID()}&path=two.zip`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream', origin: base },
    body: new Uint8Array(writeZip({ ...files, 'buoys.shp.xml': metadata })),
  });
  const { id } = (await upload.json()) as { id: string };
  const seen = (await server.get(`/api/projects/${key}/arrivals/${id}`)).body as IntakeView;
  expect(seen.proposed).not.toHaveProperty('publisher');
  expect(seen.groups.map((g) => [g.path, g.told?.publisher])).toEqual([
    ['banks.shp', undefined],
    ['buoys.shp', 'Tide Office'],
  ]);
  const request = { into: desk('works/originals/two'), origin: { ...origin, publisher: '' } };
  await done(await post(`/arrivals/${id}`, request));
  const { resources } = JSON.parse(readFileSync(at('works/originals/two/datapackage.json'), 'utf8')) as { resources: readonly Written[] };
  expect(resources.map((r) => [r.path, r['rootmap:publisher']])).toEqual([
    ['banks.shp', undefined],
    ['buoys.shp', 'Tide Office'],
  ]);
});
