import type { Locator, Page } from '@playwright/test';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, folder, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const downloads = (name: string): string => join(folder, 'places', 'desk', 'downloads', name);
const card = (page: Page, name: string): Locator => page.getByRole('region', { name, exact: true });
const rowOf = (page: Page, name: RegExp): Locator => page.getByRole('grid', { name: 'Datasets' }).getByRole('row', { name });

test('five archives are dropped: each is looked at before anything is unpacked', async ({ page }) => {
  const before = readdirSync(root(), { recursive: true }).length;
  await openStop(page, STUDY, 'sources?view=intake');
  const names = ['reef survey 2026.zip', 'tide_stations.tar.gz', 'sandbanks.zip', 'wrecks (cut off).zip', 'free charts.zip'];
  await page.getByLabel('Files to bring in').setInputFiles(names.map(downloads));
  await expect(card(page, 'reef survey 2026.zip')).toContainText('areas, 26');
  await expect(card(page, 'reef survey 2026.zip')).toContainText(
    'all in reef_survey, which is left out; 1 file that only a system needs left out',
  );
  await expect(card(page, 'tide_stations.tar.gz')).toContainText('points, 18');
  await expect(card(page, 'sandbanks.zip')).toContainText('no .prj, so its CRS is not known');
  await expect(card(page, 'wrecks (cut off).zip').getByRole('alert')).toContainText('cannot be unpacked: it is damaged');
  const refused = card(page, 'free charts.zip').getByRole('region', { name: 'Refused' });
  for (const path of ['../../escaped.txt', '/etc/cron.d/evil', 'C:/Windows/evil.txt'])
    await expect(refused).toContainText(`${path}: the path leads out of the archive`);
  await expect(refused).toContainText('differs only in case');
  expect(readdirSync(root(), { recursive: true }).length).toBe(before);
  expect(existsSync(join(folder, 'places', 'desk', 'escaped.txt'))).toBe(false);

  // What is dropped is still there after a reload.
  await page.reload();
  await expect(card(page, 'sandbanks.zip')).toBeVisible();
  for (const name of ['wrecks (cut off).zip', 'free charts.zip']) {
    await card(page, name).getByRole('button', { name: 'Do not bring it in' }).click();
    await expect(card(page, name)).toBeHidden();
  }

  const reef = card(page, 'reef survey 2026.zip');
  await expect(reef.getByRole('combobox', { name: 'Licence' })).toHaveValue('CC-BY-4.0'); // its notes say so
  await expect(reef.getByLabel('Fetched on')).toHaveValue('2026-02-14'); // the time of the archive
  await reef.getByLabel('Publisher', { exact: true }).fill('Ellisande Reef Group');
  await reef.getByLabel('Address of the file').fill('https://data.harbour.example/reef.zip');
  await expect(reef.getByRole('region', { name: 'Where it goes' })).toContainText('received/ellisande_reef_group/reef_survey_2026');
  await reef.getByRole('button', { name: 'Bring in 2 things' }).click();
  await expect(reef).toContainText('every checksum is right');
  const tide = card(page, 'tide_stations.tar.gz');
  await tide.getByLabel('Publisher', { exact: true }).fill('Tide Office');
  await tide.getByRole('button', { name: 'Bring in 2 things' }).click();
  await expect(tide).toContainText('every checksum is right');
  const banks = card(page, 'sandbanks.zip');
  await banks.getByLabel('Publisher', { exact: true }).fill('Ellisande Reef Group');
  await banks.getByRole('combobox', { name: 'Licence' }).fill('CC0-1.0');
  await banks.getByRole('button', { name: 'Bring in 2 things' }).click();
  await expect(banks).toContainText('every checksum is right');

  const reefFolder = root('received', 'ellisande_reef_group', 'reef_survey_2026');
  expect(readdirSync(reefFolder).sort()).toEqual([
    'datapackage.json',
    'readme.txt',
    'reef_survey.cpg',
    'reef_survey.dbf',
    'reef_survey.prj',
    'reef_survey.shp',
    'reef_survey.shx',
  ]);
  expect(statSync(join(reefFolder, 'reef_survey.shp')).mode & 0o222).toBe(0);
  const record = JSON.parse(readFileSync(join(reefFolder, 'datapackage.json'), 'utf8')) as { resources: object[] };
  expect(record.resources[0]).toMatchObject({
    path: 'reef_survey.shp',
    sources: [{ title: 'Ellisande Reef Group', path: 'https://data.harbour.example/reef.zip' }],
    licenses: [{ name: 'CC-BY-4.0' }],
  });
});

test('the one without a CRS gets the one in which its coordinates make sense', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=sandbanks');
  await rowOf(page, /sandbanks\.shp/).click();
  await expect(page.getByText('its own coordinates')).toBeVisible();
  await page.getByRole('button', { name: 'Find its CRS' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('radio', { checked: true })).toHaveAccessibleName(
    /WGS 84 \/ UTM zone 24N EPSG:32624.*the project has it; around 4[34].*north, 39.*west/,
  );
  await dialog.getByRole('button', { name: 'It is in WGS 84 / UTM zone 24N' }).click();
  await expect(rowOf(page, /sandbanks\.shp.*EPSG:32624/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rowOf(page, /sandbanks\.shp.*none/)).toBeVisible();
  await page.getByRole('button', { name: 'Find its CRS' }).click();
  await dialog.getByRole('button', { name: 'It is in WGS 84 / UTM zone 24N' }).click();
  await expect(rowOf(page, /sandbanks\.shp.*EPSG:32624/)).toBeVisible();
});

test('any dataset is found by a word in its fields or its origin', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  const find = page.getByRole('textbox', { name: 'Find datasets' });
  await find.fill('reef_nm');
  await expect(page.getByText('1 of')).toBeVisible();
  await expect(rowOf(page, /reef_survey\.shp/)).toBeVisible();
  await find.fill('tide office');
  await expect(rowOf(page, /tide_stations\.geojson/)).toBeVisible();
  await rowOf(page, /tide_stations\.geojson/).click();
  await expect(page.getByText('station_nm')).toBeVisible();
});

test('letters that come faster than the table is drawn are all kept', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  const find = page.getByRole('textbox', { name: 'Find datasets' });
  await find.evaluate((field: HTMLInputElement) => {
    field.focus();
    for (const letter of 'tide office') document.execCommand('insertText', false, letter);
  });
  await expect(find).toHaveValue('tide office');
  await expect(rowOf(page, /tide_stations\.geojson/)).toBeVisible();
});

test('an origin is written down; the attribution line of the maps has it', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=buoys');
  await rowOf(page, /buoys\.shp/).click();
  await page.getByRole('button', { name: 'Write its origin down' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Publisher', { exact: true }).fill('Hydro Office');
  await dialog.getByRole('combobox', { name: 'Licence' }).fill('CC-BY-4.0');
  await dialog.getByRole('button', { name: 'Write it down' }).click();
  await expect(page.getByLabel('Attribution', { exact: true })).toHaveText('© Hydro Office, CC-BY-4.0');
  await expect(rowOf(page, /buoys\.shp.*Hydro Office/)).toBeVisible();
});

test('the share is linked once, at the right level', async ({ page }) => {
  await openStop(page, STUDY, 'sources?view=links');
  const choose = async (...steps: (string | RegExp)[]): Promise<void> => {
    await page.getByRole('button', { name: 'Link a folder' }).click();
    const dialog = page.getByRole('dialog');
    for (const name of steps) await dialog.getByRole('button', { name }).first().click();
    await dialog.getByRole('button', { name: 'Link this folder' }).click();
  };
  const dialog = page.getByRole('dialog');
  // Inside a link already.
  await choose(/^stick/, 'june_dives');
  await expect(dialog.getByText('It is inside the link june_dives already')).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  // A whole place: its cost, and a better part of it.
  await choose(/^desk D:/);
  await expect(dialog.getByText('This is a whole place.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Cancel' }).click();
  // A second folder beside a linked one: linked, and shown at once with what it holds.
  await choose(/^desk D:/, 'downloads');
  await dialog.getByRole('button', { name: /^Link it as downloads/ }).click();
  await expect(page.getByRole('region', { name: 'Link downloads' })).toBeVisible();
  await page.getByRole('region', { name: 'Link june_dives' }).getByRole('button', { name: 'Unlink' }).click();
  await expect(dialog.getByText('2 layers no longer go through a link')).toBeVisible();
  await dialog.getByRole('button', { name: 'Unlink june_dives' }).click();
  const told = page.getByRole('alert').filter({ hasText: 'Unlink june_dives: done.' }); // a page behind a dialog is hidden, too
  await told.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/^Undone: /)).toBeVisible();
  await expect(page.getByRole('region', { name: 'Link june_dives' })).toBeVisible();
});

test('a link whose place is pulled keeps what it held, dated', async ({ page }) => {
  await openStop(page, STUDY, 'sources?view=links');
  const card = page.getByRole('region', { name: 'Link june_dives' });
  await expect(card).toContainText('2 datasets');
  const flip = async (): Promise<void> => {
    await page.getByRole('button', { name: 'Demo devices' }).click();
    await page.getByRole('dialog', { name: 'Demo devices' }).getByRole('switch', { name: 'stick plugged in' }).click();
    await page.keyboard.press('Escape');
  };
  await flip();
  await expect(card).toContainText(/As it was when it was seen last, \d{4}-\d{2}-\d{2} \d{2}:\d{2}: 2 datasets/);
  await expect(card).toContainText('survey_tracks.shp');
  await flip();
  await expect(card.getByText('there', { exact: true })).toBeVisible();
});

test('a new file shows within a second', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=fresh_readings');
  await expect(page.getByText('0 of')).toBeVisible();
  await page.waitForTimeout(1000);
  writeFileSync(root('derived', 'fresh_readings.csv'), 'x,y\n1,2\n');
  await expect(rowOf(page, /fresh_readings\.csv/)).toBeVisible({ timeout: 1000 });
});
