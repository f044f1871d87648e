import { cpSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { desk, expect, test, useDemo } from './demo.js';

useDemo('mended');

test.describe.configure({ mode: 'serial' });
const WORLD_COPY = 'world_copied';

test('a plan is changed, kept, offered again, shared as a file, and forgotten', async ({ page }) => {
  await page.goto('/new');
  await page.getByRole('button', { name: 'Another folder' }).click();
  await page.getByRole('textbox', { name: 'Folder 8' }).fill('../above');
  await expect(page.getByRole('alert')).toContainText('it leads out of the project');
  await expect(page.getByRole('button', { name: 'Keep as a plan…' })).toBeDisabled();
  await page.getByRole('textbox', { name: 'Folder 8' }).fill('field/2026');
  await page.getByRole('button', { name: 'Keep as a plan…' }).click();
  await page.getByLabel('Title of the plan').fill('Field jobs');
  await page.getByRole('button', { name: 'Keep the plan' }).click();
  await page.reload();
  await page.getByLabel('Plan', { exact: true }).click();
  await page.getByRole('option', { name: 'Field jobs (your own)' }).click();
  await expect(page.getByRole('textbox', { name: 'Folder 8' })).toHaveValue('field/2026');
  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Save to a file' }).click()]);
  const plan = JSON.parse(readFileSync(await download.path(), 'utf8')) as { format: string; folders: { path: string }[] };
  expect(plan.format).toBe('rootmap-folder-plan/1');
  expect(plan.folders.map((f) => f.path)).toContain('field/2026');
  await page.getByRole('button', { name: 'Forget this plan' }).click();
  await expect(page.getByRole('textbox', { name: 'Folder 8' })).toBeHidden();
  await page
    .getByLabel('Plan file')
    .setInputFiles({ name: 'mine.plan.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(plan)) });
  await expect(page.getByRole('textbox', { name: 'Folder 8' })).toHaveValue('field/2026');
  await page
    .getByLabel('Plan file')
    .setInputFiles({ name: 'bad.json', mimeType: 'application/json', buffer: Buffer.from('{"format": 1}') });
  await expect(page.getByText(/bad\.json.*format/)).toBeVisible();
});

test('a grown folder becomes a project where it stands', async ({ page }) => {
  mkdirSync(desk('loose', 'stuff'), { recursive: true });
  writeFileSync(desk('loose', 'stuff', 'counts.csv'), 'x,y\n1,2\n');
  writeFileSync(desk('loose', 'readme.txt'), 'notes\n');
  const opened = await page.request.post('/api/projects', { data: { place: 'desk', path: 'gis/loose' } });
  const { key } = (await opened.json()) as { key: string };
  await page.goto(`/p/${key}/folders`);
  await page.getByRole('button', { name: 'Make this folder a project' }).click();
  await page.getByRole('dialog').getByLabel('Title').fill('Loose counts');
  await page.getByRole('button', { name: 'See where each thing would go' }).click();
  const places = page.getByRole('table', { name: 'Proposed places' });
  await expect(places.getByRole('row', { name: /counts\.csv/ })).toBeVisible();
  await places.getByRole('checkbox', { name: 'Move readme.txt' }).uncheck();
  await page.getByRole('button', { name: 'Show all that would change' }).click();
  await page.getByRole('button', { name: 'Make it a project' }).click();
  await expect(page.getByText('Make Loose counts a project: done.')).toBeVisible();
  expect(existsSync(desk('loose', 'received', 'stuff', 'counts.csv'))).toBe(true);
  expect(existsSync(desk('loose', 'readme.txt'))).toBe(true);
  expect(existsSync(desk('loose', 'stuff'))).toBe(false);
  await expect(page.getByRole('button', { name: /Loose counts/ })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText(/^Undone: \d+ file.* put back\.$/)).toBeVisible();
  expect(existsSync(desk('loose', 'stuff', 'counts.csv'))).toBe(true);
});

test('a copied root is told from the list and made a project of its own', async ({ page }) => {
  cpSync(desk('world_outline'), desk(WORLD_COPY), { recursive: true });
  await page.request.post('/api/projects', { data: { place: 'desk', path: `gis/${WORLD_COPY}` } });
  await page.goto('/');
  const row = page.getByRole('row').filter({ has: page.getByText(`gis/${WORLD_COPY}`, { exact: true }) });
  await expect(row.getByText('copy', { exact: true })).toBeVisible();
  await expect(row.getByText('The same project as desk: gis/world_outline')).toBeVisible();
  await row.getByRole('button', { name: 'Make it separate' }).click();
  await expect(row.getByText('copy', { exact: true })).toBeHidden();
  const idOf = (folder: string): string =>
    (JSON.parse(readFileSync(desk(folder, 'world_outline.rootmap.json'), 'utf8')) as { id: string }).id;
  expect(idOf(WORLD_COPY)).not.toBe(idOf('world_outline'));
});
