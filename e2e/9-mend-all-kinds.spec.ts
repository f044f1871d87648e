import type { Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { writeZip } from '../engine/test/small-zip.js';
import { desk, expect, expectAccessible, folder, openStop, test, useDemo } from './demo.js';

useDemo('mended');

// A project in which people did what they do: five kinds of breakage, and some that nobody can be sure of.
test.describe.configure({ mode: 'serial' });
const TITLE = 'Harbour repairs';
const root = (...parts: string[]): string => desk('harbour_repairs', ...parts);
const seagrass = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const rootmap = (...args: string[]): string =>
  execFileSync(process.execPath, ['cli/bin/rootmap.js', ...args], {
    env: { ...process.env, ROOTMAP_DATA: join(folder, 'repairs-data') },
    encoding: 'utf8',
  });
const ENDINGS = ['shp', 'shx', 'dbf', 'prj', 'cpg'];
function moveShapefile(from: string, to: string): void {
  mkdirSync(dirname(to), { recursive: true });
  for (const e of ENDINGS) renameSync(`${from}.${e}`, `${to}.${e}`);
}
const NO_ANCHORING =
  '{"type":"FeatureCollection","features":[{"type":"Feature","properties":{"since":2025},"geometry":{"type":"Polygon","coordinates":[[[-21.7,63.1],[-21.6,63.1],[-21.6,63.2],[-21.7,63.1]]]}}]}';
const STYLE =
  '<StyledLayerDescriptor xmlns="http://www.opengis.net/sld" version="1.0.0"><NamedLayer><Name>l</Name><UserStyle><FeatureTypeStyle><Rule><PointSymbolizer/></Rule></FeatureTypeStyle></UserStyle></NamedLayer></StyledLayerDescriptor>';
function writeMap(name: string, hrefs: readonly string[]): void {
  const features = hrefs.map((href, i) => ({
    type: 'Feature',
    id: `l${i}`,
    properties: {
      title: `${href.replace(/^.*\/|\.\w+$/g, '')} of ${name}`,
      offerings: [
        {
          code: href.endsWith('.shp') ? 'urn:x-rootmap:offering:shapefile' : 'urn:x-rootmap:offering:geojson',
          contents: [{ type: href.endsWith('.shp') ? 'application/x-shapefile' : 'application/geo+json', href }],
          styles: [{ name: 'own', content: { type: 'application/vnd.ogc.sld+xml', content: STYLE } }],
        },
      ],
      rootmap: { opacity: 0.8 },
    },
  }));
  mkdirSync(root('maps'), { recursive: true });
  writeFileSync(
    root('maps', `${name}.owc.json`),
    JSON.stringify(
      { type: 'FeatureCollection', id: name, properties: { title: name, updated: '2026-02-03T04:05:06Z' }, features },
      null,
      2,
    ),
  );
}
const maps = (): Map<string, string> =>
  new Map(
    readdirSync(root('maps'), { recursive: true, encoding: 'utf8' })
      .filter((f) => f.endsWith('.owc.json'))
      .sort()
      .map((f) => [f, readFileSync(root('maps', f), 'utf8')]),
  );
let broken: Map<string, string>;

test.beforeAll(async ({ request }) => {
  cpSync(seagrass('delivered', 'moorings_2026'), root('received', 'moorings'), { recursive: true });
  cpSync(seagrass('derived', 'beds'), root('received', 'beds'), { recursive: true });
  cpSync(seagrass('delivered', 'centres'), root('received', 'centres'), { recursive: true });
  cpSync(seagrass('derived', 'lines'), root('received', 'lines'), { recursive: true });
  cpSync(seagrass('delivered', 'exclusion_zone.geojson'), root('received', 'zones', 'exclusion_zone.geojson'));
  mkdirSync(root('received', 'packed'));
  writeFileSync(root('received', 'packed', 'no_anchoring.geojson'), NO_ANCHORING);
  writeFileSync(
    root('harbour_repairs.rootmap.json'),
    JSON.stringify({ format: 'rootmap-project/1', id: 'repairs', name: 'repairs', title: TITLE }),
  );
  writeMap(
    'moorings',
    ['anchor_blocks', 'chain_lengths', 'moorings_proposed', 'swing_circles'].map((n) => `../received/moorings/${n}.shp`),
  );
  writeMap(
    'beds',
    ['beds/beds_gained', 'beds/beds_lost', 'beds/beds_stable', 'centres/bed_centres', 'lines/change_lines'].map(
      (n) => `../received/${n}.shp`,
    ),
  );
  writeMap('zones', ['../received/zones/exclusion_zone.geojson', '../received/packed/no_anchoring.geojson']);
  writeMap('sent', ['../received/centres/bed_centres.shp', '../received/lines/change_lines.shp', '../received/moorings/swing_circles.shp']);
  rootmap('remember', root());
  // A folder is moved; a dataset gets another name; a folder of three becomes a geodatabase; a spelling changes; a map is moved.
  mkdirSync(root('delivered'), { recursive: true });
  renameSync(root('received', 'moorings'), root('delivered', 'moorings of 2026'));
  moveShapefile(root('received', 'centres', 'bed_centres'), root('received', 'centres', 'middle_of_each_bed'));
  mkdirSync(root('geodatabases'));
  const beds = ['beds_gained', 'beds_lost', 'beds_stable'].map((n) => root('received', 'beds', `${n}.shp`));
  rootmap('geodatabase', 'create', root('geodatabases', 'beds.gpkg'));
  rootmap('geodatabase', 'import', root('geodatabases', 'beds.gpkg'), ...beds);
  rmSync(root('received', 'beds'), { recursive: true });
  moveShapefile(root('received', 'lines', 'change_lines'), root('received', 'lines', 'Change Lines'));
  mkdirSync(root('maps', 'to partners'));
  renameSync(root('maps', 'sent.owc.json'), root('maps', 'to partners', 'sent.owc.json'));
  // Two equal copies, and data that is packed.
  for (const copy of ['a', 'b'])
    cpSync(root('received', 'zones', 'exclusion_zone.geojson'), root('copies', copy, 'exclusion_zone.geojson'));
  rmSync(root('received', 'zones'), { recursive: true });
  writeFileSync(root('received', 'winter.zip'), writeZip({ 'no_anchoring.geojson': NO_ANCHORING }));
  rmSync(root('received', 'packed'), { recursive: true });
  broken = maps();
  await request.post('/api/projects', { data: { place: 'desk', path: 'gis/harbour_repairs' } });
});

const wrong = (page: Page) => page.getByRole('region', { name: 'What is wrong' });
const proof = (page: Page) => page.getByRole('region', { name: 'Proof' });
const explains = (page: Page) => page.getByRole('region', { name: 'What explains it' });

test('one visit: a sentence for each thing that happened, its proof, and nothing chosen below certain', async ({ page }) => {
  await openStop(page, TITLE, 'mend');
  await expect(wrong(page).getByRole('button')).toHaveCount(14);
  await expect(explains(page).getByText('3 layers put into a geodatabase', { exact: true })).toBeVisible();
  await expect(
    explains(page)
      .getByText(/The data of \d+ layers? stands in another folder/)
      .first(),
  ).toBeVisible();
  await wrong(page)
    .getByRole('button', { name: /bed_centres of beds/ })
    .click();
  await expect(proof(page).getByText('Nothing stands where it was recorded; its data has another name now.')).toBeVisible();
  await expect(proof(page).getByText('Same content, byte for byte (hash).')).toBeVisible();
  await wrong(page)
    .getByRole('button', { name: /exclusion_zone/ })
    .click();
  await expect(
    proof(page).getByText('Data of equal content stands in 2 places, and its content does not tell which one was meant.'),
  ).toBeVisible();
  await wrong(page)
    .getByRole('button', { name: /no_anchoring/ })
    .click();
  await expect(proof(page).getByText(/still packed, inside .*winter\.zip/)).toBeVisible();
  await expect(proof(page).getByRole('link', { name: 'Unpack it in Sources' })).toBeVisible();
  await expect(proof(page).getByRole('button', { name: 'Mend 12 certain layers in 3 maps' })).toBeVisible();
  await expectAccessible(page);
});

test('one confirmation mends all that is certain; each map file changes in addresses only, and in kind where data was converted', async ({
  page,
}) => {
  await openStop(page, TITLE, 'mend');
  await proof(page).getByRole('button', { name: 'Mend 12 certain layers in 3 maps' }).click();
  await expect(page.getByText(/12 layers mended in 3 maps; 2 left/)).toBeVisible();
  const mended = maps();
  for (const [file, before] of broken) {
    const [a, b] = [before.split('\n'), mended.get(file)!.split('\n')];
    expect(b.length).toBe(a.length);
    const changed = a.flatMap((line, i) => (line === b[i] ? [] : [line.trim().replace(/".*/, (t) => t.split('"')[1]!)]));
    const kinds = new Set(changed);
    if (file === 'beds.owc.json') expect([...kinds].sort()).toEqual(['code', 'href', 'type']);
    else expect([...kinds]).toEqual(file === 'zones.owc.json' ? [] : ['href']);
    expect(changed.filter((k) => k === 'code')).toHaveLength(file === 'beds.owc.json' ? 3 : 0);
  }
  const told = JSON.parse(rootmapLayers()) as { layers: { state: string; title: string }[] };
  expect(
    told.layers
      .filter((l) => l.state !== 'sound')
      .map((l) => l.title)
      .sort(),
  ).toEqual(['exclusion_zone of zones', 'no_anchoring of zones']);
});
const rootmapLayers = (): string => {
  try {
    return rootmap('layers', root(), '--json');
  } catch (error) {
    return (error as { stdout: string }).stdout; // it ends with 1 where a layer is not sound
  }
};

test('of two equal copies a person says which; what was turned down is remembered', async ({ page }) => {
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /exclusion_zone/ })
    .click();
  await proof(page).getByRole('button', { name: 'Not this one' }).first().click();
  await expect(page.getByText('Remembered: this layer is not offered that dataset again.')).toBeVisible();
  await expect(
    proof(page)
      .getByText(/copies\/b/)
      .first(),
  ).toBeVisible();
  await page.reload();
  await wrong(page)
    .getByRole('button', { name: /exclusion_zone/ })
    .click();
  await expect(proof(page).getByText(/copies\/a/)).toHaveCount(0);
  await explains(page)
    .getByRole('button', { name: /^Mend (this layer|these)/ })
    .first()
    .click();
  await expect(page.getByText(/1 layer mended in 1 map; 1 left/)).toBeVisible();
});

test('a shapefile that lost its index gets it back, as it was', async ({ page }) => {
  const index = root('delivered', 'moorings of 2026', 'anchor_blocks.shx');
  const before = readFileSync(index);
  rmSync(index);
  await openStop(page, TITLE, 'mend');
  await wrong(page)
    .getByRole('button', { name: /anchor_blocks of moorings/ })
    .click();
  await expect(proof(page).getByText(/The index can be made anew from the shapes\./)).toBeVisible();
  await proof(page).getByRole('button', { name: 'Make the index anew' }).click();
  await expect(page.getByText('Make the index of anchor_blocks.shp anew: done.')).toBeVisible();
  await expect(wrong(page).getByRole('button', { name: /anchor_blocks/ })).toHaveCount(0);
  expect(readFileSync(index)).toEqual(before);
});

test('undo puts every byte back', async ({ page }) => {
  await page.goto('/journal');
  for (const what of ['Undo: Mend 1 layer in 1 map', 'Undo: Mend 12 layers in 3 maps']) {
    await page.getByRole('button', { name: what, exact: true }).first().click();
    await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByRole('row', { name: new RegExp(what) }).first()).toBeVisible();
  }
  await expect.poll(() => [...maps()]).toEqual([...broken]);
});

test('all projects at once: what is certain in each is mended by one button, one change a project', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Mend all projects' }).click();
  const row = page.getByRole('row', { name: /Harbour repairs/ });
  await expect(row.getByText('12 certain')).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Mend \d+ certain layers in \d projects?$/ }).click();
  await expect(row.getByText('12 layers mended; 2 left.')).toBeVisible();
  await expect(row.getByText('2 layers', { exact: true })).toBeVisible();
  await row.getByRole('link', { name: 'Look at the proof in Harbour repairs' }).click();
  await expect(wrong(page).getByRole('button')).toHaveCount(2);
});
