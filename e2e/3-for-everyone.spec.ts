import type { Page } from '@playwright/test';
import { expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

/** What slides in or fades is not measured half way; what turns for ever is not waited for. */
const settled = (page: Page): Promise<unknown> =>
  page.evaluate(async () => {
    await new Promise((painted) => requestAnimationFrame(() => requestAnimationFrame(painted)));
    const ending = document.getAnimations().filter((a) => a.effect?.getComputedTiming().endTime !== Infinity);
    await Promise.allSettled(ending.map((a) => a.finished));
  });

/** In light by every rule, then in dark by those that colours matter to: the page is the same otherwise. */
async function expectAccessibleInBoth(page: Page): Promise<void> {
  const background = (): Promise<string> => page.evaluate(() => getComputedStyle(document.body).backgroundColor);
  await settled(page);
  await expectAccessible(page);
  const light = await background();
  await page.emulateMedia({ colorScheme: 'dark' });
  await expect.poll(background).not.toBe(light);
  await settled(page);
  await expectAccessible(page, ['color-contrast', 'link-in-text-block']);
}

test.describe('WCAG 2.2 AA by axe', () => {
  test.use({ colorScheme: 'light' });
  for (const stop of [
    'overview',
    'folders',
    'folders?view=names',
    'folders?view=space',
    'sources',
    'sources?view=intake',
    'sources?view=links',
    'geodatabases',
    'maps',
    'mend',
    'send',
  ])
    test(stop, async ({ page }) => {
      await openStop(page, STUDY, stop);
      await page
        .getByRole('contentinfo')
        .getByText(/looked at/)
        .waitFor();
      await expectAccessibleInBoth(page);
    });
  for (const path of ['/', '/new', '/places', '/journal', '/receive', '/help'])
    test(path, async ({ page }) => {
      await page.goto(path);
      await page.getByRole('heading').first().waitFor();
      await expectAccessibleInBoth(page);
    });
});

test('the key / finds a layer, Enter goes there', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  await page.locator('[data-side="left"]').first().waitFor();
  await page.keyboard.press('/');
  await page.keyboard.type('coastline');
  await expect(page.getByRole('option', { name: /Coastline/ }).first()).toBeVisible();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Enter');
  await expect(page).toHaveURL(/maps\?map=maps%2Fregional_overview/);
});

test('the diagram is walked with the arrow keys', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  const first = page.locator('[data-side="left"]').first();
  await first.focus();
  await page.keyboard.press('ArrowDown');
  await expect(page.locator('[data-side="left"]').nth(1)).toBeFocused();
  await page.keyboard.press('ArrowRight');
  await expect(page.locator('[data-side="right"]:focus')).toHaveCount(1);
});

test('usable at 1024 wide: nothing of the frame is cut off', async ({ page }) => {
  await page.setViewportSize({ width: 1024, height: 768 });
  await openStop(page, STUDY, 'mend');
  const width = await page.evaluate(() => document.documentElement.scrollWidth);
  expect(width).toBeLessThanOrEqual(1024);
  await expect(page.getByRole('link', { name: 'Journal' })).toBeInViewport();
});
