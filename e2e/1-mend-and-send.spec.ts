import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('made');

test.describe.configure({ mode: 'serial' });
const map = desk('ellisande_seagrass', 'maps', 'mooring_options.owc.json');

test('the root diagram shows which layers are adrift, and why', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: STUDY }).click();
  const diagram = page.getByRole('group', { name: /Root diagram/ });
  await expect(diagram.getByRole('link', { name: /^Swing circles, adrift: relative, inside the root/ })).toBeVisible();
  await expect(diagram.getByRole('link', { name: /^Drop-camera stills, adrift: absolute, outside the root/ })).toBeVisible();
  await expect(diagram.getByRole('link', { name: /was recorded at.*derived\/moorings.*nothing there now/ })).toBeVisible();
  await expect(page.getByText('4 layers are adrift in Mooring options')).toBeVisible();
  await expect(page.getByRole('navigation').getByRole('link', { name: /Mend/ })).toContainText('20');
});

test('the moved map is mended with two clicks, the map file changes in its addresses only', async ({ page }) => {
  const before = readFileSync(map, 'utf8');
  await openStop(page, STUDY, 'overview');
  await page.getByText('4 layers are adrift in Mooring options').waitFor();
  await page.getByRole('link', { name: 'See the proof and mend 4: 4 layers are adrift in Mooring options' }).click();
  const card = page.getByRole('region', { name: 'What explains it' });
  await expect(card.getByText('delivered/moorings_2026')).toBeVisible();
  await card.getByRole('button', { name: 'Mend these: 4 layers' }).click();
  await expect(page.getByText(/4 layers mended in 1 map; 16 left/)).toBeVisible();
  expect(readFileSync(map, 'utf8')).toBe(before.replaceAll('../derived/moorings/', '../delivered/moorings_2026/'));
});

test('one undo puts every byte back, from the journal', async ({ page }) => {
  const mended = readFileSync(map, 'utf8');
  await page.goto('/journal');
  await page.getByRole('button', { name: 'Undo: Mend 4 layers in 1 map' }).click();
  const dialog = page.getByRole('dialog', { name: 'Undo: Mend 4 layers in 1 map' });
  await expect(dialog.getByText('4 layers that are sound now will not be')).toBeVisible();
  expect(readFileSync(map, 'utf8')).toBe(mended);
  await dialog.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/^Undone: \d+ file.* put back\.$/)).toBeVisible();
  expect(readFileSync(map, 'utf8')).toBe(mended.replaceAll('../delivered/moorings_2026/', '../derived/moorings/'));
  await expect(page.getByRole('row', { name: /Undo: Mend 4 layers/ }).first()).toBeVisible();
});

/** Every map of the study, its lines, by its path below the maps. */
const mapLines = (): Map<string, string[]> => {
  const folder = desk('ellisande_seagrass', 'maps');
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('.owc.json'));
  return new Map(files.sort().map((f) => [f, readFileSync(join(folder, f), 'utf8').split('\n')]));
};

test('six kinds of breakage are mended with one button; of each map only addresses change, and the kind of data that was converted', async ({
  page,
}) => {
  const before = mapLines();
  await openStop(page, STUDY, 'mend');
  const explained = page.getByRole('region', { name: 'What explains it' });
  for (const what of [
    'The data of 5 layers stands in another folder',
    '3 layers put into a geodatabase',
    'The map moved, its data did not',
    '1 layer has another name now',
  ])
    await expect(explained.getByRole('button', { name: what, exact: true })).toBeVisible();
  const wrong = page.getByRole('region', { name: 'What is wrong' });
  await expect(wrong.getByRole('button')).toHaveCount(20);
  await wrong.getByRole('button', { name: /Beds lost/ }).click();
  const proof = page.getByRole('region', { name: 'Proof' });
  await expect(proof.getByRole('row', { name: /Records 17 17/ })).toBeVisible();
  await expect(proof.getByText('../derived/beds/beds_lost.shp')).toBeVisible();
  await proof.getByRole('button', { name: 'Mend 20 certain layers in 5 maps' }).click();
  await expect(page.getByText('Every layer is sound, 1 not asked', { exact: true })).toBeVisible();
  const changed = [...mapLines()].map(([file, lines]) => {
    expect(lines.length).toBe(before.get(file)!.length);
    const members = lines.filter((line, i) => line !== before.get(file)![i]).map((line) => /"(\w+)":/.exec(line)?.[1]);
    return [file, [...new Set(members)].sort()];
  });
  expect(Object.fromEntries(changed)).toEqual({
    'bed_survey.owc.json': ['href'],
    'chain_scour.owc.json': ['code', 'href', 'type'],
    'harbour_approach.owc.json': [],
    'mooring_options.owc.json': ['href'],
    'regional_overview.owc.json': [],
    'seagrass_change.owc.json': ['href'],
    'sent out/print_for_council.owc.json': ['href'],
  });
});

test('a bundle is made, received into another place, and every layer there is sound', async ({ page }) => {
  await openStop(page, STUDY, 'send');
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await page.getByRole('button', { name: 'Choose where it goes' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^arrivals/ }).click();
  await dialog.getByRole('button', { name: 'Make it here' }).click();
  await page.getByRole('button', { name: 'Check and receive' }).click();
  await expect(page.getByText(/Arrived whole: \d+ files/)).toBeVisible();
  await expect(page.getByText('all 35 layers sound, 1 not asked')).toBeVisible();
  await page.getByRole('link', { name: 'Open the project' }).click();
  await expect(page.getByRole('group', { name: /Root diagram/ })).toBeVisible();
  await expect(page.getByRole('contentinfo')).toContainText('ellisande_seagrass');
  await page.goto('/');
  await expect(page.getByText('copy', { exact: true })).toHaveCount(2);
});
