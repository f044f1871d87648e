import type { Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { chmodSync, cpSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { desk, expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';

/*
 * Notes of publishers: read before anything is unpacked, taken over as stated with their place, and held against the data.
 */
useDemo('mended');
test.describe.configure({ mode: 'serial' });

const look = process.env['ROOTMAP_LOOK'];
const into = (...parts: string[]): string => desk('ellisande_seagrass', 'received', ...parts);

/** The sheet of one dataset of the soundings. */
async function openSheet(page: Page, name: string): Promise<void> {
  await openStop(page, STUDY, 'quality?find=bay_soundings');
  await page.getByRole('table', { name: 'Quality of the data' }).getByRole('button', { name }).click();
  await expect(page.getByRole('heading', { name })).toBeVisible();
}

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
  await dialog.getByRole('button', { name: 'Close the note' }).click();
  await expect(card.getByRole('combobox', { name: 'Licence' })).toHaveValue('CC-BY-4.0');
  await card.getByLabel('Check it when it is in, and begin its quality sheet').check();
  await card.getByRole('button', { name: /^Bring in \d things$/ }).click();
  await expect(card.getByText(/every checksum is right/)).toBeVisible();
  await expect(card.getByRole('link', { name: 'see its sheet' })).toBeVisible();
  await expect.poll(() => existsSync(into('bay_soundings', 'sounded_areas.shp.quality.json'))).toBe(true);
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
  await openSheet(page, 'bay_soundings.shp');
  await expect(page.getByText('Units as stated')).toBeVisible();
  await expect(page.getByText(/states “Coordinates are in feet\.”, and the unit of its coordinates is metre/)).toBeVisible();
  await expect(page.getByRole('region', { name: 'Stated by its publisher' })).toContainText('Units: Coordinates are in feet.');
  await expect(page.getByRole('region', { name: 'What stands in it' })).toContainText('depth_m');
  await expect(page.getByRole('region', { name: 'Notes beside it' })).toContainText('about');
  await page.getByRole('region', { name: 'What stands in it' }).scrollIntoViewIfNeeded();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/notes-sheet.png` });
});

test('an area that crosses itself is shown, and repaired into a working copy', async ({ page }) => {
  await openSheet(page, 'sounded_areas.shp');
  await page.getByRole('button', { name: 'Show where (1)' }).click();
  await page.getByRole('button', { name: 'Repair it into a working copy' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByLabel('Make areas valid whose outlines cross themselves')).toBeChecked();
  if (look) await page.screenshot({ path: `${look}/quality-repair.png` });
  await dialog.getByRole('button', { name: 'Bring in 1 dataset' }).click();
  await expect(dialog.getByText(/1 (of them )?made valid|made valid/).first()).toBeVisible({ timeout: 30_000 });
  await page.keyboard.press('Escape');
});

test('a code that is not in the list is found, and the list stands beside the data', async ({ page }) => {
  await openSheet(page, 'sounded_areas.shp');
  await page.getByRole('button', { name: 'Expected codes' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Field').click();
  await page.getByRole('option', { name: 'species' }).click();
  await dialog.getByLabel('Codes, one a line').fill('Zostera\nRuppia\n<b>mixed</b>');
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-codes.png` });
  await dialog.getByRole('button', { name: 'Expect 3 codes' }).click();
  await expect(page.getByText('List the codes of species: done.')).toBeVisible();
  await page.getByRole('button', { name: 'Check it anew' }).click();
  await expect(page.getByText(/are not among the codes that are expected: species/)).toBeVisible();
});

test('positions are measured against a better source: matched, and picked on maps', async ({ page }) => {
  await openSheet(page, 'bay_soundings.shp');
  await page.getByRole('button', { name: 'Review it' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByText('Measure it with check points').click();
  const better = dialog.getByRole('combobox', { name: 'Better source' });
  await better.fill('control_marks');
  await page.getByRole('option', { name: /control_marks/ }).click();
  await dialog.getByRole('button', { name: 'Match', exact: true }).click();
  await expect(dialog.getByText('24 pairs found; 36 without a like, 0 with several.')).toBeVisible();
  await expect(dialog.getByText(/m at 95 % \(NSSDA\).*; 24 check points/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Pick on maps' }).click();
  await better.fill('control_marks');
  await page.getByRole('option', { name: /control_marks/ }).click();
  const maps = dialog.getByRole('application');
  await expect(maps).toHaveCount(2);
  await expect(maps.first()).toHaveAttribute('data-drawn', 'true');
  await expect(maps.last()).toHaveAttribute('data-drawn', 'true');
  await maps.first().click({ position: { x: 150, y: 90 } });
  await expect(dialog.getByText(/^Now the same place in control_marks/)).toBeVisible();
  await maps.last().focus();
  await page.keyboard.press('Enter'); // the middle of the map, by the keyboard
  await expect(dialog.getByText(/; 25 check points/)).toBeVisible();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-pick.png` });
  await dialog.getByRole('button', { name: 'State it' }).click();
  await dialog.getByLabel('Reviewer').fill('A. Reviewer');
  await dialog.getByLabel('Fit for').fill('Charts of the bay');
  // What is said is kept for the next one.
  await dialog.getByRole('button', { name: 'Keep this as a template' }).click();
  await dialog.getByLabel('Title of the template').fill('Soundings');
  await page.keyboard.press('Enter');
  await expect(dialog.getByRole('button', { name: 'Begin with a template' })).toBeEnabled();
  await dialog.getByRole('button', { name: 'Sign it' }).click();
  await expect(page.getByText('The review stands beside the data.')).toBeVisible();
});

test('a template is taken for another review', async ({ page }) => {
  await openSheet(page, 'control_marks.shp');
  await page.getByRole('button', { name: 'Review it' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: 'Begin with a template' }).click();
  await page.getByRole('menuitem', { name: 'Soundings', exact: true }).click();
  await expect(dialog.getByLabel('Fit for')).toHaveValue('Charts of the bay');
  await dialog.getByLabel('Reviewer').fill('A. Reviewer');
  await dialog.getByRole('button', { name: 'Sign it' }).click();
  await expect(page.getByText('The review stands beside the data.')).toBeVisible();
});

test('two editions stand side by side on maps that move together, or one over the other', async ({ page }) => {
  await openSheet(page, 'bay_soundings.shp');
  await page.getByRole('button', { name: 'Compare it' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Before').fill('control_marks');
  await page.getByRole('option', { name: /control_marks/ }).click();
  await dialog.getByRole('button', { name: 'Compare', exact: true }).click();
  const section = dialog.getByRole('region', { name: 'Both on the map' });
  await expect(section.getByText('36 places added')).toBeVisible();
  await expect(section.getByText('24 places changed')).toBeVisible();
  await expect(section.getByRole('application')).toHaveCount(2);
  await expect(section.getByRole('application').last()).toHaveAttribute('data-drawn', 'true');
  await section.scrollIntoViewIfNeeded();
  if (look) await page.screenshot({ path: `${look}/quality-beside.png` });
  await section.getByRole('button', { name: 'One over the other' }).click();
  await expect(section.getByRole('application')).toHaveCount(1);
  await expect(section.getByRole('application')).toHaveAttribute('data-drawn', 'true');
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-over.png` });
});

test('in Folders a document is read, an archive is looked into where it stands, a path is copied', async ({ page, context }) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  cpSync(join(folder, 'places', 'desk', 'downloads', 'tide_stations.tar.gz'), into('tide_stations.tar.gz'));
  await openStop(page, STUDY, 'folders');
  await page
    .getByRole('treegrid')
    .getByRole('row', { name: /^received/ })
    .first()
    .click();
  await page.keyboard.press('ArrowRight');
  await page
    .getByRole('treegrid')
    .getByRole('row', { name: /^read_me\.txt/ })
    .first()
    .click();
  await page.getByRole('button', { name: 'Read it' }).click();
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText('Received data stays as it came.')).toBeVisible();
  await expect(dialog.getByRole('heading', { name: 'What do these words tell?' })).toBeHidden(); // it is read, and states nothing of data
  await expectAccessible(page);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Copy its path' }).click();
  await page.getByRole('menuitem', { name: /^As this system writes it/ }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toBe('D:\\gis\\ellisande_seagrass\\received\\read_me.txt');
  await page
    .getByRole('treegrid')
    .getByRole('row', { name: /^tide_stations\.tar\.gz/ })
    .first()
    .click();
  await page.getByRole('link', { name: 'Look into it' }).click();
  await expect(page.getByRole('region', { name: 'tide_stations.tar.gz' })).toContainText('points, 18');
});

test('what the project asks for: an area, and reviewed sheets before it is sent', async ({ page }) => {
  await openStop(page, STUDY, 'quality');
  await page.getByRole('button', { name: 'Ask for…' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Area of interest').fill('exclusion_zone');
  await page
    .getByRole('option', { name: /exclusion_zone/ })
    .first()
    .click();
  await dialog.getByLabel('That every dataset is reviewed').check();
  await expectAccessible(page);
  if (look) await page.screenshot({ path: `${look}/quality-asks.png` });
  await dialog.getByRole('button', { name: 'Ask for this' }).click();
  await expect(
    page.getByText(/The project is about the area of .*exclusion_zone.*Before it is sent every dataset has to be reviewed\./),
  ).toBeVisible();
  await openSheet(page, 'bay_soundings.shp');
  await page.getByRole('button', { name: 'Check it anew' }).click();
  await expect(page.getByText(/outside the area that the project is about/)).toBeVisible();
  await openStop(page, STUDY, 'send');
  await expect(page.getByText(/^The project asks for a sheet of every dataset before it is sent, and \d+ lack it/)).toBeVisible({
    timeout: 30_000,
  });
  await expect(page.getByRole('button', { name: 'Make the bundle' })).toBeDisabled();
  if (look) await page.screenshot({ path: `${look}/quality-send.png` });
  await page.getByRole('link', { name: 'Check and review them' }).click();
  await expect(page.getByRole('heading', { name: 'Quality', exact: true })).toBeVisible();
});

test('sheets are saved as pages of paper, and go out of date when the data changes', async ({ page }) => {
  await openSheet(page, 'bay_soundings.shp');
  await page.getByRole('button', { name: 'Save the sheets' }).click();
  const coming = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Pages of paper (PDF)' }).click();
  const text = execFileSync('pdftotext', [await (await coming).path(), '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
  for (const words of [
    'received/bay_soundings/bay_soundings.shp',
    'Units: Coordinates are in feet.',
    'Reviewed by A. Reviewer',
    'Fit for: Charts of the bay',
  ])
    expect(text).toContain(words);
  const file = into('bay_soundings', 'bay_soundings.dbf');
  const bytes = readFileSync(file);
  bytes[bytes.length - 3] = bytes.at(-3) === 0x31 ? 0x32 : 0x31;
  chmodSync(file, 0o644); // originals are read-only
  writeFileSync(file, bytes);
  await expect(page.getByText('out of date', { exact: true }).first()).toBeVisible({ timeout: 20_000 });
});
