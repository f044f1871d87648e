import type { Locator, Page } from '@playwright/test';
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { expect, expectAccessible, folder, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('made');

// A person who never saw it mends, makes and sends, by keyboard alone, and reads nothing but the screen.
test.describe.configure({ mode: 'serial' });
const strip = (page: Page, title: string): Locator => page.getByRole('region', { name: `${title}, step by step` });
/** Goes to a control with Tab alone, as far as it takes, and presses it. */
async function press(page: Page, control: Locator, key = 'Enter'): Promise<void> {
  await expect(control).toBeVisible();
  await expect(control).toBeEnabled();
  for (let i = 0; i < 400; i++) {
    if (await control.evaluate((e) => e === document.activeElement).catch(() => false)) {
      await page.keyboard.press(key);
      return;
    }
    await page.keyboard.press('Tab');
  }
  throw new Error('Tab does not lead there');
}
const button = (page: Page, name: string | RegExp): Locator => page.getByRole('button', { name });

test('the first page says what this is, and offers three ways in; it holds on a wide and on a narrow screen', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByText('It shows where each layer’s data is, and mends the maps when data has moved.')).toBeVisible();
  const ways = page.getByRole('region', { name: 'Ways in' });
  await expect(ways.getByRole('button')).toHaveText([/Hide this/, /^Mend what broke2 min/, /^Make a project3 min/, /^Send it whole2 min/]);
  await expect(page.getByRole('row', { name: new RegExp(STUDY) })).toContainText('20 to mend');
  await expect(page.getByRole('list', { name: 'Places' }).getByRole('listitem').first()).toHaveText(/^deskD:2 projectshere$/);
  await expectAccessible(page);
  for (const width of [1280, 1920, 390]) {
    await page.setViewportSize({ width, height: 844 });
    expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(width);
  }
  await expectAccessible(page);
  await ways.getByRole('button', { name: 'Hide this' }).click();
  await expect(ways).toBeHidden();
  await page.getByRole('button', { name: 'Ways in' }).click();
  await expect(ways).toBeVisible();
});

test('pages hold at 390 pixels, and at 200 % of 1280', async ({ page }) => {
  for (const width of [390, 640])
    for (const path of ['/', '/places', '/journal', '/receive', '/help']) {
      await page.setViewportSize({ width, height: 844 });
      await page.goto(path);
      await page.getByRole('heading').first().waitFor();
      expect([path, width, await page.evaluate(() => document.documentElement.scrollWidth)]).toEqual([path, width, width]);
      if (width === 390) await expectAccessible(page);
    }
});

/** What goes sideways on a page, but for tables and the diagram, which need both directions (WCAG 2.2, 1.4.10). */
const goSideways = (page: Page): Promise<string[]> =>
  page.evaluate(() => {
    const tables = '[role=table], [role=grid], [role=treegrid], [aria-label="Root diagram"]';
    const isOwn = (e: Element): boolean => e.closest(tables) !== null || [...e.children].some((c) => c.matches(tables));
    const scrolls = (e: Element): boolean => e === document.documentElement || /auto|scroll/.test(getComputedStyle(e).overflowX);
    return [document.documentElement, ...document.querySelectorAll('body *')]
      .filter((e) => e.clientWidth > 0 && e.scrollWidth > e.clientWidth + 1 && scrolls(e) && !isOwn(e))
      .map((e) => `${e.tagName} ${e.className}: ${e.scrollWidth} in ${e.clientWidth}`);
  });

for (const width of [320, 640])
  test(`every stop holds at ${width} pixels, which is ${(1280 / width) * 100} % of 1280`, async ({ page }) => {
    test.setTimeout(180_000);
    await page.setViewportSize({ width, height: 700 });
    const sources = ['sources', 'sources?view=intake', 'sources?view=links', 'sources?view=services'];
    const maps = ['maps?panel=rehearse', 'maps/edit?map=maps/harbour_approach.owc.json'];
    for (const stop of ['overview', 'folders', 'folders?view=space', ...sources, 'geodatabases', ...maps, 'mend', 'quality', 'send']) {
      await openStop(page, STUDY, stop);
      await page.locator('main h1, main h2').first().waitFor({ state: 'attached' });
      await expect.poll(async () => [stop, await goSideways(page)]).toEqual([stop, []]);
      if (width === 320) await expectAccessible(page);
    }
  });

test('in the root diagram a layer is found, its tether comes to the front, and all of it is a file', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  const box = page.getByRole('searchbox', { name: 'Find a layer in the diagram' });
  await box.fill('scour mark');
  await expect(page.getByText('1 layer; Enter goes there')).toBeVisible();
  await box.press('Enter');
  await expect(page.getByText('1 of 1')).toBeVisible();
  const row = page.getByRole('link', { name: /^Scour marks, adrift/ });
  await expect(row).toBeInViewport();
  await box.fill('fairway');
  await box.press('Enter'); // it stands in a map that is folded
  await expect(page.getByRole('link', { name: /^Fairway, sound/ })).toBeInViewport();
  await box.press('Escape');
  await expect(box).toHaveValue('');
  await page.getByRole('button', { name: 'Save the diagram' }).click();
  await expectAccessible(page);
  const downloads = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'As PNG' }).click();
  const path = await (await downloads).path();
  // Outside reference: file(1).
  expect(execFileSync('file', ['-b', path]).toString()).toMatch(/^PNG image data, 18\d\d x \d+/);
});

test('mend what broke, by keyboard', async ({ page }) => {
  await page.goto('/');
  await press(page, button(page, /^Mend what broke/));
  await expect(page).toHaveURL(/\/overview$/);
  const step = strip(page, 'Mend what broke');
  await expect(step.getByRole('status')).toContainText('plum lines end where data was recorded and is no more');
  await expectAccessible(page);
  await press(page, step.getByRole('button', { name: 'Next' }));
  await expect(page).toHaveURL(/\/mend$/);
  // Left, it is offered again where it was left.
  await press(page, step.getByRole('button', { name: 'Leave it' }));
  await expect(step).toBeHidden();
  await page.goto('/');
  await expect(button(page, /^Mend what broke/)).toContainText('go on');
  await press(page, button(page, /^Mend what broke/));
  await expect(step.getByRole('status')).toContainText('what explains it and the proof');
  await press(page, button(page, 'Mend 20 certain layers'));
  const confirm = page.getByRole('dialog').getByRole('button', { name: /^Mend/ });
  await page.waitForTimeout(400);
  if (await confirm.isVisible()) await press(page, confirm);
  await expect(step.getByRole('status')).toContainText('were read back');
  await expect(page).toHaveURL(/\/overview$/);
  await press(page, step.getByRole('button', { name: 'Next' }));
  await expect(page).toHaveURL(/\/journal$/);
  await press(page, step.getByRole('button', { name: 'That was it' }));
  await expect(step).toBeHidden();
  await page.goto('/');
  await expect(page.getByRole('row', { name: new RegExp(STUDY) })).not.toContainText('to mend');
  await expect(page.getByRole('list', { name: 'Changed last' }).getByRole('listitem')).not.toHaveCount(0);
});

test('every map has its picture, also on the first page', async ({ page }) => {
  await openStop(page, STUDY, 'maps');
  await expect(page.locator('[data-map-picture=drawn]')).toHaveCount(7);
  await expect(page.locator('[data-map-picture=none]')).toHaveCount(0);
  const colours = await page.locator('[data-map-picture] img').evaluateAll((images) =>
    Promise.all(
      (images as HTMLImageElement[]).map(async (image) => {
        await image.decode();
        const canvas = new OffscreenCanvas(140, 52);
        const context = canvas.getContext('2d')!;
        context.drawImage(image, 0, 0, 140, 52);
        return new Set(new Uint32Array(context.getImageData(0, 0, 140, 52).data.buffer)).size;
      }),
    ),
  );
  for (const n of colours) expect(n).toBeGreaterThan(20);
  await page.goto('/');
  await expect(page.locator('[data-map-picture=drawn]')).toHaveCount(5);
});

test('make a project, by keyboard', async ({ page }) => {
  await page.goto('/');
  await press(page, button(page, /^Make a project/));
  const step = strip(page, 'Make a project');
  await expect(step.getByRole('status')).toContainText('Type a title');
  await page.getByLabel('Title').focus();
  await page.keyboard.type('Tern colonies 2026');
  await press(page, button(page, 'Make the project'));
  await expect(step.getByRole('status')).toContainText('Bring in an archive or a folder');
  await expect(page).toHaveURL(/sources\?view=intake$/);
  await expectAccessible(page);
  await page.getByLabel('Files to bring in').setInputFiles(join(folder, 'places', 'desk', 'downloads', 'reef survey 2026.zip'));
  await press(page, button(page, /^Bring in \d/));
  await expect(step.getByRole('status')).toContainText('Tick what came');
  await expect(page.getByLabel(/^Tick reef.survey\.shp/).first()).toBeVisible();
  await press(page, page.getByRole('rowgroup', { name: 'Rows' }), 'ArrowDown');
  await expect(page.getByRole('row', { selected: true })).toBeVisible();
  await page.keyboard.press(' ');
  await press(page, page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }));
  await press(page, page.getByRole('dialog').getByRole('button', { name: 'Make the map' }));
  await expect(step.getByRole('status')).toContainText('This is the project on disk');
  await press(page, step.getByRole('button', { name: 'That was it' }));
});

test('send it whole, by keyboard', async ({ page }) => {
  await page.goto('/');
  await press(page, button(page, /^Send it whole/));
  const step = strip(page, 'Send it whole');
  await expect(step.getByRole('status')).toContainText('This is what goes along');
  await expectAccessible(page);
  await press(page, step.getByRole('button', { name: 'Next' }));
  await press(page, button(page, 'Make the bundle'));
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible({ timeout: 60_000 });
  await press(page, step.getByRole('button', { name: 'Next' }));
  await expect(page).toHaveURL(/\/receive$/);
  await expectAccessible(page);
  await press(page, step.getByRole('button', { name: 'That was it' }));
  await expect(step).toBeHidden();
});

test('help stands beside each page, and Find knows what can be done', async ({ page }) => {
  await openStop(page, STUDY, 'folders');
  await page
    .getByRole('heading', { name: /Folders|ellisande/i })
    .first()
    .waitFor();
  await page.keyboard.press('?');
  const help = page.getByRole('dialog', { name: 'Help for this page' });
  await expect(help.getByRole('heading', { name: 'Folders' })).toBeVisible();
  await expect(help).toContainText('references of all maps along');
  await expectAccessible(page);
  await help.getByRole('link', { name: /^All help/ }).click();
  await page.getByRole('searchbox', { name: 'Find in the help' }).fill('checksum');
  await expect(page.getByRole('region', { name: /^Help: / })).toHaveCount(2);
  await expectAccessible(page);
  await openStop(page, STUDY, 'overview');
  await page.getByRole('combobox', { name: 'Find' }).fill('store relat');
  await page.getByRole('option', { name: 'Store paths relatively' }).click();
  await expect(page).toHaveURL(/\/maps$/);
});

test('whoever has no project yet is offered the same, and opens a folder first', async ({ page, request }) => {
  const projects = (await (await request.get('/api/projects')).json()) as { key: string; title: string }[];
  for (const { key } of projects) await request.delete(`/api/projects/${key}`);
  await page.goto('/');
  await expect(page.getByText('No project yet')).toBeVisible();
  await expectAccessible(page);
  await press(page, button(page, /^Mend what broke/));
  const chooser = page.getByRole('dialog');
  await chooser.getByRole('button', { name: /^desk/ }).click();
  await chooser.getByRole('button', { name: 'older jobs', exact: true }).click();
  await chooser.getByRole('button', { name: /^Tern colonies 2024/ }).click();
  await chooser.getByRole('button', { name: 'Open this folder' }).click();
  await expect(page).toHaveURL(/\/overview$/);
  await expect(strip(page, 'Mend what broke')).toBeVisible();
});
