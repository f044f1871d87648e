import type { Locator, Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const rowOf = (page: Page, name: RegExp): Locator => page.getByRole('grid', { name: 'Datasets' }).getByRole('row', { name });

test('every dataset has its picture; a map of it can be moved by keys; what stands in its fields is told', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=depth_contours');
  const row = rowOf(page, /depth_contours/).first();
  await expect(row.locator('[data-thumbnail=line] img')).toBeVisible();
  await row.click();
  const map = page.getByRole('application', { name: /Map of depth_contours/ });
  await expect(map).toHaveAttribute('data-drawn', 'true');
  // Something is drawn: not every pixel of the map is the ground colour.
  const colours = async (): Promise<number> =>
    map
      .locator('canvas')
      .first()
      .evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        return new Set(new Uint32Array(data.buffer)).size;
      });
  expect(await colours()).toBeGreaterThan(2);
  await map.hover();
  await expect(page.getByLabel('Position').first()).toContainText('metres');
  await page.getByRole('button', { name: 'What stands in them' }).click();
  await expect(page.getByText(/different values/).first()).toBeVisible();
  await expect(page.getByText('Transverse Mercator, datum WGS 1984, in metres')).toBeVisible();
  await expectAccessible(page);
});

test('a raster is drawn too', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=bed_density');
  await rowOf(page, /bed_density/).click();
  await expect(page.getByRole('application', { name: /Map of bed_density/ })).toHaveAttribute('data-drawn', 'true');
  await expect(rowOf(page, /bed_density/).locator('[data-thumbnail=raster] img')).toBeVisible();
});

test('the table is narrowed and its columns are chosen; both are there after a reload', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  await page.getByLabel('Which kind').click();
  await page.getByRole('option', { name: 'raster' }).click();
  await expect(page.getByRole('status').filter({ hasText: ' of ' })).toBeVisible();
  await expect(rowOf(page, /buoys/)).toHaveCount(0);
  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByRole('menuitemcheckbox', { name: 'Extent' }).click();
  await page.keyboard.press('Escape');
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'Extent' })).toBeVisible();
  await expect(rowOf(page, /bed_density/)).toBeVisible();
  await expect(rowOf(page, /buoys/)).toHaveCount(0);
  await page.evaluate(() => localStorage.clear());
});

test('which columns of a CSV hold coordinates is confirmed, and undone', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=tide_gauges');
  await rowOf(page, /tide_gauges.*points/).click();
  // What is chosen before the file is read stays chosen.
  await page.route('**/edits/plan*', async (route) => {
    await new Promise((done) => setTimeout(done, 700));
    await route.continue();
  });
  await page.getByRole('button', { name: 'Read it otherwise' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('radio', { name: 'It is a table without places' }).check();
  await dialog.getByRole('button', { name: 'Read it so' }).click();
  await expect(rowOf(page, /tide_gauges.*table/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rowOf(page, /tide_gauges.*points/)).toBeVisible();
  expect(existsSync(root('received', 'field_2025', 'tide_gauges.csvt'))).toBe(false);
});

test('ticked by keyboard: copies in the CRS of the project, counted, read by another program', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=chart_limits');
  await rowOf(page, /chart_limits/).click();
  await expect(rowOf(page, /chart_limits/)).toHaveAttribute('aria-selected', 'true');
  await page.getByRole('rowgroup', { name: 'Rows' }).focus();
  await page.keyboard.press(' ');
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Copies in a CRS' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('As far as is known here, no shift between datums is needed.')).toBeVisible();
  await dialog.getByRole('textbox', { name: 'Folder' }).fill('derived/in_utm');
  await dialog.getByRole('button', { name: 'Make the copy' }).click();
  await expect(dialog.getByText('4 read, 4 written, none left out.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Close' }).click();
  // Outside reference: ogrinfo of Debian's gdal-bin.
  const info = execFileSync('ogrinfo', ['-so', '-al', root('derived', 'in_utm', 'chart_limits_32624.gpkg')]).toString();
  expect(info).toContain('Feature Count: 4');
  expect(info).toContain('UTM zone 24N');
});

test('a raster in another CRS: how its pixels are computed is said before and counted after, and another program reads it', async ({
  page,
}) => {
  await openStop(page, STUDY, 'sources?find=bed_density');
  await page.getByLabel('Tick bed_density.tif').first().check();
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Copies in a CRS' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Coordinate reference system').fill('3857');
  await page.getByRole('option', { name: /Pseudo-Mercator/ }).click();
  await expect(dialog.getByText(/^from EPSG:32624, \d+ × \d+ pixels of /)).toBeVisible();
  await dialog.getByLabel('Pixels of rasters').click();
  await page.getByRole('option', { name: 'Cubic' }).click();
  await expect(dialog.getByText('Cubic: as chosen.')).toBeVisible();
  await dialog.getByLabel('Side of a pixel').fill('-3');
  await expect(dialog.getByText('A number above 0, in the units of the CRS.')).toBeVisible();
  await dialog.getByLabel('Side of a pixel').fill('150');
  await expect(dialog.getByText(/ pixels of 150$/)).toBeVisible();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/raster-copies.png` });
  await dialog.getByRole('textbox', { name: 'Folder' }).fill('derived/in_mercator');
  await dialog.getByRole('button', { name: 'Make the copy' }).click();
  await expect(dialog.getByText(/pixels, .* of them with a value\. Another reader finds each as it was computed\./)).toBeVisible();
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/raster-copies-done.png` });
  await dialog.getByRole('button', { name: 'Close' }).click();
  // Outside reference: gdalinfo of Debian's gdal-bin.
  const info = execFileSync('gdalinfo', [root('derived', 'in_mercator', 'bed_density_3857.tif')]).toString();
  expect(info).toContain('Pixel Size = (150.000000000000000,-150.000000000000000)');
  expect(info).toContain('ID["EPSG",3857]');
});

test('datasets become layers of a new map, in a sensible order, and the references are relative', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  for (const name of ['bed_density.tif', 'buoys.shp', 'depth_contours.shp']) {
    await page.getByLabel('Find datasets').fill(name.replace(/\..*/, ''));
    await page.getByLabel(`Tick ${name}`).first().check();
  }
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Map', { exact: true }).click();
  await page.getByRole('option', { name: 'Start a map with it' }).click();
  await dialog.getByLabel('Its title').fill('Depths and marks');
  await expect(dialog.getByText('3 layers added')).toBeVisible();
  await dialog.getByRole('button', { name: 'Make the map' }).click();
  await expect(page).toHaveURL(/\/maps/);
  const map = JSON.parse(readFileSync(root('maps', 'depths_and_marks.owc.json'), 'utf8')) as {
    features: { properties: { title: string; offerings: { contents: { href: string }[] }[] } }[];
  };
  expect(map.features.map((f) => f.properties.title)).toEqual(['buoys', 'depth contours', 'bed density']);
  for (const f of map.features) expect(f.properties.offerings[0]!.contents[0]!.href).toMatch(/^\.\.\//);
});

test('a companion that stands in downloads comes along with dropped files', async ({ page }) => {
  const downloads = join(folder, 'places', 'desk', 'downloads');
  mkdirSync(join(downloads, 'loose'), { recursive: true });
  for (const ending of ['shp', 'shx', 'dbf'])
    writeFileSync(join(downloads, 'loose', `stray.${ending}`), readFileSync(`testdata/open/shape-types/point.${ending}`));
  renameSync(join(downloads, 'loose', 'stray.dbf'), join(downloads, 'stray.dbf'));
  await openStop(page, STUDY, 'sources?view=intake');
  await page.getByLabel('Files to bring in').setInputFiles(['shp', 'shx'].map((e) => join(downloads, 'loose', `stray.${e}`)));
  const elsewhere = page.getByRole('region', { name: 'Found elsewhere' });
  await expect(elsewhere).toContainText('stray.dbf stands in');
  await elsewhere.getByRole('button', { name: 'Bring it along' }).click();
  await expect(elsewhere).toBeHidden();
  await expect(page.getByRole('group', { name: /What is in/ })).toContainText('3 files');
});
