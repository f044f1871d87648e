import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { desk, expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

/*
 * What is known of data before work begins: every dataset is checked, one is reviewed, its data changes, and its sheet goes out of date.
 */
useDemo('mended');
test.describe.configure({ mode: 'serial' });

const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const look = process.env['ROOTMAP_LOOK'];

test('every dataset is checked once, and its sheet stands beside it', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  await page.getByRole('navigation', { name: 'Stops of the project' }).getByRole('link', { name: 'Quality' }).click();
  await expect(page.getByText('not looked at', { exact: true }).first()).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: /^Check \d+ datasets$/ }).click();
  await expect(page.getByText(/^\d+ datasets checked.*the sheets stand beside the data/)).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('button', { name: 'All is checked' })).toBeDisabled();
  await expect(page.getByText('not reviewed', { exact: true }).first()).toBeVisible();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality.png` });
  const sheets = JSON.parse(readFileSync(root('derived', 'beds', 'beds_gained.shp.quality.json'), 'utf8')) as { format: string };
  expect(sheets.format).toBe('rootmap-quality/1');
});

test('the worst stands first; a sheet tells what was found, where, and what can be done', async ({ page }) => {
  await openStop(page, STUDY, 'quality');
  await page.getByLabel('Order').click();
  await page.getByRole('option', { name: 'worst first' }).click();
  const table = page.getByRole('table', { name: 'Quality of the data' });
  await table.getByRole('button').first().click();
  await expect(page.getByRole('heading', { name: 'Metadata' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Write its origin down' }).first()).toBeVisible();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-sheet.png` });
  await page.reload();
  await expect(page.getByRole('heading', { name: 'Metadata' })).toBeVisible();
});

test('an edition is compared with the one before', async ({ page }) => {
  await openStop(page, STUDY, 'quality');
  await page.getByLabel('Find datasets').fill('seagrass_beds');
  await page
    .getByRole('button', { name: /seagrass_beds_2025/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Compare it' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Before').fill('seagrass_beds_2019');
  await page
    .getByRole('option', { name: /seagrass_beds_2019/ })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'Compare', exact: true }).click();
  await expect(dialog.getByText(/\d+ the same, \d+ added, \d+ removed, \d+ changed/)).toBeVisible();
  await expect(dialog.getByRole('cell', { name: 'Scale that this bears' })).toBeVisible();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-compare.png` });
});

test('the sheets are saved as one page', async ({ page }) => {
  await openStop(page, STUDY, 'quality');
  await page.getByRole('button', { name: 'Save the sheets' }).click();
  const coming = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'A page (HTML)' }).click();
  const download = await coming;
  expect(download.suggestedFilename()).toBe('quality.html');
  const text = readFileSync(await download.path(), 'utf8');
  expect(text).toContain('<h1>Quality: Ellisande seagrass and moorings</h1>');
  expect(text).toContain('derived/beds/beds_gained.shp');
});

test('a review is signed with the data; when the data changes it is out of date by itself', async ({ page }) => {
  await openStop(page, STUDY, 'quality');
  await page.getByLabel('Find datasets').fill('beds_gained');
  await page
    .getByRole('button', { name: /beds_gained/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Review it' }).click();
  const dialog = page.getByRole('dialog');
  const position = dialog.getByRole('group', { name: 'Positional accuracy' });
  await position.getByRole('combobox').click();
  await page.getByRole('option', { name: 'with limits' }).click();
  await position.getByLabel('Positional accuracy: why').fill('Drawn from a chart');
  await dialog.getByText('Measure it with check points').click();
  const points = Array.from({ length: 20 }, (_, i) => `${i + 2} ${i - 2} ${i} ${i}`).join('\n');
  await dialog.getByLabel(/^x, y, and both/).fill(points);
  await dialog.getByRole('button', { name: 'State it' }).click();
  await expect(dialog.getByLabel('Stated accuracy')).toHaveValue(/^4\.9 m at 95 % \(NSSDA\), RMSE 2\.83 m/);
  await dialog.getByLabel('Fit for').fill('Overview maps');
  await dialog.getByLabel('Reviewer').fill('A. Reviewer');
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-review.png` });
  await dialog.getByRole('button', { name: 'Sign it' }).click();
  await expect(page.getByText('The review stands beside the data.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Review' })).toContainText('Fit for: Overview maps');
  const dbf = root('derived', 'beds', 'beds_gained.dbf');
  expect(existsSync(dbf)).toBe(true);
  const bytes = readFileSync(dbf);
  bytes[bytes.length - 3] = bytes.at(-3) === 0x31 ? 0x32 : 0x31;
  writeFileSync(dbf, bytes);
  await expect(page.getByText('out of date', { exact: true }).first()).toBeVisible({ timeout: 20_000 });
  await expect(page.getByRole('region', { name: 'Review' })).toContainText('the data has changed since');
  await page.getByLabel('Which datasets').click();
  await page.getByRole('option', { name: 'Out of date' }).click();
  await expect(page.getByRole('status').filter({ hasText: '1 dataset of' })).toBeVisible();
});
