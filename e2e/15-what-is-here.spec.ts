import { execFileSync } from 'node:child_process';
import type { Locator, Page } from '@playwright/test';
import { desk, expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

const look = async (page: Page, name: string): Promise<void> => {
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/${name}.png` });
};

async function openMap(page: Page, more = ''): Promise<void> {
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}${more}`);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-pictures', '5');
}

test('a click tells what is here, values and pixel; the table below chooses with it', async ({ page }) => {
  await openMap(page);
  const card = page.getByRole('region', { name: 'What is here' });
  // The position of the first light, as ogrinfo reads it.
  const told = execFileSync('ogrinfo', [
    '-q',
    '-ro',
    '-fid',
    '0',
    desk('ellisande_seagrass/received/hydro_office/lights.shp'),
    'lights',
  ]).toString();
  const [, x, y] = /POINT \(([\d.]+) ([\d.]+)\)/.exec(told)!;
  const name = /light_nm \(String\) = (\S+)/.exec(told)![1]!;
  await page.getByRole('textbox', { name: 'Scale' }).fill('1:20000');
  await page.getByRole('textbox', { name: 'Scale' }).press('Enter');
  await page.getByRole('textbox', { name: 'Go to a position' }).fill(`${x} ${y}`);
  await page.getByRole('textbox', { name: 'Go to a position' }).press('Enter');
  // By keyboard: Enter asks in the middle of the map.
  await page.getByRole('application', { name: /^Map / }).press('Enter');
  await expect(card.getByRole('group', { name: 'Lights' }).getByRole('button')).toHaveText(/^point, record 0$/);
  await expect(card.getByLabel('Values')).toContainText(name);
  await expect(card.getByRole('group', { name: 'Depth model' })).toBeVisible();
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await card.getByRole('button', { name: 'Copy light_nm' }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe(name);
  await expectAccessible(page);
  // The pixel, as gdallocationinfo reads it.
  await card.getByRole('group', { name: 'Depth model' }).getByRole('button').click();
  const raster = desk('ellisande_seagrass/received/hydro_office/depth_model.tif');
  const pixel = Number(execFileSync('gdallocationinfo', ['-valonly', '-geoloc', raster, x!, y!]).toString());
  expect(Number(await card.getByLabel('Values').getByRole('definition').first().textContent())).toBeCloseTo(pixel, 5);
  await look(page, 'here-raster');
  await card.getByRole('group', { name: 'Lights' }).getByRole('button').click();
  await card.getByRole('button', { name: 'See it in its table' }).click();
  const table = page.getByRole('region', { name: 'Table of Lights' });
  await expect(table.getByRole('row', { selected: true })).toContainText(name);
  await look(page, 'here-table');
  // A slow answer to where the chosen record lies takes no press away.
  await page.route('**/rows', async (route) => {
    const { seek } = route.request().postDataJSON() as { seek: number | null };
    if (seek !== null) await new Promise((done) => setTimeout(done, 1500));
    await route.continue();
  });
  await table.getByRole('row').nth(3).click();
  await expect(table.getByRole('status')).toHaveText(/, 1 chosen$/);
  await table
    .getByRole('row')
    .nth(4)
    .click({ modifiers: ['Control'] });
  await expect(table.getByRole('status')).toHaveText(/, 2 chosen$/);
  await page.getByRole('button', { name: 'Zoom to what is chosen' }).click();
  await expect(page.getByRole('textbox', { name: 'Scale' })).not.toHaveValue(/^1:20.000$/);
  await expectAccessible(page);
  await look(page, 'here-chosen');
  await page.reload();
  await expect(table).toBeVisible();
  await table.getByRole('button', { name: 'Close the table' }).click();
  await expect(table).toBeHidden();
});

test('a view gets a name, is kept in the map, and is gone to', async ({ page }) => {
  await openMap(page);
  const scale = page.getByRole('textbox', { name: 'Scale' });
  await scale.fill('1:12500');
  await scale.press('Enter');
  const views = page.getByRole('dialog', { name: 'Named views' });
  await page.getByRole('button', { name: 'Named views' }).click();
  await views.getByLabel('Name of this view').fill('Harbour mouth');
  await views.getByRole('button', { name: 'Keep' }).click();
  await expect(views.getByRole('button', { name: /^Harbour mouth/ })).toContainText(/1:12.500$/);
  await expectAccessible(page);
  await look(page, 'views');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await openMap(page);
  await page.getByRole('button', { name: 'Zoom to all layers' }).click();
  await expect(scale).not.toHaveValue(/^1:12.500$/);
  await page.getByRole('button', { name: 'Named views' }).click();
  await views.getByRole('button', { name: /^Harbour mouth/ }).click();
  await expect(scale).toHaveValue(/^1:12.500$/);
});

test('a part of a layer becomes a table and a file: the records that ogr2ogr takes', async ({ page }) => {
  await openMap(page);
  await page.getByRole('button', { name: /^Monitoring sites(?! part)/ }).click();
  await page.getByRole('tab', { name: 'Layer', exact: true }).click();
  await page.getByRole('button', { name: 'Take a part out' }).click();
  const dialog = page.getByRole('dialog', { name: 'A part of Monitoring sites' });
  await dialog.getByLabel('And where').fill('depth_m > 1000000');
  await expect(dialog).toContainText('no record is like that');
  await dialog.getByLabel('And where').fill('depth_m >');
  await expect(dialog).toContainText('cannot be used');
  const base = desk('ellisande_seagrass/geodatabases/ellisande.gpkg');
  const count = (path: string, sql: string): number =>
    Number(/n \(Integer\) = (\d+)/.exec(execFileSync('ogrinfo', ['-q', '-ro', path, '-dialect', 'sqlite', '-sql', sql]).toString())![1]);
  const wanted = count(base, 'SELECT count(*) AS n FROM monitoring_sites WHERE depth_m > 10');
  expect(wanted).toBeGreaterThan(0);
  await dialog.getByLabel('And where').fill('depth_m > 10');
  await expect(dialog.getByRole('button', { name: `Take ${wanted} records out` })).toBeEnabled();
  await expectAccessible(page);
  await look(page, 'part');
  await dialog.getByRole('button', { name: `Take ${wanted} records out` }).click();
  await expect(dialog).toContainText(`${wanted} records written of ${wanted} taken.`);
  expect(count(base, 'SELECT count(*) AS n FROM monitoring_sites_part')).toBe(wanted);
  await dialog.getByRole('button', { name: 'Bring it into this map' }).click();
  await expect(page.getByRole('button', { name: /^Monitoring sites part/ })).toBeVisible();
  // By what the map shows, as a file.
  await page.getByRole('button', { name: 'Zoom to all layers' }).click();
  await page.getByRole('button', { name: /^Monitoring sites(?! part)/ }).click();
  await page.getByRole('tab', { name: 'Layer', exact: true }).click();
  await page.getByRole('button', { name: 'Take a part out' }).click();
  await dialog.getByLabel('What meets the part that the map shows now').check();
  await dialog.getByLabel('A file').check();
  await dialog.getByRole('button', { name: /^Take \d+ records? out$/ }).click();
  await expect(dialog).toContainText(/\d+ records? written/);
  await dialog.getByRole('button', { name: 'Close' }).click();
});

/** Two presses with no time between them: the second is meant for what the first has opened. */
const pressAtOnce = (first: Locator, then: string): Promise<void> =>
  first.evaluate(async (button: HTMLElement, name) => {
    button.click();
    await new Promise((later) => setTimeout(later));
    [...document.querySelectorAll('button')].find((b) => b.textContent === name)!.click();
  }, then);

test('a look is kept, given to another layer, and goes to others as a style file', async ({ page }) => {
  await openMap(page);
  await page.getByRole('button', { name: /^Lights/ }).click();
  await page.getByRole('button', { name: 'Kept looks' }).click();
  const shelf = page.getByRole('dialog', { name: 'Kept looks' });
  await shelf.getByLabel('Name').fill('Green lights');
  await shelf.getByRole('button', { name: 'Keep this look' }).click();
  await expectAccessible(page);
  await look(page, 'kept-looks');
  const [saved] = await Promise.all([page.waitForEvent('download'), shelf.getByRole('button', { name: 'Save as a style file' }).click()]);
  const style = await saved.path();
  // Outside reference: Python's own reader of XML.
  const read = 'import xml.etree.ElementTree as E,sys; r=E.parse(sys.argv[1]).getroot(); print(r.tag, r.get("version"))';
  expect(execFileSync('/usr/bin/python3', ['-c', read, style]).toString().trim()).toBe(
    '{http://www.opengis.net/sld}StyledLayerDescriptor 1.1.0',
  );
  await page.keyboard.press('Escape');
  // The fairway is lines: it cannot have it, and says why.
  await pressAtOnce(page.getByRole('button', { name: /^Fairway/ }), 'Kept looks');
  await expect(shelf.getByRole('button', { name: 'Green lights: it is for points' })).toBeDisabled();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Monitoring sites(?! part)/ }).click();
  await page.getByRole('button', { name: 'Kept looks' }).click();
  await shelf.getByRole('button', { name: 'Green lights', exact: true }).click();
  await expect(page.getByText(/^unsaved: 1 change/)).toBeVisible();
  await page.getByRole('button', { name: 'Take the last step back' }).click();
  await page.getByRole('button', { name: 'Kept looks' }).click();
  await shelf.getByLabel('Style file').setInputFiles(style);
  await expect(page.getByText(/^unsaved: 1 change/)).toBeVisible();
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Drop the unsaved changes' }).click();
});
