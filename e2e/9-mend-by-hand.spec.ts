import type { Page } from '@playwright/test';
import { cpSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, expectAccessible, folder, openStop, test, useDemo } from './demo.js';

useDemo('mended');

// What a person decides: other data on purpose, one map alone, and when looking is enough.
test.describe.configure({ mode: 'serial' });
const TITLE = 'Reef watch';
const root = (...parts: string[]): string => desk('reef_watch', ...parts);
const loose = (...parts: string[]): string => join(folder, 'places', 'desk', 'loose maps', ...parts);
const map = root('maps', 'circles.owc.json');
const STYLE =
  '<StyledLayerDescriptor xmlns="http://www.opengis.net/sld" xmlns:ogc="http://www.opengis.net/ogc" version="1.0.0"><NamedLayer><Name>l</Name><UserStyle><FeatureTypeStyle><Rule><ogc:Filter><ogc:PropertyIsGreaterThan><ogc:PropertyName>cover_pct</ogc:PropertyName><ogc:Literal>20</ogc:Literal></ogc:PropertyIsGreaterThan></ogc:Filter><PolygonSymbolizer/></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>';
const layer = (id: string, href: string, ours: object, style?: string) => ({
  type: 'Feature',
  id,
  properties: {
    title: id,
    offerings: [
      {
        code: 'urn:x-rootmap:offering:shapefile',
        contents: [{ type: 'application/x-shapefile', href }],
        ...(style ? { styles: [{ name: 's', content: { type: 'application/vnd.ogc.sld+xml', content: style } }] } : {}),
      },
    ],
    rootmap: ours,
  },
});
const writeMap = (path: string, title: string, features: readonly object[]): void =>
  writeFileSync(path, JSON.stringify({ type: 'FeatureCollection', id: title, properties: { title }, features }, null, 2));

test.beforeAll(async ({ request }) => {
  for (const f of [root('maps'), root('data'), loose()]) mkdirSync(f, { recursive: true });
  writeFileSync(root('reef_watch.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'reef', name: 'reef', title: TITLE }));
  cpSync(desk('ellisande_seagrass', 'derived', 'beds'), root('data'), { recursive: true });
  writeMap(map, 'Circles', [
    layer('Swing circles', '../data/gone/swing_circles.shp', { label: '{circle_no}', filter: 'cover_pct > 10' }, STYLE),
    layer('Nameless', '../data/nothing_like_it.shp', {}),
    layer('Beds lost', '../data/beds_lost.shp', {}),
  ]);
  writeMap(root('maps', 'circles again.owc.json'), 'Circles again', [
    layer('Circles in outline', '../data/gone/swing_circles.shp', { label: '{circle_no} m' }),
  ]);
  await request.post('/api/projects', { data: { place: 'desk', path: 'gis/reef_watch' } });
});

const wrong = (page: Page) => page.getByRole('region', { name: 'What is wrong' });
const proof = (page: Page) => page.getByRole('region', { name: 'Proof' });
const explains = (page: Page) => page.getByRole('region', { name: 'What explains it' });
test('other data on purpose: its fields take the places of those that filter, label and style use, in every layer that drew the same', async ({
  page,
}) => {
  const before = readFileSync(map, 'utf8');
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /Swing circles/ })
    .click();
  await proof(page).getByRole('button', { name: 'Use other data on purpose' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^data/ }).click();
  await dialog.getByRole('button', { name: /^beds_lost\.shp/ }).click();
  await expect(dialog.getByRole('table', { name: 'Fields to map' }).getByRole('row')).toHaveCount(3);
  await expect(dialog.getByText('1 field still to be mapped')).toBeVisible();
  await expect(dialog.getByRole('button', { name: 'Use it in 2 layers' })).toBeDisabled();
  await dialog.getByLabel('Field for circle_no').click();
  await page.getByRole('option', { name: /^bed_name/ }).click();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Use it in 2 layers' }).click();
  await expect(page.getByText(/2 layers given other data in 2 maps; 1 left/)).toBeVisible();
  const after = JSON.parse(readFileSync(map, 'utf8')) as {
    features: {
      properties: {
        offerings: { contents: { href: string }[] }[];
        rootmap: { label: string; filter: string; fingerprint: { count: number } };
      };
    }[];
  };
  const { offerings, rootmap } = after.features[0]!.properties;
  expect(offerings[0]!.contents[0]!.href).toBe('../data/beds_lost.shp');
  expect(rootmap).toMatchObject({ label: '{bed_name}', filter: 'cover_pct > 10', fingerprint: { count: 17 } });
  expect(readFileSync(root('maps', 'circles again.owc.json'), 'utf8')).toContain('{bed_name} m');
  const card = explains(page).getByText(/2 layers given other data\. 1 layer remains:/);
  await expect(card).toBeVisible();
  await expect(
    explains(page)
      .getByText(/Nothing stands where it was recorded, and nothing in reach is like it/)
      .first(),
  ).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  const undo = page.getByRole('dialog');
  await expect(undo.getByText(/layers? that (is|are) sound now will not be/)).toBeVisible(); // they are adrift again
  await undo.getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => readFileSync(map, 'utf8')).toBe(before);
  await expect(card).toBeHidden();
});

test('data of its name that is other data can be meant: the map remembers it from then on', async ({ page }) => {
  const text = readFileSync(map, 'utf8');
  const fingerprint = {
    v: 1,
    format: 'shapefile',
    bytes: { '.shp': 1, '.dbf': 1 },
    geometryType: 'Polygon',
    count: 3,
    vertices: 12,
    fields: [['bed_name', 'text']],
    extent: [0, 0, 1, 1],
    crs: 'EPSG:32624',
  };
  const parsed = JSON.parse(text) as { features: { properties: { rootmap: object } }[] };
  parsed.features[2]!.properties.rootmap = { fingerprint };
  writeFileSync(map, JSON.stringify(parsed, null, 2));
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /Beds lost/ })
    .click();
  await expect(proof(page).getByText(/it is not what the map remembers/)).toBeVisible();
  await proof(page).getByRole('button', { name: 'It is meant: use what stands there' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Use it in 1 layer' }).click();
  await expect(page.getByText(/1 layer given other data in 1 map/)).toBeVisible();
  await expect(wrong(page).getByRole('button', { name: /Beds lost/ })).toHaveCount(0);
});

test('what is known of data that is gone: where it came from, when it was seen there, and who deleted it', async ({ page }) => {
  const address = 'https://data.ellisande.example/zones.zip';
  const known = {
    name: 'data',
    resources: [{ name: 'nothing', path: 'nothing_like_it.shp', title: 'Zones', sources: [{ title: 'Harbour board', path: address }] }],
  };
  writeFileSync(root('data', 'datapackage.json'), JSON.stringify(known));
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /Nameless/ })
    .click();
  await expect(proof(page).getByText('Came from: Zones · Harbour board')).toBeVisible();
  await expect(proof(page).getByRole('link', { name: address })).toHaveAttribute('href', address);
  // Deleted in the app: told, and the way back.
  await openStop(page, TITLE, 'overview');
  await page.getByRole('group', { name: /Root diagram/ }).waitFor();
  const { key } = ((await (await page.request.get('/api/projects')).json()) as { key: string; title: string }[]).find(
    (p) => p.title === TITLE,
  )!;
  const done = await page.request.post(`/api/projects/${key}/edits`, {
    data: { kind: 'trash', paths: [{ place: 'desk', path: 'gis/reef_watch/data/beds_lost.shp' }] },
  });
  expect(done.ok(), await done.text()).toBe(true);
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /Beds lost/ })
    .click();
  await expect(proof(page).getByText(/It was deleted on \d{4}-\d{2}-\d{2} by “Delete .*”, and undoing that brings it back/)).toBeVisible();
  await expect(proof(page).getByText(/Seen there last on \d{4}-\d{2}-\d{2}/)).toBeVisible();
  await proof(page).getByRole('link', { name: 'Go to the journal' }).click();
  await page
    .getByRole('button', { name: /^Undo: Delete/ })
    .first()
    .click();
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => existsSync(root('data', 'beds_lost.shp'))).toBe(true);
});

test('a lost table is found where it lies and brought back beside its shapes', async ({ page }) => {
  mkdirSync(root('mail'));
  const table = readFileSync(root('data', 'beds_lost.dbf'));
  renameSync(root('data', 'beds_lost.dbf'), root('mail', 'beds_lost.dbf'));
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /Beds lost/ })
    .click();
  await expect(proof(page).getByText(/A table that fits it stands elsewhere and can be brought back beside it/)).toBeVisible();
  await expect(proof(page).getByText(/It has 17 records, as many as there are shapes\./)).toBeVisible();
  await proof(page).getByRole('button', { name: 'Bring this table back beside it' }).click();
  await expect(wrong(page).getByRole('button', { name: /Beds lost/ })).toHaveCount(0);
  expect(readFileSync(root('data', 'beds_lost.dbf'))).toEqual(table);
});

test('one map of a project alone: what is wrong in it, and the address keeps the choice', async ({ page }) => {
  await openStop(page, TITLE, 'mend');
  await expect(page.getByText('3 layers of 4, in 2 maps')).toBeVisible();
  await page.getByLabel('Maps to mend').click();
  await page.getByRole('option', { name: 'Circles again: 1 layer' }).click();
  await expect(wrong(page).getByRole('button')).toHaveCount(1);
  await page.reload();
  await expect(page.getByText('1 layer of 4, in 1 map')).toBeVisible();
});

test('while the places are looked through, what is near is shown, and looking can be stopped', async ({ page }) => {
  await page.route('**/mend/explain', async (route) => {
    if ((route.request().postDataJSON() as { reach: string }).reach === 'places') return; // a search that takes its time
    await route.continue();
  });
  await openStop(page, TITLE, 'mend');
  await expect(wrong(page).getByRole('button', { name: /Nameless/ })).toBeVisible();
  await expect(page.getByRole('progressbar', { name: 'Looking through the places' })).toBeVisible();
  await page.getByRole('button', { name: 'Stop looking' }).click();
  await expect(page.getByRole('progressbar', { name: 'Looking through the places' })).toHaveCount(0);
  await expect(wrong(page).getByRole('button', { name: /Nameless/ })).toBeVisible();
});

test('a map file that is dropped is mended where it lies, though it is in no project', async ({ page }) => {
  // Drawn beside its data, which was moved into a project since.
  const path = loose('Beds of the bay.owc.json');
  cpSync(root('data'), loose('data'), { recursive: true });
  writeMap(path, 'Beds of the bay', [
    layer('Gained', 'data/beds_gained.shp', {}),
    layer('Stable', 'data/beds_stable.shp', {}),
    layer('Lost', 'data/beds_lost.shp', {}),
  ]);
  const { execFileSync } = await import('node:child_process');
  execFileSync(process.execPath, ['cli/bin/rootmap.js', 'remember', path], {
    env: { ...process.env, ROOTMAP_DATA: join(folder, 'reef-data') },
  });
  renameSync(loose('data'), loose('data of the bay'));
  const before = readFileSync(path, 'utf8');
  await page.goto('/mend');
  await page.getByLabel('Map file to mend').setInputFiles(path);
  await expect(page.getByRole('heading', { name: 'Beds of the bay', exact: true })).toBeVisible();
  await expect(page).toHaveURL(/mend\/map\?place=desk&path=loose%20maps%2FBeds/);
  await expectAccessible(page);
  await proof(page).getByRole('button', { name: 'Mend 3 certain layers in 1 map' }).click();
  await expect(page.getByText('Every layer of this map is in order')).toBeVisible();
  expect(readFileSync(path, 'utf8')).toBe(before.replaceAll('"data/', '"data%20of%20the%20bay/'));
  await page.reload();
  await expect(page.getByText('Every layer of this map is in order')).toBeVisible();
});

test('maps in no project are looked for on request; a text that lies nowhere is put where the person says', async ({ page }) => {
  await page.goto('/mend');
  await page.getByRole('button', { name: 'Look for maps that are in no project' }).click();
  await expect(page.getByRole('table', { name: 'Maps in no project' }).getByRole('row', { name: /Beds of the bay/ })).toContainText(
    'nothing to mend',
  );
  const text = readFileSync(loose('Beds of the bay.owc.json'), 'utf8').replaceAll('Beds of the bay', 'Beds by mail');
  await page
    .getByLabel('Map file to mend')
    .setInputFiles({ name: 'by mail.owc.json', mimeType: 'application/json', buffer: Buffer.from(text) });
  await page.getByRole('button', { name: 'Choose its folder' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^desk/ }).click();
  await dialog.getByRole('button', { name: /^loose maps/ }).click();
  await dialog.getByRole('button', { name: 'Put it into this folder' }).click();
  await expect(page.getByRole('heading', { name: 'Beds by mail', exact: true })).toBeVisible();
  await expect(page.getByText('Every layer of this map is in order')).toBeVisible();
  expect(readFileSync(loose('by mail.owc.json'), 'utf8')).toBe(text);
  await page.goto('/journal');
  await page.getByRole('button', { name: 'Undo: Keep by mail.owc.json' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect.poll(() => existsSync(loose('by mail.owc.json'))).toBe(false);
});

test('what is no map is told in a sentence, and nothing is written', async ({ page }) => {
  await page.goto('/mend');
  await page
    .getByLabel('Map file to mend')
    .setInputFiles({ name: 'bad.owc.json', mimeType: 'application/json', buffer: Buffer.from('{"type": "FeatureColl') });
  await expect(page.getByRole('alert')).toContainText('bad.owc.json');
  await expect(page.getByRole('alert')).not.toContainText(/at \w+ \(/);
  rmSync(loose(), { recursive: true });
  await page.goto(`/mend/map?place=desk&path=${encodeURIComponent('loose maps/Beds of the bay.owc.json')}`);
  await expect(page.getByRole('alert')).toContainText('Beds of the bay.owc.json');
});
