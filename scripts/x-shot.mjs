import { chromium } from '@playwright/test';
import { readFileSync } from 'node:fs';
const base = 'http://127.0.0.1:4871';
const key = readFileSync('/tmp/key', 'utf8').trim();
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
export async function shot(name, path, { scheme = 'light', act, size = { width: 1280, height: 800 } } = {}) {
  const page = await (await browser.newContext({ viewport: size, colorScheme: scheme })).newPage();
  page.on('console', (m) => m.type() === 'error' && console.log('console', m.text()));
  page.on('pageerror', (e) => console.log('error', e.message));
  await page.goto(base + path.replace('KEY', key));
  await page.waitForTimeout(1200);
  if (act) await act(page).catch((e) => console.log(name, String(e).slice(0, 900)));
  await page.screenshot({ path: `/tmp/${name}.png` });
  await page.context().close();
}
await (await import('/tmp/acts.mjs')).default(shot);
await browser.close();
