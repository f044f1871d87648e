import { execFileSync } from 'node:child_process';
import { expect, expectAccessible, openStop, STUDY, test, useDemo } from './demo.js';

useDemo('mended');

test('a length and an area are measured on the ellipsoid, by typed positions and by pointer', async ({ page }) => {
  await openStop(page, STUDY, `maps/edit?map=${encodeURIComponent('maps/harbour_approach.owc.json')}`);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-drawn', 'true');
  await page.getByRole('button', { name: 'More', exact: true }).click();
  await page.getByRole('menuitem', { name: 'Measure a length or an area' }).click();
  const card = page.getByRole('region', { name: 'Measure' });
  const measured = card.getByRole('note', { name: 'Measured' });
  await expect(card).toContainText('Click the corners');
  const typed = card.getByLabel('Or type a position');
  const corners = ['482000 4871000', '483000 4871500', '482600 4872300'];
  for (const at of corners) {
    await typed.fill(at);
    await typed.press('Enter');
  }
  // Source: PROJ's cs2cs to the degrees of the same datum, and its geod between them.
  const degrees = execFileSync('cs2cs', ['-f', '%.10f', 'EPSG:32624', '+to', '+proj=longlat', '+datum=WGS84'], {
    input: corners.join('\n'),
  })
    .toString()
    .trim()
    .split('\n')
    .map((l) => l.trim().split(/\s+/));
  const legs = execFileSync('geod', ['-I', '+ellps=WGS84', '-f', '%.9f', '-F', '%.4f'], {
    input: [0, 1].map((i) => `${degrees[i]![1]} ${degrees[i]![0]} ${degrees[i + 1]![1]} ${degrees[i + 1]![0]}`).join('\n'),
  })
    .toString()
    .trim()
    .split('\n')
    .map((l) => Number(l.trim().split(/\s+/)[2]));
  const metres = (n: number): string => `${n.toLocaleString('en-GB', { maximumFractionDigits: 2 }).replaceAll(',', '\u202f')} m`;
  await expect(measured).toHaveText(metres(legs[0]! + legs[1]!));
  await expect(card.getByRole('note', { name: 'Legs' })).toHaveText(`Legs: ${legs.map(metres).join(', ')}`);
  // Near the central meridian the plane of UTM is 0.04 % too short, which is its scale factor of 0.9996; an area nearly 0.08 %.
  await expect(card.getByRole('note', { name: 'In the plane' })).toContainText('0.040 % less');
  await card.getByRole('button', { name: 'Area' }).click();
  await expect(measured).toHaveText(/^50\.04\d? ha$/);
  await expect(card.getByRole('note', { name: 'In the plane' })).toHaveText(/50 ha: 0\.079 % less$/);
  await expect(card.getByRole('note', { name: 'Legs' })).toHaveText(/^Legs: [^,]+, [^,]+, [^,]+$/);
  await card.getByRole('button', { name: 'Finish' }).click();
  await expect(card.getByRole('button', { name: 'Finish' })).toBeDisabled();
  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await card.getByRole('button', { name: 'Copy' }).click();
  await expect(page.getByText(/^Copied: 500[34]\d\d\.\d\d m²$/)).toBeVisible();
  await expectAccessible(page);
  if (process.env['ROOTMAP_LOOK']) await page.screenshot({ path: `${process.env['ROOTMAP_LOOK']}/measure.png` });
  // Other colours: what was finished stays so.
  await page.emulateMedia({ colorScheme: 'dark' });
  await expectAccessible(page);
  await expect(card.getByRole('button', { name: 'Finish' })).toBeDisabled();
  await expect(card.getByRole('note', { name: 'Legs' })).toHaveText(/^Legs: [^,]+, [^,]+, [^,]+$/);
  await page.emulateMedia({ colorScheme: 'light' });
  // By pointer: a corner more, one back, the end by a double click, and out by Escape.
  await card.getByRole('button', { name: 'Length' }).click();
  await card.getByRole('button', { name: 'Begin anew' }).click();
  const box = (await page.getByRole('application', { name: /^Map / }).boundingBox())!;
  const at = (x: number, y: number): [number, number] => [box.x + x, box.y + y];
  await page.mouse.click(...at(380, 250));
  await page.waitForTimeout(350);
  await page.mouse.click(...at(460, 330));
  await page.waitForTimeout(350);
  await page.mouse.click(...at(500, 280));
  await page.keyboard.press('Backspace');
  await page.waitForTimeout(350);
  await page.mouse.dblclick(...at(520, 380));
  await expect(card.getByRole('button', { name: 'Finish' })).toBeDisabled();
  await expect(card.getByRole('note', { name: 'Legs' })).toHaveText(/^Legs: [^,]+, [^,]+$/);
  await page.keyboard.press('Escape');
  await expect(card).toContainText('Click the corners');
  await page.keyboard.press('Escape');
  await expect(card).toBeHidden();
  await expect(page.getByText('saved', { exact: true })).toBeVisible();
});
