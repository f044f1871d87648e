import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';
import { join } from 'node:path';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const file = (): string => root('geodatabases', 'harbour_study.gpkg');
// Outside references: ogrinfo and gdalinfo of Debian's gdal-bin, validate_gpkg of python3-gdal.
const VALIDATOR = '/usr/lib/python3/dist-packages/osgeo_utils/samples/validate_gpkg.py';
const ogrinfo = (table: string): string =>
  execFileSync('ogrinfo', ['-so', file(), table], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();

test('a geodatabase is made in the project, under a name that is safe, and worked in', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases');
  await page.getByRole('button', { name: 'Make a geodatabase' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Name')).toHaveValue('ellisande_seagrass_and_moorings');
  await dialog.getByLabel('Name').fill('Harbour study');
  await expect(dialog.getByText(/^Works, but/)).toBeVisible();
  await dialog.getByLabel('Name').fill('harbour_study');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await expect(card).toContainText('It is empty.');
  await card.getByRole('button', { name: 'Work in it' }).click();
  await dialog.getByRole('button', { name: 'Work in it' }).click();
  await expect(card).toContainText('working geodatabase');
  await expectAccessible(page);
});

test('four shapefiles, a raster and a table come in as one queue, names set right on the way, each with its receipt', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await card.getByRole('button', { name: 'Bring data in' }).click();
  const dialog = page.getByRole('dialog');
  for (const name of ['buoys.shp', 'lights.shp', 'fairway.shp', 'depth_contours.shp', 'depth_model.tif', 'ellisande.gpkg#site_visits'])
    await dialog.getByRole('checkbox', { name, exact: true }).first().check();
  const names = dialog.getByLabel(/^Table of/);
  await expect(names).toHaveCount(6);
  await dialog.getByLabel('Table of lights.shp').fill('select');
  await expect(dialog.getByText('Left out: it is a word of SQL.')).toBeVisible();
  await dialog.getByLabel('Table of lights.shp').fill('harbour_lights');
  await expect(dialog.getByText('Left out')).toHaveCount(0);
  await dialog.getByRole('button', { name: 'Bring in 6 datasets' }).click();
  await expect(dialog.getByText('Read back, every value and shape is the same.')).toHaveCount(4);
  await expect(dialog.getByText('Read back, every value is the same.')).toHaveCount(1); // it has no shapes
  await expect(dialog.getByText(/Read back by another reader: all pixels are the same/)).toHaveCount(1);

  // The maps are swapped over with one confirmation; the bytes that change are those of the references.
  const before = readFileSync(root('maps', 'regional_overview.owc.json'), 'utf8');
  await dialog.getByRole('button', { name: 'Let the maps use these tables' }).click();
  const swap = page.getByRole('dialog', { name: 'Let the maps use these tables' });
  await expect(swap.getByText(/will follow/)).toBeVisible();
  await swap.getByRole('button', { name: 'Let them' }).click();
  await expect(swap).toBeHidden();
  const after = readFileSync(root('maps', 'regional_overview.owc.json'), 'utf8');
  const lines = before.split('\n');
  const changed = after.split('\n').filter((line, i) => line !== lines[i]);
  expect(changed.length).toBeGreaterThan(0);
  for (const line of changed) expect(line).toMatch(/"(href|code|type)":/);
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  await expect(card.getByRole('table')).toContainText('harbour_lights');
});

test('an independent reader agrees on every number', () => {
  execFileSync('/usr/bin/python3', [VALIDATOR, file()], { stdio: 'pipe' });
  for (const [table, source] of [
    ['buoys', 'buoys'],
    ['harbour_lights', 'lights'],
    ['fairway', 'fairway'],
    ['depth_contours', 'depth_contours'],
  ] as const) {
    const original = execFileSync('ogrinfo', ['-so', root('received', 'hydro_office', `${source}.shp`), source], {
      stdio: ['ignore', 'pipe', 'ignore'],
    }).toString();
    for (const fact of [/Feature Count: \d+/, /Extent: .*/]) expect(ogrinfo(table)).toContain(fact.exec(original)![0]);
    expect(ogrinfo(table)).toContain('UTM zone 24N');
  }
  expect(ogrinfo('site_visits')).toContain('Feature Count: 80');
  const raster = JSON.parse(
    execFileSync('gdalinfo', ['-json', '-stats', '--config', 'GDAL_PAM_ENABLED', 'NO', file()], {
      stdio: ['ignore', 'pipe', 'ignore'],
    }).toString(),
  ) as {
    bands: { minimum: number }[];
  };
  const model = JSON.parse(
    execFileSync(
      'gdalinfo',
      ['-json', '-stats', '--config', 'GDAL_PAM_ENABLED', 'NO', root('received', 'hydro_office', 'depth_model.tif')],
      { stdio: ['ignore', 'pipe', 'ignore'] },
    ).toString(),
  ) as { bands: { minimum: number }[] };
  expect(raster.bands[0]!.minimum).toBeCloseTo(model.bands[0]!.minimum, 3);
  expect(readdirSync(root('geodatabases')).filter((n) => /-(wal|shm|journal)$/.test(n))).toEqual([]);
});

test('files that are dropped on the queue come into the project first', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await card.getByRole('button', { name: 'Bring data in' }).click();
  await page.getByLabel('Files for the geodatabase').setInputFiles(join(folder, 'places', 'desk', 'downloads', 'sandbanks.zip'));
  await expect(page).toHaveURL(/sources\?view=intake&arrivals=/);
  await expect(page.getByText('lines, 12')).toBeVisible();
});

test('a table is looked into row by row, narrowed and sorted; reloading keeps the place', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  await page.getByRole('button', { name: 'What to do with site_visits' }).last().click();
  await page.getByRole('menuitem', { name: 'See its rows' }).click();
  const dialog = page.getByRole('dialog', { name: /Rows of/ });
  await expect(dialog.getByText('80 records')).toBeVisible();
  await page.reload();
  await expect(dialog.getByText('80 records')).toBeVisible();
  const header = dialog.getByRole('columnheader').nth(1);
  const field = (await header.textContent())!;
  await header.getByRole('button').click();
  await expect(header).toHaveAttribute('aria-sort', 'ascending');
  await header.getByRole('button').click();
  await expect(header).toHaveAttribute('aria-sort', 'descending');
  const first = (await dialog.getByRole('row').nth(1).getByRole('cell').first().textContent())!;
  await dialog.getByRole('combobox', { name: 'Field' }).click();
  await page.getByRole('option', { name: field, exact: true }).click();
  await dialog.getByLabel('Value').fill(first);
  await dialog.getByRole('button', { name: 'Keep only these' }).click();
  await expect(dialog.getByText(/^\d+ of 80 records$/)).toBeVisible();
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Close' }).click();
  await expect(page).not.toHaveURL(/rows=/);
});

test('a table gets another name and its layers follow; it is exported, and what the format cannot hold is said before', async ({
  page,
}) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await card.getByRole('button', { name: 'What to do with buoys' }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  const rename = page.getByRole('dialog', { name: 'Rename buoys' });
  await rename.getByLabel('New name').fill('größe');
  await expect(rename.getByText('Not taken by')).toHaveCount(0);
  await rename.getByLabel('New name').fill('beds_2026'.repeat(6));
  await expect(rename.getByText('Everything below takes this name.')).toBeVisible();
  await rename.getByText('What takes which names').click();
  await expect(rename.getByText(/SQL without quotes.*ISO\/IEC 9075-2/)).toBeVisible();
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/rename-table.png` });
  await rename.getByLabel('New name').fill('2 buoys');
  await expect(rename.getByText('it does not begin with a letter')).toBeVisible();
  await rename.getByLabel('New name').fill('navigation_marks_of_the_harbour');
  await expect(rename.getByText(/will follow/)).toBeVisible();
  await rename.getByRole('button', { name: 'Rename the table' }).click();
  await expect(card.getByRole('table')).toContainText('navigation_marks_of_the_harbour');
  const maps = readdirSync(root('maps')).filter((n) => n.endsWith('.owc.json'));
  const hrefs = maps.flatMap((n) => [...readFileSync(root('maps', n), 'utf8').matchAll(/harbour_study\.gpkg#([\w]+)/g)].map((m) => m[1]));
  expect(hrefs).toContain('navigation_marks_of_the_harbour');
  expect(hrefs).not.toContain('buoys');
  execFileSync('/usr/bin/python3', [VALIDATOR, file()], { stdio: 'pipe' });

  await card.getByRole('button', { name: 'What to do with navigation_marks' }).click();
  await page.getByRole('menuitem', { name: 'Export it' }).click();
  const dialog = page.getByRole('dialog', { name: /^Export/ });
  await expect(dialog.getByText('What it cannot hold')).toBeVisible();
  await dialog.getByRole('textbox', { name: 'File' }).fill('exports/marks');
  await dialog.getByRole('button', { name: 'Write 5 files' }).click();
  await expect(dialog.getByText(/none left out/)).toBeVisible();
  const theirs = execFileSync('ogrinfo', ['-so', root('exports', 'marks.shp'), 'marks'], {
    stdio: ['ignore', 'pipe', 'ignore'],
  }).toString();
  const count = /Feature Count: \d+/.exec(ogrinfo('navigation_marks_of_the_harbour'))![0];
  expect(theirs).toContain(count);
  expect(theirs).toContain('UTM zone 24N');
  await dialog.getByRole('button', { name: 'Close' }).click();
});

test('a table is deleted, told who uses it, and the room it took is given back', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await card.getByRole('button', { name: 'What to do with depth_contours' }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  const drop = page.getByRole('dialog', { name: 'Delete depth_contours' });
  await expect(drop.getByText(/are written anew and checked/)).toBeVisible();
  await expectAccessible(page);
  await drop.getByRole('button', { name: 'Delete the table' }).click();
  await expect(card.getByRole('table')).not.toContainText('depth_contours');
  const before = statSync(file()).size;
  await card.getByRole('button', { name: 'Give back free room' }).click();
  await page.getByRole('dialog').getByRole('button', { name: /^Free/ }).click();
  await expect(card.getByText(/free space inside/)).toHaveCount(0);
  await expect.poll(() => statSync(file()).size).toBeLessThan(before);
  execFileSync('/usr/bin/python3', [VALIDATOR, file()], { stdio: 'pipe' });
  await page.goto('/journal');
  await page
    .getByRole('row', { name: /Give back free room of harbour_study/ })
    .first()
    .getByRole('button', { name: 'Undo' })
    .press('Enter'); // rows still come in above it, and move what a pointer aims at
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Undo: Give back free room/ })).toBeVisible();
  await page
    .getByRole('row', { name: /Delete the table/ })
    .first()
    .getByRole('button', { name: 'Undo' })
    .press('Enter'); // rows still come in above it, and move what a pointer aims at
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Undo: Delete the table/ })).toBeVisible();
  await page
    .getByRole('row', { name: /Rename the table/ })
    .first()
    .getByRole('button', { name: 'Undo' })
    .press('Enter'); // rows still come in above it, and move what a pointer aims at
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Undo: Rename the table/ })).toBeVisible();
  expect(ogrinfo('buoys')).toContain('Feature Count');
});

test('one map may work in another geodatabase than the project', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/ellisande.gpkg');
  const card = page.getByRole('region', { name: 'ellisande.gpkg' });
  await card.getByRole('button', { name: 'Work in it' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'Who works in it' }).click();
  await page
    .getByRole('option', { name: /only the map/ })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'Work in it' }).click();
  await expect(card.getByText(/working geodatabase of/)).toBeVisible();
});

test('it is held against the standard; one undo takes the queue back', async ({ page }) => {
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  const card = page.getByRole('region', { name: 'harbour_study.gpkg' });
  await card.getByRole('button', { name: 'Check it against the standard' }).click();
  await expect(card.getByText('It is as the standard asks.')).toBeVisible();
  await page.goto('/journal');
  await page
    .getByRole('row', { name: /Let \d+ layers? use/ })
    .getByRole('button', { name: 'Undo' })
    .press('Enter'); // rows still come in above it, and move what a pointer aims at
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Undo: Let \d+ layers? use/ })).toBeVisible();
  await page
    .getByRole('row', { name: /Bring 6 datasets into/ })
    .first()
    .getByRole('button', { name: 'Undo' })
    .press('Enter'); // rows still come in above it, and move what a pointer aims at
  await page.getByRole('dialog').getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Undo: Bring 6/ })).toBeVisible();
  expect(existsSync(file())).toBe(true);
  await openStop(page, STUDY, 'geodatabases?open=geodatabases/harbour_study.gpkg');
  await expect(page.getByRole('region', { name: 'harbour_study.gpkg' })).toContainText('It is empty.');
});
