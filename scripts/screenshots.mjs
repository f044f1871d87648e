// Takes docs/screenshots/ anew from a fresh demo: one PNG of each main view, 1280×800.
import { chromium } from '@playwright/test';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Server } from '../bench/lib.mjs';
import { demoPlaces, makeDemo, placesSetting, startStandIns } from '../demo/dist/index.js';

const folder = mkdtempSync(join(tmpdir(), 'rootmap-pictures-'));
await makeDemo(folder);
const server = new Server();
const standIns = await startStandIns({ port: 4880 }).catch(() => startStandIns());
await server.start({
  ROOTMAP_PLACES: placesSetting(demoPlaces(folder)),
  ROOTMAP_DEMO: folder,
  ROOTMAP_HOSTS: new URL(standIns.address).host,
  ROOTMAP_STANDINS: standIns.address,
});
for (const path of ['gis/world_outline', 'gis/ellisande_seagrass']) await server.call('POST', 'projects', { place: 'desk', path });
const [study, world] = await server.call('GET', 'projects');
await server.call('GET', `projects/${world.key}`);
const browser = await chromium.launch({
  executablePath: process.env.ROOTMAP_CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-gpu'],
});
const out = new URL('../docs/screenshots/', import.meta.url).pathname;

async function shot(name, path, { scheme = 'light', act } = {}) {
  const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme: scheme })).newPage();
  await page.goto(server.base + path);
  await page.getByRole('heading').first().waitFor();
  await page.waitForTimeout(600);
  if (act) await act(page);
  await page.screenshot({ path: join(out, `${name}.png`) });
  await page.context().close();
}

const at = (stop) => `/p/${study.key}/${stop}`;
await shot('overview', at('overview'));
/** Pictures of maps are made when they are first shown. */
const pictures = (page) => page.waitForTimeout(6000);
await shot('maps', at('maps'), { act: pictures });
await shot('rehearsal', at('maps?panel=rehearse'), {
  act: (page) =>
    page
      .getByText(/would be lost/)
      .waitFor()
      .then(() => pictures(page)),
});
await shot('map', at('maps/edit?map=maps/harbour_approach.owc.json'), {
  act: async (page) => {
    await page.locator('[role=application][data-drawn=true]').waitFor();
    await page.waitForTimeout(1500);
    await page
      .getByRole('button', { name: /^Lights/ })
      .first()
      .click();
    await page.waitForTimeout(1500);
  },
});
await shot('mend', at('mend'));
await shot('start', '/', { act: pictures });
await shot('places', '/places');
const mend = await server.call('POST', `projects/${study.key}/mend/explain`, {});
await server.call('POST', `projects/${study.key}/mend/apply`, {
  choices: mend.layers.filter((l) => l.verdict === 'certain').map((l) => ({ key: l.key, path: l.candidates[0].path })),
});
await shot('folders', at('folders'), {
  act: async (page) => {
    await page.getByRole('row', { name: /exclusion_zone/ }).click();
    await page.waitForTimeout(300);
  },
});
await shot('sources', at('sources'), {
  act: async (page) => {
    await page.getByText('buoys.shp').click();
    await page.locator('[data-drawn=true]').waitFor();
    await page.waitForTimeout(2500);
  },
});
await shot('quality', at('quality'), {
  act: async (page) => {
    await page.getByRole('button', { name: /^Check \d+ datasets$/ }).click();
    await page.getByText(/datasets checked/).waitFor({ timeout: 60_000 });
    await page.waitForTimeout(600);
  },
});
await shot('geodatabases', at('geodatabases'));
await shot('rows', at('geodatabases'), {
  act: async (page) => {
    await page.getByRole('button', { name: 'What to do with seagrass_all_years' }).click();
    await page.getByRole('menuitem', { name: 'See its rows' }).click();
    await page.getByRole('dialog').getByText('64 records').waitFor();
    await page.waitForTimeout(400);
  },
});
await shot('bring-in', at('sources?view=intake'), {
  act: async (page) => {
    await page.getByLabel('Files to bring in').setInputFiles(join(demoPlaces(folder).desk, 'downloads', 'sandbanks.zip'));
    await page.getByText('lines, 12').waitFor();
  },
});
await shot('new-project', '/new', {
  act: async (page) => {
    await page.getByLabel('Title').fill('Tern colonies: Süd & outer bay');
    await page.getByText(/Longest path/).waitFor();
  },
});
const { key: grown } = await server.call('POST', 'projects', { place: 'desk', path: 'older jobs/Tern colonies 2024' });
await shot('names', `/p/${grown}/folders?view=names`);
await server.remove(`projects/${grown}`);
await shot('send', at('send'), {
  act: async (page) => {
    await page.getByRole('checkbox', { name: 'Bring along what stands outside the root' }).click();
    await page.getByLabel('Laid out').click();
    await page.getByRole('option', { name: 'Delivery, numbered' }).click();
    await page.getByText('35 of 36 layers sound, 1 not asked').waitFor();
    await page.getByRole('button', { name: 'Make the bundle' }).click();
    await page.getByText('The bundle is made and was read back.').waitFor();
  },
});
await shot('receive', '/receive?place=desk&path=gis/ellisande_seagrass.zip', {
  act: async (page) => {
    await page.getByRole('button', { name: 'Choose where it goes' }).click();
    await page
      .getByRole('dialog')
      .getByRole('button', { name: /^arrivals/ })
      .click();
    await page.getByRole('dialog').getByRole('button', { name: 'Make it here' }).click();
    await page.getByRole('button', { name: 'Check and receive' }).click();
    await page.getByText(/Arrived whole/).waitFor();
  },
});
for (const [name, path] of [
  ['Office library', 'library'],
  ['Charts', 'charts/wms'],
]) {
  const { url, kind } = await server.call('POST', `projects/${study.key}/services/find`, { address: `${standIns.address}/${path}` });
  await server.call('POST', `projects/${study.key}/edits`, { kind: 'link-service', name, service: kind, url });
}
await shot('services', at(`sources?view=services&service=${encodeURIComponent(`${standIns.address}/library`)}&item=protected_beds`), {
  act: (page) => page.waitForTimeout(1500),
});
await shot('journal', '/journal');
await browser.close();
await server.stop();
await standIns.stop();
rmSync(folder, { recursive: true, force: true });
