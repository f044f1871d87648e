import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { desk, expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

const study = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const look = async (page: Page, name: string): Promise<void> => {
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/${name}.png` });
};

test('what the project says of itself is changed, and what follows is said before', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  await look(page, 'overview');
  // The CRS that stands comes late: what is typed is not lost to it.
  await page.route(/\/crs\?/, async (route) => {
    await new Promise((done) => setTimeout(done, 500));
    await route.continue();
  });
  await page.getByRole('button', { name: 'Change what the project says of itself' }).click();
  const dialog = page.getByRole('dialog', { name: 'What the project says of itself' });
  await dialog.getByLabel('Summary').fill('Where the beds are, and where boats may moor.');
  await dialog.getByLabel('Coordinate reference system').fill('32625');
  await page
    .getByRole('option', { name: /UTM zone 25N/ })
    .first()
    .click();
  await expect(dialog.getByRole('note')).toContainText('keep the CRS that they have: nothing is computed anew.');
  await expectAccessible(page);
  await look(page, 'card-dialog');
  const maps = execFileSync('sha256sum', [study('maps/harbour_approach.owc.json')]).toString();
  await dialog.getByRole('button', { name: 'Keep it' }).click();
  await expect(dialog).toBeHidden();
  await expect(page.getByText('Where the beds are, and where boats may moor.')).toBeVisible();
  const file = JSON.parse(readFileSync(study('ellisande_seagrass.rootmap.json'), 'utf8')) as { crs: string; summary: string };
  expect(file).toMatchObject({ crs: 'EPSG:32625', summary: 'Where the beds are, and where boats may moor.' });
  expect(execFileSync('sha256sum', [study('maps/harbour_approach.owc.json')]).toString()).toBe(maps);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Where the beds are, and where boats may moor.')).toBeHidden();
});

test('a note is dated, is about something, stands in its file, and goes along in a bundle', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  await page.getByRole('button', { name: 'Write one' }).click();
  await page.getByLabel('Note', { exact: true }).fill('The office says the lights of 2025 replace those of 2024.');
  await page.getByLabel('About').fill('lights.shp');
  await page.getByRole('option', { name: 'received/hydro_office/lights.shp' }).click();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Keep the note' }).click();
  const note = page.getByRole('article').first();
  await expect(note).toContainText('The office says the lights of 2025 replace those of 2024.');
  await expect(note).toContainText(new Date().toISOString().slice(0, 4));
  await look(page, 'notes-of-project');
  expect(existsSync(study('project_notes.md'))).toBe(true);
  expect(readFileSync(study('project_notes.md'), 'utf8')).toMatch(
    /^# Notes on .*\n\n## \d{4}-\d\d-\d\d \d\d:\d\d, .*\n\nThe office says .*\n\nAbout: \[received\/hydro_office\/lights\.shp\]\(received\/hydro_office\/lights\.shp\)\n$/,
  );
  // Outside reference: Python's zipfile lists what is in the bundle.
  const out = study('..', 'whole.zip');
  const env = { ...process.env, ROOTMAP_DATA: study('..', 'command-line') };
  const packed = spawnSync(process.execPath, ['cli/bin/rootmap.js', 'pack', study(), '--out', out, '--used'], { env, encoding: 'utf8' });
  expect(packed.stderr).toBe('');
  const names = execFileSync('/usr/bin/python3', [
    '-c',
    'import zipfile,sys; print("\\n".join(zipfile.ZipFile(sys.argv[1]).namelist()))',
    out,
  ]).toString();
  expect(names).toContain('/project_notes.md');
  await note.getByRole('link', { name: 'received/hydro_office/lights.shp' }).click();
  await expect(page).toHaveURL(/folders\?path=/);
  // Beside the journal, about a change.
  await openStop(page, STUDY, 'overview');
  const key = /\/p\/([^/]+)\//.exec(page.url())![1]!;
  await page.goto(`/journal?project=${key}`);
  await page.getByRole('button', { name: 'Write one' }).click();
  await page.getByLabel('Note', { exact: true }).fill('Taken back: the office wants its own CRS.');
  await page.getByLabel('About').fill('says of itself');
  await page.getByRole('option').first().click();
  await page.getByRole('button', { name: 'Keep the note' }).click();
  await expect(page.getByRole('article').first()).toContainText('Taken back: the office wants its own CRS.');
  await expect(page.getByRole('article').first().getByRole('link')).toContainText('says of itself');
  await expectAccessible(page);
  await look(page, 'journal-notes');
});

test('what arrives in other coordinates is told in a line, and copied into the project’s CRS in one press', async ({ page }) => {
  const zip = study('..', 'positions.zip');
  const features = [
    { type: 'Feature', properties: { name: 'North' }, geometry: { type: 'Point', coordinates: [-39.2, 44] } },
    { type: 'Feature', properties: { name: 'South' }, geometry: { type: 'Point', coordinates: [-39.19, 43.98] } },
  ];
  const make = 'import zipfile,sys; zipfile.ZipFile(sys.argv[1],"w").writestr("positions.geojson", sys.argv[2])';
  execFileSync('/usr/bin/python3', ['-c', make, zip, JSON.stringify({ type: 'FeatureCollection', features })]);
  await openStop(page, STUDY, 'sources?view=intake');
  await page.getByLabel('Files to bring in').setInputFiles(zip);
  const card = page.getByRole('region', { name: 'positions.zip', exact: true });
  await expect(card.getByRole('region', { name: 'Other coordinates' })).toContainText(
    'positions.geojson in EPSG:4326, the project is in EPSG:32624: another unit, degree instead of metre.',
  );
  await expectAccessible(page);
  await card.getByLabel('Publisher', { exact: true }).fill('Tide Office');
  await card.getByRole('button', { name: 'Bring in 1 thing' }).click();
  await card.getByRole('button', { name: 'Make 1 copy in EPSG:32624' }).click();
  await expect(card).toContainText('2 read, 2 written, none left out.');
  await look(page, 'arrived-copies');
  const file = /([\w-]+\.gpkg): 2 read/.exec((await card.textContent())!)![1]!;
  // Outside reference: PROJ's cs2cs, and ogrinfo for what stands in the copy.
  const theirs = execFileSync('cs2cs', ['-f', '%.3f', 'EPSG:4326', 'EPSG:32624'], { input: '44 -39.2\n43.98 -39.19\n' }).toString().trim().split('\n').map((l) => l.trim().split(/\s+/).slice(0, 2).map(Number)); // prettier-ignore
  const told = execFileSync('ogrinfo', ['-q', '-ro', '-al', study('derived', file)]).toString();
  const points = [...told.matchAll(/POINT \(([\d.]+) ([\d.]+)\)/g)].map((m) => [Number(m[1]), Number(m[2])]);
  expect(points).toHaveLength(2);
  points.forEach((p, i) => p.forEach((v, k) => expect(Math.abs(v - theirs[i]![k]!)).toBeLessThan(0.002)));
});

test('a linked folder is a branch to look at: what stands in it is read, and nothing in it can be moved or deleted', async ({ page }) => {
  await openStop(page, STUDY, 'folders');
  const tree = page.getByRole('treegrid');
  await tree.focus();
  await page.keyboard.press('End');
  const link = tree.getByRole('row', { name: /linked, to look at/ }).last();
  await expect(link).toHaveAttribute('aria-selected', 'true');
  await page.keyboard.press('ArrowRight');
  await expect(link).toHaveAttribute('aria-expanded', 'true');
  await page.keyboard.press('End');
  await expect(page.getByText(/^Linked as .*: other projects may use it too, so it is only looked at here\.$/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Copy its path' })).toBeVisible();
  for (const name of ['Delete', 'Rename', 'Cut']) await expect(page.getByRole('button', { name, exact: true })).toHaveCount(0);
  await page.keyboard.press('Delete');
  await page.keyboard.press('F2');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expectAccessible(page);
  await look(page, 'linked-branch');
});
