import { execFileSync } from 'node:child_process';
import { appendFileSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');
test.describe.configure({ mode: 'serial' });

const METHOD = 'Beds digitised at 1:5 000, made for maps of 1:10 000 and smaller.';
const inArrivals = (...parts: string[]): string => join(folder, 'places', 'arrivals', ...parts);
const entry = (zip: string, pattern: string): string => execFileSync('unzip', ['-p', zip, pattern], { encoding: 'utf8' });

async function receiveInto(page: import('@playwright/test').Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Choose where it goes' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^arrivals/ }).click();
  await dialog.getByLabel('New folder').fill(name);
  await dialog.getByRole('button', { name: 'Make it here' }).click();
  await page.getByRole('button', { name: 'Check and receive' }).click();
}

test('five layers draw on data outside the root: said, with the way to bring it along', async ({ page }) => {
  writeFileSync(
    join(folder, 'places/share/base_library/datapackage.json'),
    JSON.stringify({
      resources: [
        {
          name: 'coastline',
          path: 'coastline.gpkg',
          sources: [{ title: 'Coast Survey' }],
          licenses: [{ name: 'CC-BY-4.0' }],
          'rootmap:attribution': 'Coastline by the Coast Survey',
        },
      ],
    }),
  );
  await openStop(page, STUDY, 'send');
  const checks = page.getByRole('region', { name: /Checks/ });
  await expect(checks.getByText('30 of 36 layers sound, 1 not asked')).toBeVisible();
  await expect(checks.getByText('Coastline: its data does not travel')).toBeVisible();
  await expectAccessible(page);
  await checks.getByRole('button', { name: 'Bring the data along' }).click();
  await expect(checks.getByText('35 of 36 layers sound, 1 not asked')).toBeVisible();
  await page.getByRole('checkbox', { name: /^Bring along .*wind_stations\.shp/ }).click();
  await expect(checks.getByText('34 of 36 layers sound, 1 not asked')).toBeVisible();
  await page.getByRole('checkbox', { name: /^Bring along .*wind_stations\.shp/ }).click();
  await expect(checks.getByText('35 of 36 layers sound, 1 not asked')).toBeVisible();
});

test('laid out by a delivery plan, folders put elsewhere by a list and by dragging; all references follow, and it is made', async ({
  page,
}) => {
  await openStop(page, STUDY, 'send');
  await page.getByRole('checkbox', { name: 'Bring along what stands outside the root' }).click();
  await page.getByLabel('Laid out').click();
  await page.getByRole('option', { name: 'Delivery, numbered' }).click();
  const report = page.getByRole('group', { name: '3_report' });
  await expect(report).toContainText('1 file');
  await page.getByLabel('Move moorings_2026 to').press('Enter');
  await page.getByRole('option', { name: '3_report' }).click();
  await expect(report).toContainText('moorings_2026/');
  const beds = page.getByRole('button', { name: 'Drag beds' });
  const from = (await beds.boundingBox())!;
  const to = (await report.boundingBox())!;
  await page.mouse.move(from.x + 10, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 20, from.y + 20, { steps: 3 });
  await page.mouse.move(to.x + 60, to.y + 20, { steps: 8 });
  await page.mouse.up();
  await expect(report).toContainText('beds/');
  await expect(page.getByRole('region', { name: /Checks/ }).getByText('35 of 36 layers sound, 1 not asked')).toBeVisible();
  await page.getByLabel('Method and scales, for the read-me').fill(METHOD);
  await page.getByRole('button', { name: 'Keep this text' }).click();
  await expect(page.getByText('The text is in the project file.')).toBeVisible();
  expect(JSON.parse(readFileSync(desk('ellisande_seagrass/ellisande_seagrass.rootmap.json'), 'utf8')).method).toBe(METHOD);
  await page.reload();
  await expect(page.getByRole('group', { name: '3_report' })).toContainText('beds/');
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
});

test('read back, and received where share and stick are unplugged: every layer sound, attributions in the read-me', async ({ page }) => {
  await openStop(page, STUDY, 'send');
  const zip = desk('ellisande_seagrass.zip');
  const readMe = entry(zip, '*/READ_ME.txt');
  for (const text of [METHOD, 'Coastline by the Coast Survey', 'Creative Commons Attribution 4.0', 'Sea chart backdrop'])
    expect(readMe).toContain(text);
  expect(JSON.parse(readFileSync(desk('ellisande_seagrass.receipt.json'), 'utf8')).layersOnArrival).toEqual({ sound: 35, 'not-asked': 1 });
  await page.getByRole('button', { name: 'Demo devices' }).click();
  for (const device of ['share plugged in', 'stick plugged in'])
    await page.getByRole('dialog', { name: 'Demo devices' }).getByRole('switch', { name: device }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await expect(page.getByText(/^Sent by .*, as its receipt says$/)).toBeVisible();
  await expect(page.getByText(/7 maps with 36 layers/)).toBeVisible();
  await expectAccessible(page);
  await receiveInto(page, 'delivered');
  await expect(page.getByText(/Arrived whole: \d+ files/)).toBeVisible();
  await expect(page.getByText('all 35 layers sound, 1 not asked')).toBeVisible();
  expect(existsSync(inArrivals('delivered/3_report/moorings_2026/swing_circles.shp'))).toBe(true);
  expect(existsSync(inArrivals('delivered/4_origins/base_library/coastline.gpkg'))).toBe(true);
  await page.getByRole('button', { name: 'Demo devices' }).click();
  for (const device of ['share plugged in', 'stick plugged in'])
    await page.getByRole('dialog', { name: 'Demo devices' }).getByRole('switch', { name: device }).click();
});

test('light: only what maps use, without originals of 2019; a copy to a place without a zip', async ({ page }) => {
  await openStop(page, STUDY, 'send');
  await page.getByLabel('Laid out').click();
  await page.getByRole('option', { name: 'As it is' }).click();
  await page.getByLabel('Only what maps use').click();
  await page.getByText(/^Stays out:/).click();
  await page.getByLabel('Path or pattern').fill('transects*');
  await page.getByRole('button', { name: 'Leave out' }).click();
  await expect(page.getByText('left out by transects*').first()).toBeVisible();
  await expect(page.getByRole('region', { name: /Checks/ }).getByText('34 of 36 layers sound, 1 not asked')).toBeVisible();
  await page.getByRole('button', { name: 'Add a letter, a photograph, another file…' }).click();
  await page.getByRole('dialog').getByRole('button', { name: /^desk/ }).click();
  await page
    .getByRole('dialog')
    .getByRole('button', { name: /^downloads/ })
    .click();
  await page.getByRole('dialog').getByRole('button', { name: 'Add this folder' }).click();
  await expect(page.getByText('desk: downloads')).toBeVisible();
  await page.getByLabel('A copy at a place, without a zip').click();
  await page.getByRole('button', { name: 'Copy it there' }).click();
  // The bundle of the test before stands there until this one is asked for.
  await expect(page.getByRole('status').filter({ hasText: 'ellisande_seagrass_2_copy' })).toContainText('is made and was read back');
  const copy = desk('ellisande_seagrass_2_copy');
  execFileSync('sha256sum', ['--strict', '--quiet', '-c', 'manifest-sha256.txt'], { cwd: copy });
  expect(existsSync(join(copy, 'data/received/field_2025/transects.shp'))).toBe(false);
  expect(existsSync(join(copy, 'data/added/downloads'))).toBe(true);
});

test('a newer edition comes back: what changed, taken over as one change, and undone', async ({ page }) => {
  await openStop(page, STUDY, 'send');
  for (const label of ['The whole root', 'One zip (BagIt in it)']) await page.getByLabel(label).click();
  await page.evaluate(() => sessionStorage.clear());
  await page.getByText(/^Stays out:/).click();
  await page.getByRole('button', { name: 'transects*' }).press('Delete');
  await expect(page.getByRole('region', { name: /Checks/ }).getByText('35 of 36 layers sound, 1 not asked')).toBeVisible();
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await receiveInto(page, 'colleague');
  await expect(page.getByText(/Arrived whole/)).toBeVisible();
  appendFileSync(inArrivals('colleague/documents/method.md'), '\nChecked by a colleague.\n');
  appendFileSync(desk('ellisande_seagrass/received/read_me.txt'), '\nNoted here meanwhile.\n');
  await page.getByRole('link', { name: 'Open the project' }).click();
  await page.getByRole('link', { name: 'Send', exact: true }).click();
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await page.getByLabel('Compare with').click();
  await page.getByRole('option', { name: 'desk: gis/ellisande_seagrass' }).click();
  await expect(page.getByText('1 changed by the sender')).toBeVisible();
  await expect(page.getByText('1 changed here since')).toBeVisible();
  await page.getByRole('button', { name: /^Take over \d+ files/ }).click();
  await expect(page.getByText(/Arrived whole/)).toBeVisible();
  expect(readFileSync(desk('ellisande_seagrass/documents/method.md'), 'utf8')).toContain('Checked by a colleague.');
  expect(readFileSync(desk('ellisande_seagrass/received/read_me.txt'), 'utf8')).toContain('Noted here meanwhile.');
  await page.goto('/journal');
  await page
    .getByRole('button', { name: /^Undo: Take over/ })
    .first()
    .click();
  await page.getByRole('dialog').getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(page.getByText(/^Undone:/)).toBeVisible();
  expect(readFileSync(desk('ellisande_seagrass/documents/method.md'), 'utf8')).not.toContain('Checked by a colleague.');
});
