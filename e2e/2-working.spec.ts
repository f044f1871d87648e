import { readFileSync, renameSync, writeFileSync } from 'node:fs';
import { desk, expect, openStop, test, useDemo } from './demo.js';

useDemo('mended');

const WORLD = 'World in outline';
const map = desk('world_outline', 'maps', 'world.owc.json');

test('references are switched to absolute and back, shown before, the same bytes after', async ({ page }) => {
  const before = readFileSync(map, 'utf8');
  await openStop(page, WORLD, 'maps');
  await page.getByRole('button', { name: 'Store absolutely' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('file:///D:/gis/world_outline/received/land.shp')).toBeVisible();
  expect(readFileSync(map, 'utf8')).toBe(before);
  await dialog.getByRole('button', { name: 'Rewrite 2 references' }).click();
  await expect(page.getByText(/2 references rewritten/)).toBeVisible();
  expect(readFileSync(map, 'utf8')).toContain('file:///D:/gis/world_outline/received/land.shp');
  await page.getByRole('button', { name: 'Store relatively' }).click();
  await dialog.getByRole('button', { name: 'Rewrite 2 references' }).click();
  await expect(dialog).toBeHidden();
  await expect.poll(() => readFileSync(map, 'utf8')).toBe(before);
});

test('what changes on disk is seen without asking; pointing mends it', async ({ page }) => {
  await openStop(page, WORLD, 'overview');
  await expect(page.getByText('Every layer is sound', { exact: true })).toBeVisible();
  // Another name and another content: nothing but a person can tell that this is the data.
  for (const e of ['shp', 'shx', 'dbf', 'prj', 'cpg'])
    renameSync(desk('world_outline', 'received', `land.${e}`), desk('world_outline', 'received', `zz_masses.${e}`));
  const dbf = readFileSync(desk('world_outline', 'received', 'zz_masses.dbf'));
  dbf[dbf.length - 2] = 0x37;
  writeFileSync(desk('world_outline', 'received', 'zz_masses.dbf'), dbf);
  await expect(page.getByText('1 layer is adrift in World')).toBeVisible();
  await page.getByRole('link', { name: 'See the proof and mend 1' }).click();
  await page.getByRole('button', { name: 'Point to its data instead' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^received$/ }).click(); // choosing starts at the project
  await dialog.getByRole('button', { name: /zz_masses\.shp/ }).click();
  await expect(dialog.getByText('This explains 1 layer')).toBeVisible();
  await dialog.getByRole('button', { name: 'Mend 1 layer' }).click();
  await expect(page.getByText('Every layer is sound', { exact: true })).toBeVisible();
  expect(readFileSync(map, 'utf8')).toContain('"../received/zz_masses.shp"');
});

test('a damaged map is told with line and column; the rest goes on', async ({ page }) => {
  const path = desk('world_outline', 'maps', 'broken.owc.json');
  await openStop(page, WORLD, 'maps');
  writeFileSync(path, '{\n  "type": "FeatureCollection"\n  "features": []\n}');
  await expect(page.getByText(/damaged at line 3, column 3/)).toBeVisible();
  await expect(page.getByRole('gridcell', { name: 'Countries', exact: true })).toBeVisible();
  renameSync(path, desk('world_outline', 'broken.txt'));
  await expect(page.getByText(/damaged at line 3/)).toBeHidden();
});

test('a stick is pulled and comes back under another letter', async ({ page }) => {
  await openStop(page, 'Ellisande seagrass and moorings', 'overview');
  await page.getByRole('button', { name: 'Demo devices' }).click();
  const panel = page.getByRole('dialog', { name: 'Demo devices' });
  await panel.getByRole('switch', { name: 'stick plugged in' }).click();
  await expect(page.getByText('2 layers wait for a place')).toBeVisible();
  await expect(page.locator('footer')).toContainText(/stick E: absent/);
  await panel.getByRole('switch', { name: 'stick plugged in' }).click();
  await expect(page.getByText('2 layers wait for a place')).toBeHidden();
  const name = panel.getByRole('textbox', { name: 'Drive name of stick' });
  await name.fill('F:');
  await name.locator('xpath=ancestor::*[.//button][1]').getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByText(/2 layers are adrift in Regional overview/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: /See the proof and mend 2: .* Regional overview/ }).click();
  await expect(page.getByRole('region', { name: 'What explains it' }).getByText('certain').first()).toBeVisible();
  // Said once, the maps stay as they are.
  const map = desk('ellisande_seagrass', 'maps', 'regional_overview.owc.json');
  const before = readFileSync(map, 'utf8');
  await page.getByRole('button', { name: 'Say that E: is the place stick' }).click();
  await expect(page.getByText(/E: is the place stick now, until the next start/)).toBeVisible();
  await expect(page.getByText('Every layer is sound, 1 not asked', { exact: true })).toBeVisible();
  expect(readFileSync(map, 'utf8')).toBe(before);
  await page.getByRole('button', { name: 'Demo devices' }).click();
  await name.fill('E:');
  await name.locator('xpath=ancestor::*[.//button][1]').getByRole('button', { name: 'Rename' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByText('Every layer is sound, 1 not asked', { exact: true })).toBeVisible();
});

test('reload and Back keep the place', async ({ page }) => {
  await openStop(page, WORLD, 'maps');
  await page.getByRole('button', { name: /^World maps/ }).click();
  await expect(page).toHaveURL(/map=maps%2Fworld/);
  await page.reload();
  await expect(page.getByRole('heading', { name: 'World', level: 1 })).toBeVisible();
  await page.getByRole('link', { name: 'Overview' }).click();
  await expect(page).toHaveURL(/overview/);
  await page.goBack();
  await expect(page.getByRole('heading', { name: 'World', level: 1 })).toBeVisible();
});

test('every stop of a project leads to its page', async ({ page }) => {
  await openStop(page, WORLD, 'overview');
  const trail = page.getByRole('navigation', { name: 'Stops of the project' });
  await expect(trail.getByRole('link')).toHaveText(['Overview', 'Folders', 'Sources', 'Geodatabases', 'Maps', 'Mend', 'Quality', 'Send']);
  await trail.getByRole('link', { name: 'Quality' }).click();
  await expect(page.getByRole('heading', { name: 'Quality', level: 1 })).toBeVisible();
});

test('bad input gets a sentence, no stack', async ({ page }) => {
  await page.goto('/p/000000000000/overview');
  await expect(page.getByRole('alert')).toContainText('There is no project "000000000000" here.');
  await page.goto('/nowhere/at/all');
  await expect(page.getByText('There is nothing at this address')).toBeVisible();
  await page.goto('/receive?place=desk&path=gis/nothing.zip');
  await page.getByRole('button', { name: 'Choose where it goes' }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^arrivals/ })
    .click();
  await page.getByRole('dialog').getByRole('textbox', { name: 'New folder' }).fill('x');
  await page.getByRole('dialog').getByRole('button', { name: 'Make it here' }).click();
  await page.getByRole('button', { name: 'Check and receive' }).click();
  await expect(page.getByRole('alert')).toContainText('There is nothing at');
});
