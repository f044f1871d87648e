import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';

/*
 * Notes of publishers: read before anything is unpacked, taken over as stated with their place, and held against the data.
 */
useDemo('mended');
test.describe.configure({ mode: 'serial' });

const look = process.env['ROOTMAP_LOOK'];
const into = (...parts: string[]): string => desk('ellisande_seagrass', 'received', ...parts);

interface Resource {
  readonly path: string;
  readonly licenses?: readonly { readonly name: string }[];
  readonly 'rootmap:statedUnits'?: string;
  readonly 'rootmap:passages'?: readonly { readonly about: string; readonly note: string; readonly words: string; readonly at: number }[];
}
const record = (path: string): Resource =>
  (JSON.parse(readFileSync(into(path, 'datapackage.json'), 'utf8')) as { resources: Resource[] }).resources[0]!;

test('what the notes of an archive tell is seen before it is unpacked, and taken over', async ({ page }) => {
  await openStop(page, STUDY, 'sources?view=intake');
  await page.getByLabel('Files to bring in').setInputFiles(join(folder, 'places', 'desk', 'downloads', 'bay soundings.zip'));
  const card = page.getByRole('region', { name: 'bay soundings.zip' });
  const notes = card.getByRole('region', { name: 'Notes in it' });
  await expect(notes.getByText('Coordinates are in feet.')).toBeVisible();
  await expectAccessible(page);
  await notes.getByRole('button', { name: 'Take it over: Units, Coordinates are in feet.' }).click();
  // Its coordinates are in metres: that is told, and nothing is unpacked yet.
  await expect(notes.getByText(/states “Coordinates are in feet\.”, and the unit of its coordinates is metre/)).toBeVisible();
  await expect(card.getByLabel('Units that the publisher states')).toHaveValue('Coordinates are in feet.');
  if (look) await page.screenshot({ path: `${look}/notes-arrival.png` });
  await notes.getByRole('button', { name: /^Read terms of use\.html/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByRole('region', { name: /^What .*terms of use\.html says/ })).toContainText(
    'They are not to be used for navigation.',
  );
  await expectAccessible(page);
  await dialog.getByRole('button', { name: /^Take it over: Licence/ }).click();
  await dialog.getByRole('button', { name: /^Take it over: Limits of use, They are not/ }).click();
  if (look) await page.screenshot({ path: `${look}/notes-dialog.png` });
  await page.keyboard.press('Escape');
  await expect(card.getByRole('combobox', { name: 'Licence' })).toHaveValue('CC-BY-4.0');
  await card.getByRole('button', { name: /^Bring in \d things$/ }).click();
  await expect(card.getByText(/every checksum is right/)).toBeVisible();
  const written = record('bay_soundings');
  expect(written.licenses?.[0]?.name).toBe('CC-BY-4.0');
  expect(written['rootmap:statedUnits']).toBe('Coordinates are in feet.');
  // The note is named as it is called beside the data.
  for (const passage of written['rootmap:passages'] ?? [])
    expect(readFileSync(into('bay_soundings', passage.note)).length).toBeGreaterThan(0);
});

test('a note is read beside its data; words that are chosen become what is stated, and are taken back', async ({ page }) => {
  await openStop(page, STUDY, 'sources?find=bay_soundings');
  await page
    .getByRole('row', { name: /bay_soundings/ })
    .first()
    .click();
  await page.getByRole('button', { name: /about_the_soundings\.pdf|about the soundings\.pdf/ }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('lines 200 m apart')).toBeVisible();
  // With the keyboard alone: words are found, their sentence is chosen, and said what it tells.
  await dialog.getByLabel('Find words in it').fill('charts of');
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('status')).toContainText('The soundings were made for charts of 1:10 000');
  await dialog.getByRole('button', { name: 'Scale', exact: true }).click();
  await expect(page.getByText(/^Scale: stated by the publisher, with its place in/)).toBeVisible();
  await expect(dialog.getByRole('region', { name: 'Stated by the publisher' })).toContainText('1:10 000');
  const passages = record('bay_soundings')['rootmap:passages'] ?? [];
  expect(passages.map((p) => p.about).sort()).toEqual(['licence', 'limits', 'scale', 'units']);
  await dialog.getByRole('button', { name: /^Take it back: Scale/ }).click();
  await expect(page.getByText('Scale: no longer stated.')).toBeVisible();
  // With the mouse: a click chooses the sentence.
  await dialog.getByText('lines 200 m apart').click();
  await expect(dialog.getByRole('status')).toContainText('sounded along lines 200 m apart');
  await expectAccessible(page);
});

test('its sheet tells where what is stated is not what was found', async ({ page }) => {
  await openStop(page, STUDY, 'quality?find=bay_soundings');
  await page
    .getByRole('button', { name: /bay_soundings/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Check it' }).click();
  await expect(page.getByText('Units as stated')).toBeVisible();
  await expect(page.getByText(/states “Coordinates are in feet\.”, and the unit of its coordinates is metre/)).toBeVisible();
  await expect(page.getByRole('region', { name: 'Notes beside it' })).toContainText('about');
  if (look) await page.screenshot({ path: `${look}/notes-sheet.png` });
});
