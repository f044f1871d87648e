import type { Locator, Page } from '@playwright/test';
import { existsSync, mkdirSync, readdirSync, renameSync, statSync, writeFileSync, chmodSync } from 'node:fs';
import { join } from 'node:path';
import { ledFrom } from '../engine/test/resolve.js';
import { desk, expect, folder, openStop, test, useDemo } from './demo.js';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const TITLE = 'Tern colonies: Süd & outer bay';
const root = (...parts: string[]): string => desk('Tern_colonies_Sued_outer_bay', ...parts);
const grown = join(folder, 'places', 'desk', 'older jobs', 'Tern colonies 2024');

/** Every layer of every map below the new root reaches a whole dataset, told by Node's own path and URL modules. */
function expectAllSound(layers: number): void {
  const led = ledFrom(root());
  expect(led).toHaveLength(layers);
  expect(led.filter((l) => !l.isThere)).toEqual([]);
}
const row = (page: Page, name: string | RegExp): Locator => page.getByRole('treegrid').getByRole('row', { name });
const below = (at: string): string[] => readdirSync(at, { recursive: true }).map(String).sort();

test('a project is made from a plan: title, place, CRS by a click on the land outline, folders trimmed', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'New project' }).click();
  await page.getByLabel('Title').fill(TITLE);
  await expect(page.getByLabel('Folder name')).toHaveValue('Tern_colonies_Sued_outer_bay');
  await page.getByRole('button', { name: 'Choose the folder' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^desk D:/ }).click();
  await dialog.getByRole('button', { name: 'gis', exact: true }).click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  const outline = page.getByRole('application', { name: /Land outline/ });
  const box = (await outline.boundingBox())!;
  await outline.click({ position: { x: box.width * (141 / 360), y: box.height * (46 / 180) } }); // 39° west, 44° north
  await page.getByRole('button', { name: 'WGS 84 / UTM zone 24N' }).click();
  await expect(page.getByLabel('Coordinate reference system')).toHaveValue('WGS 84 / UTM zone 24N (EPSG:32624)');
  await page.getByLabel('Plan', { exact: true }).click();
  await page.getByRole('option', { name: 'Received, derived, delivered' }).click();
  await page.getByRole('checkbox', { name: 'Make geodatabases' }).uncheck();
  const preview = page.getByRole('region', { name: 'What will be made' });
  await expect(preview).toContainText('Tern_colonies_Sued_outer_bay.gpkg'); // a working geodatabase, unless it is not wanted
  await page.getByRole('checkbox', { name: 'Make a working geodatabase for it' }).uncheck();
  await expect(preview).not.toContainText('.gpkg');
  await expect(preview).toContainText('D:/gis/Tern_colonies_Sued_outer_bay');
  await expect(preview).toContainText(/Longest path: \d+ of 259/);
  await expect(preview.getByRole('listitem')).toHaveCount(6);
  await preview.getByRole('button', { name: 'Make the project' }).click();
  await expect(page).toHaveURL(/\/folders/);
  await expect(row(page, /received.*planned, empty.*originals/)).toBeVisible();
  expect(below(root())).toEqual(
    ['Tern_colonies_Sued_outer_bay.rootmap.json', 'delivered', 'derived', 'documents', 'exports', 'maps', 'received'].sort(),
  );
});

test('the grown folder is brought in: a place is proposed for each thing, nothing moves before it is confirmed', async ({ page }) => {
  const before = below(grown);
  await openStop(page, TITLE, 'folders');
  await page.getByRole('button', { name: 'Bring a folder in' }).click();
  const chooser = page.getByRole('dialog');
  await chooser.getByRole('button', { name: /^desk D:/ }).click();
  await chooser.getByRole('button', { name: 'older jobs' }).click();
  await chooser.getByRole('button', { name: 'Tern colonies 2024' }).click();
  await chooser.getByRole('button', { name: 'Bring this folder in' }).click();
  const places = page.getByRole('table', { name: 'Proposed places' });
  await expect(places.getByRole('row', { name: /buffer 200m\.shp.*made from something else/ })).toBeVisible();
  await expect(places.getByRole('row', { name: /Colony map v2.*it is a map file/ })).toBeVisible();
  await page.getByRole('button', { name: 'Show all that would change' }).click();
  await expect(page.getByText('7 references in 2 maps will follow')).toBeVisible();
  expect(below(grown)).toEqual(before);
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(page.getByText(/Bring in Tern colonies 2024: done/)).toBeVisible();
  expectAllSound(7);
  expect(existsSync(join(grown, 'Data'))).toBe(false);
  const original = root('received', 'Data', 'colonies-2024.shp');
  expect(statSync(original).mode & 0o222).toBe(0); // originals are read-only
  expect(statSync(root('derived', 'Data', 'buffer 200m.shp')).mode & 0o200).toBe(0o200);
});

test('all names are put right in one step, and one undo takes them back', async ({ page }) => {
  await openStop(page, TITLE, 'folders?view=names');
  const before = below(root()).filter((p) => !p.includes('.rootmap'));
  await page.getByRole('button', { name: /^Rename all/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('Originals: left as they are')).toBeVisible();
  await dialog.getByRole('checkbox', { name: /These are originals/ }).check();
  await expect(dialog.getByRole('listitem').filter({ hasText: 'buffer 200m.shp in documents/Notes/Field notes, June.txt' })).toBeVisible();
  await dialog.getByRole('checkbox', { name: /Rename what other files mention/ }).check();
  await expect(dialog.getByText(/references in 2 maps will follow/)).toBeVisible();
  await dialog.getByRole('button', { name: /^Rename \d+/ }).click();
  await expect(page.getByText('Every name keeps the rules')).toBeVisible();
  expectAllSound(7);
  expect(existsSync(root('received', 'Data', 'cote_sud.shp'))).toBe(true);
  expect(existsSync(root('received', 'Data', 'nests_2019.dbf'))).toBe(true);
  expect(existsSync(root('maps', 'for_the_council.owc.json'))).toBe(true);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/^Undone: \d+ file.* put back\.$/)).toBeVisible();
  expect(below(root()).filter((p) => !p.includes('.rootmap'))).toEqual(before);
  expectAllSound(7);
  await page.getByRole('button', { name: /^Rename all/ }).click();
  await dialog.getByRole('checkbox', { name: /These are originals/ }).check();
  await dialog.getByRole('checkbox', { name: /Rename what other files mention/ }).check();
  await dialog.getByRole('button', { name: /^Rename \d+/ }).click();
  await expect(page.getByText('Every name keeps the rules')).toBeVisible();
  expectAllSound(7);
});

test('dragging shows what it would rewrite, and moves a dataset with its companions and references', async ({ page }) => {
  await openStop(page, TITLE, 'folders');
  await row(page, /^Data.*originals/).dblclick();
  await row(page, /^Data.*working/).dblclick();
  const thing = row(page, /buffer_200m\.shp/);
  const target = row(page, /^delivered/);
  const from = (await thing.boundingBox())!;
  const to = (await target.boundingBox())!;
  await page.mouse.move(from.x + 120, from.y + 16);
  await page.mouse.down();
  await page.mouse.move(from.x + 130, from.y + 26, { steps: 4 });
  await page.mouse.move(to.x + 120, to.y + 16, { steps: 8 });
  await expect(page.getByText('5 files; 1 layer in 1 map will follow.')).toBeVisible();
  await page.mouse.up();
  const dialog = page.getByRole('dialog', { name: 'Move buffer_200m.shp to delivered' });
  await expect(dialog.getByText('1 reference in 1 map will follow')).toBeVisible();
  await dialog.getByRole('button', { name: 'Move buffer_200m.shp' }).click();
  await expect(page.getByText('Move buffer_200m.shp to delivered: done.')).toBeVisible();
  expect(existsSync(root('delivered', 'buffer_200m.dbf'))).toBe(true);
  expectAllSound(7);
});

test('everything that dragging does, keys do: cut, paste, rename, delete, undo', async ({ page }) => {
  await openStop(page, TITLE, 'folders');
  const tree = page.getByRole('treegrid');
  await tree.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('d'); // to what begins with it: delivered
  await expect(row(page, /^delivered/)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight'); // Final
  await expect(row(page, /^Final/)).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('Control+x');
  await page.keyboard.press('Home');
  await page.keyboard.press('e'); // exports
  await page.keyboard.press('Control+v');
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Move Final' }).click();
  await expect(page.getByText('Move Final to exports: done.')).toBeVisible();
  expectAllSound(7);
  await expect(row(page, /^Final/)).toHaveAttribute('aria-selected', 'true'); // where it went, it is chosen
  await tree.focus();
  await page.keyboard.press('F2');
  await dialog.getByLabel('New name').fill('council limits');
  await expect(dialog.getByText(/Against the rules of this project: it has a space/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Take council_limits' }).click();
  await dialog.getByRole('button', { name: 'Rename' }).click();
  await expect(page.getByText(/Rename Final to council_limits: done/)).toBeVisible();
  expectAllSound(7);
  await row(page, /^council_limits/).click();
  await tree.focus();
  await page.keyboard.press('Delete');
  await expect(dialog.getByText('1 layer will be adrift')).toBeVisible();
  await dialog.getByRole('button', { name: 'Move to the trash' }).click();
  await expect(page.getByText(/Delete council_limits: done/)).toBeVisible();
  expect(ledFrom(root()).filter((l) => !l.isThere)).toHaveLength(1);
  await page.getByRole('button', { name: 'Undo' }).last().click();
  await expect(page.getByText(/^Undone: \d+ file.* put back\.$/)).toBeVisible();
  expectAllSound(7);
});

test('a move outside the app is noticed within two seconds and mended with one click', async ({ page }) => {
  await openStop(page, TITLE, 'folders');
  await expect(page.getByRole('treegrid')).toBeVisible();
  const moved = Date.now();
  renameSync(root('derived', 'Data'), root('derived', 'workings'));
  renameSync(root('received', 'Data'), root('received', 'first_batch'));
  await expect(page.getByText(/layers lost their data just now/)).toBeVisible({ timeout: 2000 });
  expect(Date.now() - moved).toBeLessThan(2500);
  await page.getByRole('button', { name: /^Mend \d layers/ }).click();
  await expect(page.getByText(/layers mended/)).toBeVisible();
  expectAllSound(7);
});

test('originals that change outside the app are reported, and a working copy is offered', async ({ page }) => {
  await openStop(page, TITLE, 'folders');
  const file = root('received', 'first_batch', 'Nest_counts_June.csv');
  await expect(page.getByRole('treegrid')).toBeVisible();
  await page.waitForTimeout(1500); // the originals are looked at in the background
  chmodSync(file, 0o644);
  writeFileSync(file, 'changed\n');
  await expect(page.getByRole('alert').filter({ hasText: 'Nest_counts_June.csv (changed outside the app)' })).toBeVisible();
  await page.getByRole('button', { name: 'Take them as they are now' }).click();
  await expect(page.getByText('changed outside the app')).toBeHidden();
  await page.getByLabel('Show only names with').fill('nest_counts');
  await row(page, /Nest_counts_June\.csv/).click();
  await page.getByRole('button', { name: 'Make a working copy' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Copy, from the root')).toHaveValue('derived/Nest_counts_June.csv');
  await dialog.getByRole('button', { name: 'Make the copy' }).click();
  await expect(page.getByText(/Copy Nest_counts_June\.csv to derived: done/)).toBeVisible();
  expect(statSync(root('derived', 'Nest_counts_June.csv')).mode & 0o200).toBe(0o200);
});

test('space: what is equal, unpacked, left behind or unused is told, and goes to the trash, which only a person empties', async ({
  page,
}) => {
  await openStop(page, TITLE, 'folders?view=space');
  await expect(page.getByRole('table', { name: 'Bytes by folder' })).toContainText('received');
  await expect(page.getByRole('region', { name: 'Archives already unpacked' })).toContainText('islets_1.zip');
  await expect(page.getByRole('region', { name: 'Can be fetched again' })).toContainText('https://data.harbour.example/islets.zip');
  await expect(page.getByRole('region', { name: 'No map uses' })).toContainText('buffer_200m_copy.shp');
  await page.getByRole('button', { name: 'Look for equal ones' }).click();
  const equal = page.getByRole('region', { name: 'Equal byte for byte' });
  await expect(equal).toContainText('buffer_200m_copy.shp equal to delivered/buffer_200m.shp, which stays');
  await equal.getByRole('checkbox').first().check();
  await equal.getByRole('button', { name: /^Delete 1/ }).click();
  await page.getByRole('dialog').getByRole('button', { name: 'Move to the trash' }).click();
  await expect(page.getByText(/Trash: [1-9]/)).toBeVisible();
  expectAllSound(7);
  await page.getByRole('button', { name: 'Empty the trash' }).click();
  await page.getByRole('button', { name: /Yes, free/ }).click();
  await expect(page.getByText('Trash: 0 B')).toBeVisible();
});

test('the whole root is moved outside the app: the list and the open page follow', async ({ page }) => {
  await openStop(page, TITLE, 'folders');
  await expect(page.getByRole('treegrid')).toBeVisible();
  renameSync(root(), desk('tern_colonies'));
  await expect(page.locator('footer')).toContainText('tern_colonies');
  await expect(row(page, /^tern_colonies/)).toBeVisible();
  await page.goto('/');
  await expect(page.getByRole('row', { name: new RegExp(TITLE.slice(0, 13)) })).toHaveCount(1);
});

test('ten thousand files: only the rows in sight are drawn, and the last is one key away', async ({ page }) => {
  const many = desk('many_files');
  mkdirSync(many, { recursive: true });
  for (let i = 0; i < 10_000; i++) writeFileSync(join(many, `reading_${String(i).padStart(5, '0')}.csv`), 'x,y\n1,2\n');
  const opened = await page.request.post('/api/projects', { data: { place: 'desk', path: 'gis/many_files' } });
  const { key } = (await opened.json()) as { key: string };
  await page.goto(`/p/${key}/folders`);
  const tree = page.getByRole('treegrid');
  await expect(row(page, /reading_00000/)).toBeVisible();
  expect(await tree.getByRole('row').count()).toBeLessThan(80);
  await tree.focus();
  await page.keyboard.press('End');
  await expect(row(page, /reading_09999/)).toBeVisible();
  expect(await tree.getByRole('row').count()).toBeLessThan(80);
  await page.request.delete(`/api/projects/${key}`);
});

test('a read-only place offers nothing that writes, and says why', async ({ page }) => {
  await page.route('**/api/projects/*/folders', async (route) => {
    const answer = await route.fetch();
    await route.fulfill({ response: answer, json: { ...((await answer.json()) as object), readOnly: true } });
  });
  await openStop(page, 'World in outline', 'folders');
  await page.getByRole('treegrid').getByRole('row').last().click();
  for (const name of ['Rename', 'Cut', 'Delete', 'Move to…']) await expect(page.getByRole('button', { name, exact: true })).toBeDisabled();
  await expect(page.getByText('This place is read-only')).toBeVisible();
});
