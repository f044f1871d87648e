import type { Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ledFrom } from '../engine/test/resolve.js';
import { desk, expect, expectAccessible, folder, openStop, test, useDemo } from './demo.js';

useDemo('mended');

// A day of a new user, with two others in the list: one deleted on disk, one copied. What is said is held against a plain walk
// of the disk after each step.
test.describe.configure({ mode: 'serial' });
const TITLE = 'Kelp survey';
const root = (...parts: string[]): string => desk('Kelp_survey', ...parts);
const downloads = (...parts: string[]): string => join(folder, 'places', 'desk', 'downloads', ...parts);
const REEF = 'received/ellisande_reef_group/reef_survey_2026';
const MAP = 'maps/kelp.owc.json';

/** Every file below the root with its bytes, told by Node alone; the trash left out. */
const tree = (): Map<string, string> =>
  new Map(
    readdirSync(root(), { recursive: true, withFileTypes: true })
      .filter((e) => e.isFile() && !e.parentPath.includes('.rootmap'))
      .map((e) => [join(e.parentPath, e.name), readFileSync(join(e.parentPath, e.name), 'base64')] as const)
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
const adrift = (): string[] => ledFrom(root()).flatMap((l) => (l.isThere ? [] : [l.title]));
const drawn = (page: Page) => expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-drawn', 'true');
async function openMap(page: Page, path = MAP): Promise<void> {
  await openStop(page, TITLE, `maps/edit?map=${encodeURIComponent(path)}`);
  await drawn(page);
}
const undo = async (page: Page, title: string | RegExp): Promise<void> => {
  await page.goto('/journal');
  await page.getByRole('button', { name: title }).first().click();
};

test('a project is made with two others in the list, one deleted on disk and one copied; each is told as what it is', async ({ page }) => {
  for (const name of ['deleted_outline', 'copied_outline']) {
    cpSync(desk('world_outline'), desk(name), { recursive: true });
    const file = desk(name, 'world_outline.rootmap.json');
    if (name.startsWith('deleted')) {
      const project = JSON.parse(readFileSync(file, 'utf8')) as object;
      writeFileSync(file, JSON.stringify({ ...project, id: 'urn:x:deleted', title: 'Deleted outline' }));
    }
    await page.request.post('/api/projects', { data: { place: 'desk', path: `gis/${name}` } });
  }
  await page.goto('/');
  await expect(page.getByText('Deleted outline')).toBeVisible();
  rmSync(desk('deleted_outline'), { recursive: true });
  const row = (text: string) => page.getByRole('row').filter({ hasText: text });
  await expect(row('Deleted outline').getByText('its folder is gone')).toBeVisible();
  const copy = page.getByRole('row').filter({ has: page.getByText('gis/copied_outline', { exact: true }) });
  await expect(copy.getByText('copy', { exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'New project' }).click();
  await page.getByLabel('Title').fill(TITLE);
  await page.getByRole('button', { name: 'Choose the folder' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^desk D:/ }).click();
  await dialog.getByRole('button', { name: 'gis', exact: true }).click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByLabel('Plan', { exact: true }).click();
  await page.getByRole('option', { name: 'Received, derived, delivered' }).click();
  await page.getByRole('region', { name: 'What will be made' }).getByRole('button', { name: 'Make the project' }).click();
  await expect(page).toHaveURL(/\/folders/);
  expect(existsSync(root('received'))).toBe(true);
});

test('licensed data is brought in, the download stays, and a map is made of it', async ({ page }) => {
  await openStop(page, TITLE, 'sources?view=intake');
  await page.getByRole('button', { name: 'Choose in a place' }).click();
  const chooser = page.getByRole('dialog');
  await chooser.getByRole('button', { name: /^desk D:/ }).click();
  await chooser.getByRole('button', { name: 'downloads', exact: true }).click();
  await chooser.getByRole('button', { name: /^reef survey 2026\.zip/ }).click();
  const card = page.getByRole('article', { name: 'reef survey 2026.zip' }).or(page.getByRole('region', { name: 'reef survey 2026.zip' }));
  await expect(card.getByRole('combobox', { name: 'Licence' })).toHaveValue('CC-BY-4.0');
  await card.getByLabel('Publisher', { exact: true }).fill('Ellisande Reef Group');
  await card.getByRole('button', { name: /^Bring in/ }).click();
  await expect(card).toContainText('every checksum is right');
  expect(existsSync(root(REEF))).toBe(true);
  expect(existsSync(downloads('reef survey 2026.zip'))).toBe(true);
  // Checked as it is, it may go; and comes back.
  await expect(card).toContainText('reef survey 2026.zip still stands where it was');
  await card.getByRole('button', { name: 'Move it to the trash' }).click();
  await expectAccessible(page);
  await page.getByRole('dialog').getByRole('button', { name: 'Move it', exact: true }).click();
  await expect(card).toContainText('reef survey 2026.zip is in the trash.');
  expect(existsSync(downloads('reef survey 2026.zip'))).toBe(false);
  await undo(page, /^Undo: .*reef survey 2026/);
  await page.getByRole('dialog').getByRole('button', { name: 'Undo', exact: true }).click();
  await expect.poll(() => existsSync(downloads('reef survey 2026.zip'))).toBe(true);
  // Kept as people keep it: the archive, what was unpacked of it, and a copy for safety.
  cpSync(root(REEF), downloads('reef_survey'), { recursive: true });
  cpSync(root(REEF), root('backup', 'reef_survey'), { recursive: true });

  await openStop(page, TITLE, 'sources');
  const name = readdirSync(root(REEF)).find((f) => f.endsWith('.shp'))!;
  await page.getByLabel('Find datasets').fill('received');
  await page.getByLabel(`Tick ${name}`).first().check();
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Map', { exact: true })).toHaveText('Start a map with it'); // there is no other yet
  await dialog.getByLabel('Its title').fill('Kelp');
  await dialog.getByRole('button', { name: 'Make the map' }).click();
  await expect(page).toHaveURL(/maps\/edit\?map=maps%2Fkelp/);
  await drawn(page);
  expect([ledFrom(root()).length, adrift()]).toEqual([1, []]);
});

test('changes are undone and done again in and out of order, and the bytes are those that were there', async ({ page }) => {
  await openStop(page, TITLE, 'overview');
  const project = /\/p\/([^/]+)/.exec(page.url())![1]!;
  const edit = async (data: object): Promise<void> => {
    const answer = await page.request.post(`/api/projects/${project}/edits`, { data });
    expect(answer.ok(), await answer.text()).toBe(true);
  };
  const at = (path: string) => ({ place: 'desk', path: `gis/Kelp_survey/${path}` });
  const before = tree();
  await edit({ kind: 'move', moves: [{ from: at('backup'), to: at('safety copies') }], grown: null, evenOriginals: true });
  const moved = tree();
  writeFileSync(root('derived', 'note.txt'), 'first draft');
  await edit({ kind: 'move', moves: [{ from: at('derived/note.txt'), to: at('delivered/note.txt') }] });
  const both = tree();
  // The first is undone alone, out of order; the second stays.
  await undo(page, /^Undo: .*backup|^Undo: .*safety copies/);
  const toldUndone = page.getByText(/^Undone: .* put back\.$/);
  const dialog = page.getByRole('dialog');
  await expect(toldUndone.or(dialog.getByRole('button', { name: 'Undo' })).first()).toBeVisible();
  if (await dialog.isVisible()) await dialog.getByRole('button', { name: 'Undo' }).click();
  await expect(toldUndone).toBeVisible();
  expect([...tree().keys()].filter((p) => p.includes('safety copies'))).toEqual([]);
  expect(readFileSync(root('delivered', 'note.txt'), 'utf8')).toBe('first draft');
  for (const [path, bytes] of before) expect([path, tree().get(path)]).toEqual([path, bytes]);
  // And done again: all is as after both.
  await page.goto('/journal');
  await page
    .getByRole('button', { name: /^Redo: / })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'Do again' }).click();
  await expect(page.getByText(/^Done again: /)).toBeVisible();
  expect(tree()).toEqual(both);
  expect([...moved.keys()].some((p) => p.includes('safety copies'))).toBe(true);
  expect(adrift()).toEqual([]);
});

test('a folder is renamed outside the app, with download and copies kept: certain, and it is the right one', async ({ page }) => {
  await openStop(page, TITLE, 'overview');
  await expect(page.getByText(/1 of 1 layer|1 layer/).first()).toBeVisible();
  renameSync(root('received', 'ellisande_reef_group'), root('received', 'reef_group'));
  expect(adrift()).toHaveLength(1);
  const banner = page.getByText(/1 layer lost its data just now/);
  await expect(banner).toBeVisible({ timeout: 10_000 });
  await openStop(page, TITLE, 'mend');
  await expect(page.getByText(/It is the same folder on the disk that was seen there on/).first()).toBeVisible();
  const proof = page.getByRole('region', { name: 'Proof' });
  await proof.getByRole('button', { name: /^Mend 1 certain layer/ }).click();
  await expect(page.getByText(/1 layer mended in 1 map; nothing is left to mend|1 layer mended in 1 map/)).toBeVisible();
  expect(adrift()).toEqual([]);
  expect(ledFrom(root()).map((l) => l.path.startsWith(root('received', 'reef_group')))).toEqual([true]);
});

test('one map in two windows: both edits are in the file', async ({ page, context }) => {
  await openMap(page);
  const other = await context.newPage();
  await openMap(other);
  await page.getByLabel('Title of the map').fill('Kelp and reefs');
  await page.getByRole('button', { name: 'Save map' }).click();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
  await expect(other.getByLabel('Title of the map')).toHaveValue('Kelp and reefs');
  await other.getByRole('button', { name: 'More' }).click();
  await other.getByRole('menuitem', { name: 'Summary of the map' }).click();
  await other.getByLabel('Summary').fill('Where the kelp is');
  await other.getByRole('button', { name: 'Save map' }).click();
  await expect(other.getByText('saved', { exact: true })).toBeVisible();
  const text = readFileSync(root(MAP), 'utf8');
  expect([text.includes('Kelp and reefs'), text.includes('Where the kelp is')]).toEqual([true, true]);
  // Under another name: a file of its own, opened at once; the first stays as it is.
  await other.getByLabel('Title of the map').fill('Kelp for the council');
  await other.getByRole('button', { name: 'More' }).click();
  await other.getByRole('menuitem', { name: 'Save under another name' }).click();
  const dialog = other.getByRole('dialog', { name: 'Save under another name' });
  await expectAccessible(other);
  await dialog.getByLabel('Name of the file').fill('kelp_council');
  await dialog.getByRole('button', { name: 'Save and open it' }).click();
  await expect(other).toHaveURL(/map=maps%2Fkelp_council\.owc\.json/);
  await expect(other.getByLabel('Title of the map')).toHaveValue('Kelp for the council');
  expect(readFileSync(root(MAP), 'utf8')).toBe(text);
  expect(readFileSync(root('maps', 'kelp_council.owc.json'), 'utf8')).toContain('Kelp for the council');
  await other.close();
});

test('licensed data becomes a table; its maps draw that, and the print still names whose it is', async ({ page }) => {
  await openStop(page, TITLE, 'geodatabases');
  const dialog = page.getByRole('dialog');
  await page.getByRole('button', { name: 'Make a geodatabase' }).click();
  await dialog.getByLabel('Name').fill('kelp_tables');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog).toBeHidden();
  await page.getByRole('region', { name: 'kelp_tables.gpkg' }).getByRole('button', { name: 'Bring data in' }).click();
  const name = readdirSync(root('received', 'reef_group', 'reef_survey_2026')).find((f) => f.endsWith('.shp'))!;
  await dialog.getByRole('checkbox', { name, exact: true }).first().check();
  await dialog.getByRole('button', { name: 'Bring in 1 dataset' }).click();
  await expect(dialog.getByText('Read back, every value and shape is the same.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Let the maps use these tables' }).click();
  const swap = page.getByRole('dialog', { name: 'Let the maps use these tables' });
  await swap.getByRole('button', { name: 'Let them' }).click();
  await expect(swap).toBeHidden();
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  // What was read and written can be seen again.
  await page.getByRole('button', { name: 'Work done' }).click();
  await page.getByRole('button', { name: 'See its receipt' }).first().click();
  await expect(page.getByRole('dialog').getByText('Read back, every value and shape is the same.')).toBeVisible();
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  expect(adrift()).toEqual([]);
  expect(readFileSync(root(MAP), 'utf8')).toMatch(/\.gpkg#/);

  await openMap(page);
  await page.getByRole('button', { name: 'Print frame' }).click();
  const print = page.getByRole('dialog', { name: 'Print frame' });
  await expect(print.getByLabel('Attribution')).toHaveValue(/Ellisande Reef Group.*CC-BY-4\.0/);
  await print.getByLabel('Scale', { exact: true }).fill('1:50 000');
  await expect(print.getByRole('img', { name: /^The page/ })).toHaveAttribute('data-drawn', 'true');
  await print.getByRole('button', { name: 'Write the PDF' }).click();
  await expect(print).toBeHidden({ timeout: 60_000 });
  const file = readdirSync(root('exports')).find((f) => f.endsWith('.pdf'))!;
  // Source: poppler's pdftotext.
  expect(execFileSync('pdftotext', ['-layout', root('exports', file), '-']).toString()).toContain('Ellisande Reef Group');
});
