import type { Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';
import { join } from 'node:path';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const MAP = 'maps/harbour_works.owc.json';
interface Feature {
  readonly id: string;
  readonly properties: {
    readonly title: string;
    readonly active: boolean;
    readonly folder?: string;
    readonly offerings: readonly {
      readonly contents: readonly { readonly href: string }[];
      readonly styles?: readonly { readonly content: { readonly content: string } }[];
    }[];
    readonly rootmap: {
      readonly label?: { readonly template: string };
      readonly filter?: string;
      readonly opacity?: number;
      readonly fingerprint: { readonly hash: string | null; readonly grid: string | null };
    };
  };
}
const read = () =>
  JSON.parse(readFileSync(root(MAP), 'utf8')) as { features: Feature[]; properties: { rootmap: { crs: string; view: { scale: number } } } };
const layer = (page: Page, title: string) =>
  page.getByRole('list', { name: 'Layer stack' }).getByRole('button', { name: new RegExp(`^${title}`) });
const drawn = (page: Page) => expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-drawn', 'true');
async function openMap(page: Page, path = MAP): Promise<void> {
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent(path)}`);
  await drawn(page);
}
test('a map is made of a raster and three sets of shapes in two CRSs: the raster decides the CRS, and why is said', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  for (const name of ['depth_model.tif', 'fairway.shp', 'lights.shp', 'exclusion_zone.geojson']) {
    await page.getByLabel('Find datasets').fill(name.replace(/\..*/, ''));
    await page.getByLabel(`Tick ${name}`).first().check();
  }
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Map', { exact: true }).click();
  await page.getByRole('option', { name: 'Start a map with it' }).click();
  await dialog.getByLabel('Its title').fill('Harbour works');
  await expect(
    dialog.getByText(/It is drawn in WGS 84 \/ UTM zone 24N \(EPSG:32624\).*the raster: computing a raster anew costs quality/),
  ).toBeVisible();
  await dialog.getByRole('button', { name: 'Make the map' }).click();
  await expect(page).toHaveURL(/maps\/edit\?map=maps%2Fharbour_works/);
  await drawn(page);
  await expect(page.getByText('EPSG:32624 · metres')).toBeVisible();
  await expect(page.getByText(/a length is up to 0\.40 ‰ off/)).toBeVisible();
  // Its file has a path that others can be told.
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await openStop(page, STUDY, 'maps');
  await page.getByRole('button', { name: 'More on Harbour works' }).click();
  await expectAccessible(page);
  await page.getByRole('menuitem', { name: /^Copy its path as this system writes it/ }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('D:\\gis\\ellisande_seagrass\\maps\\harbour_works.owc.json');
  await openMap(page);
  const titles = read().features.map((f) => f.properties.title);
  expect([titles[0], titles.at(-1)]).toEqual(['lights', 'depth model']);
  await expect(layer(page, 'exclusion zone')).toContainText('reprojected from EPSG:4326');
  await expectAccessible(page);
});

test('looks, labels, a filter, order and groups; nothing is on disk before it is saved; every step can be taken back', async ({ page }) => {
  await openMap(page);
  const before = readFileSync(root(MAP), 'utf8');
  await layer(page, 'depth model').click();
  await page.getByRole('button', { name: 'Colour ramp' }).click();
  await layer(page, 'lights').click();
  await page.getByRole('button', { name: 'By class' }).click();
  await expect(page.getByRole('list', { name: 'Classes' }).getByRole('listitem')).toHaveCount(5);
  await page.getByRole('tab', { name: 'Labels' }).click();
  await page.getByRole('switch', { name: 'Labels' }).check();
  await expect(page.getByLabel('Text, fields in braces')).toHaveValue('{light_nm}');
  await expectAccessible(page);
  await page.getByRole('tab', { name: 'Filter' }).click();
  await page.getByLabel('Filter', { exact: true }).fill('depth > 3');
  await expect(page.getByText('there is no field "depth".')).toBeVisible();
  await page.getByLabel('Filter', { exact: true }).fill('depth_m > 3');
  await page.getByRole('button', { name: 'Use the filter' }).click();
  await expect(page.getByText(/\d records? of 9 records are drawn/)).toBeVisible();
  await page.getByRole('tab', { name: 'Layer', exact: true }).click();
  await page.getByRole('combobox', { name: 'Group' }).fill('navigation');
  await page.getByRole('combobox', { name: 'Group' }).press('Enter');
  await expect(page.getByText('unsaved: 2 changes')).toBeVisible();

  // The order by keyboard: Space lifts, arrows move, Space puts down.
  await page.getByRole('button', { name: 'Move exclusion zone' }).focus();
  await page.keyboard.press('Space');
  await page.waitForTimeout(200);
  await page.keyboard.press('ArrowUp');
  await page.waitForTimeout(300);
  await page.keyboard.press('Space');
  await expect(page.getByText('unsaved: 3 changes')).toBeVisible();
  await page.getByRole('button', { name: 'Take the last step back' }).click();
  await expect(page.getByText('unsaved: 2 changes')).toBeVisible();
  await page.getByRole('button', { name: 'Do it again' }).click();
  await expect(page.getByText('unsaved: 3 changes')).toBeVisible();
  expect(readFileSync(root(MAP), 'utf8')).toBe(before);

  await page.keyboard.press('Control+s');
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  const { features, properties } = read();
  const lights = features.find((f) => f.properties.title === 'lights')!.properties;
  expect(lights.rootmap).toMatchObject({ filter: 'depth_m > 3', label: { template: '{light_nm}' } });
  expect(lights.folder).toBe('navigation');
  expect(lights.offerings[0]!.styles![0]!.content.content).toMatch(/<sld:StyledLayerDescriptor|<StyledLayerDescriptor/);
  expect(lights.rootmap.fingerprint.hash).toMatch(/^sha256:/);
  expect(features.map((f) => f.properties.title).indexOf('exclusion zone')).toBeLessThan(
    features.map((f) => f.properties.title).indexOf('fairway'),
  );
  expect(properties.rootmap.view.scale).toBeGreaterThan(1000);
  // What was saved is what is read again.
  await page.reload();
  await drawn(page);
  await expect(layer(page, 'lights')).toContainText('by depth_m');
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
});

test('unsaved work outlives the page; another window is told; leaving asks', async ({ page, context }) => {
  await openMap(page);
  await page.getByLabel('Title of the map').fill('Harbour works 2026');
  await expect(page.getByText(/unsaved: 1 change, kept/)).toBeVisible();
  const other = await context.newPage();
  await openMap(other);
  await expect(other.getByText(/1 other window has this map open, with unsaved changes/)).toBeVisible();
  await other.close();
  await page.reload();
  await expect(page.getByLabel('Title of the map')).toHaveValue('Harbour works 2026');
  await page.getByRole('link', { name: 'All maps' }).click();
  const ask = page.getByRole('dialog', { name: /1 change not saved/ });
  await ask.getByRole('button', { name: 'Stay' }).click();
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  expect(readFileSync(root(MAP), 'utf8')).toContain('"title": "Harbour works 2026"');
  await page.getByRole('link', { name: 'All maps' }).click();
  await expect(page).toHaveURL(/\/maps$/);
  await expect(page.getByText('Harbour works 2026').first()).toBeVisible();
});

test('a map that was saved elsewhere meanwhile is not written over', async ({ page }) => {
  await openMap(page);
  await page.getByLabel('Title of the map').fill('Mine');
  const text = readFileSync(root(MAP), 'utf8');
  writeFileSync(root(MAP), text.replace('Harbour works 2026', 'Theirs'));
  await expect(page.getByText(/saved elsewhere while you were editing it/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Save map' })).toBeDisabled();
  await page.getByRole('button', { name: 'Choose which holds' }).click();
  const dialog = page.getByRole('dialog', { name: 'Changed there and here' });
  await expect(dialog.getByRole('radio', { name: 'Mine: Mine' })).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole('radio', { name: 'Saved: Theirs' }).check();
  await dialog.getByRole('button', { name: 'Keep what I chose' }).click();
  await expect(page.getByLabel('Title of the map')).toHaveValue('Theirs');
  await expect(page.getByRole('button', { name: 'Save map' })).toBeDisabled(); // it is as the file has it
  writeFileSync(root(MAP), text);
  await expect(page.getByLabel('Title of the map')).toHaveValue('Harbour works 2026');
});

test('what is saved elsewhere and touches nothing that is changed here comes in, and all is saved', async ({ page }) => {
  await openMap(page);
  const before = readFileSync(root(MAP), 'utf8');
  const other = /"title": "(?!Harbour works)([^"]+)"/.exec(before)![1]!;
  await page.getByLabel('Title of the map').fill('Mine');
  writeFileSync(root(MAP), before.replace(`"title": "${other}"`, '"title": "Named there"'));
  await expect(page.getByText(/What was changed there is here now, with your changes/)).toBeVisible();
  await expect(page.getByRole('button', { name: /^Named there/ }).first()).toBeVisible();
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  const saved = readFileSync(root(MAP), 'utf8');
  expect([saved.includes('"title": "Mine"'), saved.includes('"title": "Named there"')]).toEqual([true, true]);
  writeFileSync(root(MAP), before);
});

test('how its paths are stored changes the file under an edit, and the edit is saved all the same', async ({ page }) => {
  await openMap(page);
  const before = readFileSync(root(MAP), 'utf8');
  await page.getByLabel('Title of the map').fill('Stored otherwise');
  const key = /\/p\/([^/]+)\//.exec(page.url())![1]!;
  await page.request.post(`/api/projects/${key}/paths`, { data: { store: 'absolute', map: root(MAP), apply: true } });
  expect(readFileSync(root(MAP), 'utf8')).not.toBe(before);
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(async () => {
    const save = page.getByRole('button', { name: 'Save map' });
    if (await save.isEnabled()) await save.click(); // the first one may come before the other file is seen
    expect(readFileSync(root(MAP), 'utf8')).toContain('"title": "Stored otherwise"');
  }).toPass();
  await expect(page.getByText(/was saved elsewhere/)).toBeHidden();
  writeFileSync(root(MAP), before);
});

test('scale and position: typed, they move the map; the bar says what the scale says', async ({ page }) => {
  await openMap(page);
  await page.getByRole('textbox', { name: 'Scale' }).fill('1:25000');
  await page.getByRole('textbox', { name: 'Scale' }).press('Enter');
  await expect(page.getByRole('textbox', { name: 'Scale' })).toHaveValue('1:25\u202f000');
  const bar = page.getByRole('img', { name: /^Scale bar/ });
  const metres = Number(await bar.getAttribute('data-metres'));
  const width = (await bar.locator('[data-bar]').boundingBox())!.width;
  // Source: OGC 05-077r4, 10.2: a pixel of 0.28 mm, so that 1:25,000 is 7 m a pixel.
  expect(Math.abs(width - metres / 7)).toBeLessThan(1);
  await page.getByRole('textbox', { name: 'Go to a position' }).fill('43.99N 39.2W');
  await page.getByRole('textbox', { name: 'Go to a position' }).press('Enter');
  // Source: cs2cs of PROJ.
  const [x, y] = execFileSync('cs2cs', ['-f', '%.1f', 'EPSG:4326', 'EPSG:32624'], { input: '43.99 -39.2\n' })
    .toString()
    .split(/\s+/)
    .map(Number);
  const off = async (): Promise<number> => {
    const shown = (await page.getByRole('note', { name: 'Position' }).textContent())!.replaceAll('\u202f', '');
    const [, e, n] = /E ([\d.]+)\s+N ([\d.]+)/.exec(shown)!.map(Number);
    return Math.max(Math.abs(e! - x!), Math.abs(n! - y!));
  };
  await expect.poll(off).toBeLessThan(1);
});

test('data from outside is asked about; a rehearsal says that it would be lost on a stick; one button makes it safe', async ({ page }) => {
  await openMap(page);
  await page.getByRole('button', { name: 'Bring into map' }).click();
  await page.getByRole('button', { name: 'From outside the project…' }).click();
  const chooser = page.getByRole('dialog', { name: 'Data from outside the project' });
  for (const step of [/^share/, /^other_team/]) await chooser.getByRole('button', { name: step }).click();
  await chooser.getByRole('button', { name: /wind_stations\.shp/ }).click();
  const asked = page.getByRole('dialog', { name: 'Data from outside the project' });
  await asked.getByRole('radio', { name: /^Leave it/ }).check();
  await asked.getByRole('button', { name: 'Add 1 layer' }).click();
  await expect(page.getByText('This data stands outside the project: it does not move with it.')).toBeVisible();
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();

  await page.getByRole('tab', { name: 'Rehearse' }).click();
  await expect(page.getByText('1 layer of 5 would be lost.')).toBeVisible();
  const first = page.getByRole('table', { name: 'Layers after it' }).getByRole('row').first();
  await expect(first).toContainText('wind stations');
  await expect(first).toContainText('sound → adrift · bring its data in');
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make this move safe' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('received/other_team/wind_stations.shp', { exact: true })).toBeVisible();
  await dialog.getByRole('button', { name: 'Fix 1 layer' }).click();
  await expect(page.getByText('No layer would be lost: 5 layers of 5 would be sound.')).toBeVisible();
  expect(existsSync(root('received', 'other_team', 'wind_stations.dbf'))).toBe(true);
  expect(read().features.map((f) => f.properties.offerings[0]!.contents[0]!.href)).toContain('../received/other_team/wind_stations.shp');
  // What was promised is what is found: the project is really copied, and opened where only the copy is.
  const stick = join(folder, 'stick-elsewhere', 'ellisande_seagrass');
  execFileSync('cp', ['-r', root(), '--', join(folder, 'copied')]);
  execFileSync('mkdir', ['-p', join(folder, 'stick-elsewhere')]);
  execFileSync('mv', [join(folder, 'copied'), stick]);
  for (const f of read().features) {
    const href = decodeURIComponent(f.properties.offerings[0]!.contents[0]!.href.split('#')[0]!);
    expect([href, existsSync(join(stick, 'maps', href))]).toEqual([href, true]);
  }
});

test('a line with a depth is drawn into a new dataset, by pointer and by typed positions, and comes into the map', async ({ page }) => {
  await openMap(page);
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Draw a new dataset' }).click();
  await page.getByLabel('Name', { exact: true }).fill('cable route');
  await page.getByRole('combobox', { name: 'Written as' }).click();
  await page.getByRole('option', { name: 'Shapefile' }).click();
  await page.getByRole('button', { name: 'Start drawing' }).click();
  const box = (await page.getByRole('application', { name: /^Map / }).boundingBox())!;
  await page.mouse.click(box.x + 220, box.y + 180);
  await page.waitForTimeout(350);
  await page.mouse.click(box.x + 320, box.y + 240);
  await page.waitForTimeout(350);
  await page.mouse.dblclick(box.x + 420, box.y + 330);
  await expect(page.getByRole('group', { name: 'Values of the chosen record' })).toBeVisible();
  await page.getByLabel('depth', { exact: true }).fill('12.5');
  await page.getByLabel('depth', { exact: true }).press('Enter');
  for (const at of ['482000 4871000', '483000 4871500']) {
    await page.getByLabel('Or type a position').fill(at);
    await page.getByLabel('Or type a position').press('Enter');
  }
  await page.getByRole('button', { name: 'Finish' }).click();
  await expect(page.getByRole('table', { name: /^Records of/ }).getByRole('row')).toHaveCount(2);
  await page.getByRole('button', { name: 'Take the last edit back' }).click();
  await expect(page.getByRole('table', { name: /^Records of/ }).getByRole('row')).toHaveCount(1);
  await page.getByRole('button', { name: 'Do the edit again' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Save 2 edits' }).click();
  await expect(page.getByText(/Saved: cable_route\.shp has 2 records now/)).toBeVisible();
  await expect(layer(page, 'cable route')).toBeVisible();
  // Source: GDAL reads the shapes and the values.
  const told = execFileSync('ogrinfo', ['-al', root('derived', 'cable_route.shp')], { stdio: ['ignore', 'pipe', 'inherit'] }).toString();
  expect(told).toMatch(/Feature Count: 2/);
  expect(told).toMatch(/depth \(Real\) = 12\.5/);
  expect(told).toMatch(/LINESTRING \(482000 4871000,483000(\.0)? 4871500\)/);
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
});

test('a page at 1:25,000 with title, legend, bar, north, attribution and date, as PDF', async ({ page }) => {
  await openMap(page);
  await page.getByRole('button', { name: 'Print frame' }).click();
  const dialog = page.getByRole('dialog', { name: 'Print frame' });
  await dialog.getByLabel('Scale', { exact: true }).fill('1:25 000');
  await dialog.getByLabel('Title').fill('Harbour works');
  await dialog.getByLabel('Attribution').fill('');
  await expect(dialog.getByRole('note', { name: 'What is missing' })).toContainText('Nothing says where the data comes from');
  await dialog.getByLabel('Attribution').fill('Hydrographic office of Ellisande, 2026');
  await expect(dialog.getByRole('img', { name: /^The page/ })).toHaveAttribute('data-drawn', 'true');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Write the PDF' }).click();
  await expect(dialog).toBeHidden({ timeout: 60_000 });
  const file = root('exports', (await page.getByText(/exports\/.*\.pdf is written/).textContent())!.match(/exports\/(.*?\.pdf)/)![1]!);
  // Source: poppler's pdftotext and pdfinfo.
  const text = execFileSync('pdftotext', ['-layout', file, '-']).toString();
  for (const mark of [
    'Harbour works',
    '1:25 000 · WGS 84 / UTM zone 24N (EPSG:32624)',
    'Hydrographic office of Ellisande, 2026',
    '1 km',
    'lights',
    'depth model',
  ])
    expect(text.replaceAll('\u00a0', ' ')).toContain(mark);
  expect(text).toMatch(/^\s*N\s*$/m);
  expect(execFileSync('pdfinfo', [file]).toString()).toMatch(/Page size:\s+841\.89 x 595\.276 pts \(A4\)/);
});

test('chosen references alone are switched; a style that went astray is told, found by its name, and mended', async ({ page }) => {
  const approach = root('maps', 'harbour_approach.owc.json');
  const before = readFileSync(approach, 'utf8');
  await openStop(page, STUDY, 'maps?map=maps/harbour_approach.owc.json');
  const row = page.getByRole('row', { name: /Lights/ });
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Store absolutely' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Store absolutely: 1 layer' }).click();
  await expect(row).toContainText('absolute');
  await expect(page.getByRole('row', { name: /Fairway/ })).toContainText('relative');
  await row.getByRole('checkbox').check();
  await page.getByRole('button', { name: 'Store relatively' }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Store relatively: 1 layer' }).click();
  await expect(row).toContainText('relative');
  expect(readFileSync(approach, 'utf8')).toBe(before);
  await page.getByRole('checkbox', { name: 'By folder' }).click();
  await expect(page).toHaveURL(/group=folder/);
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'Folder of the data' })).toBeVisible();
  // The folder is said once for its layers.
  await expect(page.getByRole('gridcell', { name: /^received\/\s*hydro_office$/ })).toHaveCount(1);
  await expectAccessible(page);
  await page.getByRole('checkbox', { name: 'By folder' }).click();

  const map = JSON.parse(before) as { features: { properties: { title: string; offerings: { styles?: unknown }[] } }[] };
  const lights = map.features.find((f) => f.properties.title === 'Lights')!;
  lights.properties.offerings[0]!.styles = [
    { name: 'lights', content: { type: 'application/vnd.ogc.sld+xml', href: '../looks/lights.sld' } },
  ];
  writeFileSync(approach, JSON.stringify(map, null, 2));
  await expect(row).toContainText('adrift: ../looks/lights.sld');
  execFileSync('mkdir', ['-p', root('styles')]);
  writeFileSync(root('styles', 'lights.sld'), '<StyledLayerDescriptor version="1.0.0" xmlns="http://www.opengis.net/sld"/>');
  await openStop(page, STUDY, 'mend');
  const styles = page.getByRole('region', { name: 'Style files adrift' });
  await expect(styles).toContainText('The only file in reach that has its name.');
  await expectAccessible(page);
  await styles.getByRole('button', { name: 'Mend 1 style' }).click();
  await expect(page.getByText(/1 style mended in 1 map/)).toBeVisible();
  expect(readFileSync(approach, 'utf8')).toBe(JSON.stringify(map, null, 2).replace('../looks/lights.sld', '../styles/lights.sld'));
});

test('how new maps store is set for the project; the copy that was rehearsed is really made', async ({ page }) => {
  await openStop(page, STUDY, 'maps');
  for (const [now, then, adverb] of [
    ['relative', 'absolute', 'absolutely'],
    ['absolute', 'relative', 'relatively'],
  ] as const) {
    await page.getByRole('button', { name: `For new maps: ${now}` }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: `New maps store ${adverb}` })
      .click();
    await expect(page.getByRole('button', { name: `For new maps: ${then}` })).toBeVisible();
  }
  await page.goto(`${page.url().split('?')[0]}?map=${MAP}&panel=rehearse`);
  await page.getByRole('button', { name: 'Copy it now…' }).click();
  const chooser = page.getByRole('dialog', { name: 'Where the copy goes' });
  await chooser.getByRole('button', { name: /^stick/ }).click();
  await chooser.getByRole('button', { name: 'Use this folder' }).click();
  const copying = page.getByRole('dialog', { name: 'Copy the project' });
  await copying.getByRole('button', { name: 'Copy it' }).click();
  await expect(copying).toHaveCount(0);
  const copy = join(folder, 'places', 'stick', 'ellisande_seagrass');
  await expect.poll(() => existsSync(join(copy, MAP))).toBe(true);
  expect(readFileSync(join(copy, MAP))).toEqual(readFileSync(root(MAP)));
});
