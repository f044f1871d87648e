import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { ServiceTreeView } from '@rootmap/core/contract';
import { desk, expect, expectAccessible, folder, openStop, servers, STUDY, test, useDemo } from './demo.js';

/*
 * Servers of others: linked, looked through, drawn in a map that outlives their failure and their move, copied; and data by its
 * address, with its second edition. The servers are the stand-ins of the demo.
 */
useDemo('mended', { withServers: true });
test.describe.configure({ mode: 'serial' });

const root = (...parts: string[]): string => desk('ellisande_seagrass', ...parts);
const card = (page: Page, name: string) => page.getByRole('region', { name: `Service ${name}`, exact: true });
const mapOf = (page: Page) => page.getByRole('application', { name: /^Map / });

async function link(page: Page, address: string, name: string): Promise<void> {
  await page.getByRole('button', { name: 'Link a service' }).click();
  await page.getByLabel('Address, whole or in part').fill(address);
  await page.getByRole('button', { name: 'Try it' }).click();
  await page.getByLabel('Name of the link').fill(name);
  await page.getByRole('button', { name: `Link it as ${name}` }).click();
  await expect(card(page, name).getByText('answers', { exact: true })).toBeVisible();
}

async function openServices(page: Page): Promise<void> {
  await openStop(page, STUDY, 'sources');
  await page.getByRole('button', { name: /^Services/ }).click();
}

/** How much of the map is painted in a tone: of all pixels that are. */
const painted = (page: Page): Promise<number> =>
  page.evaluate(() => {
    let sum = 0;
    for (const canvas of document.querySelectorAll<HTMLCanvasElement>('.ol-layer canvas, canvas.ol-layer')) {
      if (canvas.width === 0) continue;
      const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      for (let i = 3; i < data.length; i += 4) if (data[i]! > 40) sum++;
    }
    return sum;
  });

test('a service that nobody asked is told as such; one is linked by part of its address', async ({ page }) => {
  await openStop(page, STUDY, 'overview');
  await expect(page.getByText('not asked', { exact: true }).first()).toBeVisible();
  await openServices(page);
  await expect(card(page, 'charts.harbour.example').getByText('not asked', { exact: true })).toBeVisible();
  await link(page, `${servers.host}/charts/wms?service=WMS&request=GetCapabilities`, 'Charts');
  await link(page, `${servers.address}/library/collections/harbour_lights/items`, 'Library');
  await expectAccessible(page);
  const project = JSON.parse(readFileSync(root('ellisande_seagrass.rootmap.json'), 'utf8')) as { services: unknown };
  expect(project.services).toEqual([
    { name: 'Charts', kind: 'wms', url: `${servers.address}/charts/wms` },
    { name: 'Library', kind: 'features', url: `${servers.address}/library` },
  ]);
});

test('what goes wrong is said in words', async ({ page }) => {
  await openServices(page);
  await page.getByRole('button', { name: 'Link a service' }).click();
  const dialog = page.getByRole('dialog');
  const tries: [string, RegExp][] = [
    ['no-such-server.invalid/wms', /No server is known by the name no-such-server\.invalid|no-such-server\.invalid did not answer in time/],
    [`${servers.address}/nothing`, /has nothing at this address/],
    [`${servers.address}/switches`, /is no map server that can be read here/],
    ['http://10.1.2.3/wms', /stands in a network of your own/],
    ['ftp://maps.example', /is no address of a server/],
  ];
  for (const [address, said] of tries) {
    await page.getByLabel('Address, whole or in part').fill(address);
    await page.getByRole('button', { name: 'Try it' }).click();
    await expect(dialog.getByRole('alert')).toContainText(said);
  }
  await expect(dialog.getByRole('button', { name: /^Allow/ })).toHaveCount(0);
});

test('members sign in: a wrong password, then the right one; it stands in no file that goes anywhere', async ({ page }) => {
  await openServices(page);
  await page.getByRole('button', { name: 'Link a service' }).click();
  await page.getByLabel('Address, whole or in part').fill(`${servers.address}/members`);
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByText(/wants to know who asks/)).toBeVisible();
  await page.getByRole('dialog').getByRole('button', { name: 'Sign in', exact: true }).click();
  await page.getByLabel('Name', { exact: true }).fill('guest');
  await page.getByLabel('Password').fill('wrong horse');
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByText(/does not accept this name and password/)).toBeVisible();
  await page.getByLabel('Password').fill('tide table');
  await page.getByRole('button', { name: 'Try it' }).click();
  await expect(page.getByText(/You are signed in/)).toBeVisible();
  await page.getByLabel('Name of the link').fill('Wardens');
  await page.getByRole('button', { name: 'Link it as Wardens' }).click();
  await expect(card(page, 'Wardens').getByText(/signed in/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Nesting sites' })).toBeVisible();
  const secrets = ['tide table', 'wrong horse', Buffer.from('guest:tide table').toString('base64')];
  const found: string[] = [];
  for (const file of readdirSync(folder, { recursive: true, encoding: 'utf8' })) {
    const path = join(folder, file);
    if (!statSync(path).isFile()) continue;
    const bytes = readFileSync(path).toString('latin1');
    for (const secret of secrets) if (bytes.includes(secret)) found.push(`${file}: ${secret}`);
  }
  expect(found).toEqual([]);
});

test('a catalogue larger than what is listed is searched where it stands', async ({ page }) => {
  // What is listed is cut short, as of a catalogue of many thousands; the search itself is the server's.
  await page.route('**/services/tree', async (route) => {
    const response = await route.fetch();
    const body = (await response.json()) as ServiceTreeView;
    const items = body.tree.items.filter((i) => !i.title.startsWith('Islet beacons'));
    await route.fulfill({ response, json: { ...body, tree: { ...body.tree, items, more: 31_000 } } });
  });
  await openServices(page);
  await card(page, 'Library').getByRole('button', { name: 'Look through it' }).click();
  await expect(page.getByText(/the first of at least 31\D0\d\d/)).toBeVisible();
  await page.getByLabel('Find in what it offers').fill('islet beacons');
  await expect(page.getByText('Nothing that is listed of it has these words.')).toBeVisible();
  await page.getByRole('button', { name: 'Let the server search all that it has for “islet beacons”' }).click();
  await expect(page.getByText('The server found 1 record for “islet beacons” in all that it has.')).toBeVisible();
  await page.getByRole('button', { name: 'Islet beacons (file)' }).click();
  await expect(page.getByText('it is a file: fetch it in Bring in')).toBeVisible();
  await page.reload();
  await expect(page.getByText(/^The server found 1 record/)).toBeVisible();
});

test('a layer is found by search, looked at, and brought into a map, which draws it', async ({ page }) => {
  await openServices(page);
  await card(page, 'Charts').getByRole('button', { name: 'Look through it' }).click();
  await page.getByLabel('Find in what it offers').fill('seagrass anchor');
  await expect(page.getByText('1 of 4 things')).toBeVisible();
  await page.getByRole('button', { name: 'Protected beds' }).click();
  await expect(page.getByRole('img', { name: 'What Protected beds looks like' })).toBeVisible();
  await expect(page.getByText('© Reef Wardens of Ellisande').first()).toBeVisible();
  await page.reload();
  await expect(page.getByText('1 of 4 things')).toBeVisible();
  await page.getByRole('button', { name: 'Bring into a map' }).click();
  await page.getByLabel('Map', { exact: true }).click();
  await page.getByRole('option', { name: 'Start a map with it' }).click();
  await page.getByLabel('Its title').fill('From servers');
  await page.getByRole('button', { name: 'Start a map with it' }).click();
  await expect(mapOf(page)).toHaveAttribute('data-drawn', 'true');
  await expect.poll(() => painted(page)).toBeGreaterThan(1000);
  const map = JSON.parse(readFileSync(root('maps/from_servers.owc.json'), 'utf8')) as {
    features: { properties: Record<string, unknown> }[];
  };
  expect(map.features[0]!.properties['rights']).toBe('© Reef Wardens of Ellisande');
});

test('records of another server come into the same map, above the picture', async ({ page }) => {
  await openServices(page);
  await card(page, 'Library').getByRole('button', { name: 'Look through it' }).click();
  await page.getByRole('button', { name: 'Ferry tracks', exact: true }).click();
  await page.getByRole('button', { name: 'Bring into a map' }).click();
  await page.getByLabel('Map', { exact: true }).click();
  await page.getByRole('option', { name: /^From servers/ }).click();
  await page.getByRole('button', { name: 'Bring it in' }).click();
  await expect(mapOf(page)).toHaveAttribute('data-pictures', '2');
  const titles = page.locator('[data-layer]');
  await expect(titles.first()).toContainText('Ferry tracks');
  await expect(titles.last()).toContainText('Protected beds');
  await openStop(page, STUDY, 'overview');
  await expect(page.getByText('2 answering, 1 not asked')).toBeVisible();
});

test('the servers fail: the map opens as fast, works on, and says so; then they are back', async ({ page }) => {
  await servers.switch({ failing: true });
  await openStop(page, STUDY, 'maps');
  await page.goto(`${page.url().replace(/maps.*$/, 'maps/edit')}?map=${encodeURIComponent('maps/from_servers.owc.json')}`);
  await page.getByRole('button', { name: '+', exact: true }).click();
  await expect(page.locator('[data-layer]').first().locator('..')).toContainText(/did not send all of it|answers with an error/, {
    timeout: 15_000,
  });
  await expect(page.getByRole('heading', { name: 'From servers' })).toBeVisible();
  await openServices(page);
  await page.getByRole('button', { name: 'Ask all' }).click();
  await expect(card(page, 'Charts').getByText('does not answer', { exact: true })).toBeVisible();
  await expect(card(page, 'Charts')).toContainText('Last answer');
  await expectAccessible(page);
  await servers.switch({ failing: false });
  await page.getByRole('button', { name: 'Ask all' }).click();
  await expect(card(page, 'Charts').getByText('answers', { exact: true })).toBeVisible();
});

test('a server moves: one answer puts all of its layers right', async ({ page }) => {
  await servers.switch({ moved: true });
  await openServices(page);
  await card(page, 'Charts').getByRole('button', { name: 'Ask it' }).click();
  await expect(card(page, 'Charts').getByText('moved', { exact: true })).toBeVisible();
  await card(page, 'Charts').getByRole('button', { name: 'Follow it' }).click();
  await expect(page.getByRole('dialog')).toContainText('charts2/wms');
  await page.getByRole('button', { name: 'Follow it there' }).click();
  const moved = `http://localhost:${new URL(servers.address).port}/charts2/wms`;
  await expect.poll(() => readFileSync(root('maps/from_servers.owc.json'), 'utf8')).toContain(moved);
  expect(readFileSync(root('ellisande_seagrass.rootmap.json'), 'utf8')).toContain(moved);
  await card(page, 'Charts').getByRole('button', { name: 'Ask it' }).click();
  await expect(card(page, 'Charts').getByText('answers', { exact: true })).toBeVisible();
  await page.goto(`${page.url().replace(/sources.*$/, 'maps/edit')}?map=${encodeURIComponent('maps/from_servers.owc.json')}`);
  await expect.poll(() => painted(page)).toBeGreaterThan(1000);
});

test('a local copy is kept: every record, read back, with where it came from', async ({ page }) => {
  await openServices(page);
  await card(page, 'Library').getByRole('button', { name: 'Look through it' }).click();
  await page.getByRole('button', { name: 'Protected beds', exact: true }).click();
  await page.getByRole('button', { name: 'Keep a local copy' }).click();
  await page.getByRole('dialog').getByLabel('Table').fill('beds_of_the_office');
  await page.getByRole('button', { name: 'Copy it', exact: true }).click();
  await expect(page.getByText('28 records came, as many as the server told of.')).toBeVisible();
  await expect(page.getByText(/Read back, every value and shape is the same/)).toBeVisible();
  const told = execFileSync('ogrinfo', ['-ro', '-so', root('geodatabases/ellisande.gpkg'), 'beds_of_the_office'], { encoding: 'utf8' });
  expect(told).toContain('Feature Count: 28');
  const record = readFileSync(root('geodatabases/datapackage.json'), 'utf8');
  expect(record).toContain(`${servers.address}/library/collections/protected_beds/items`);
  expect(record).toContain('Copied from the service Library: 28 records.');
});

test('a dataset is fetched by its address; its second edition is found, compared, taken over, and undone', async ({ page }) => {
  await openStop(page, STUDY, 'sources');
  await page.getByRole('button', { name: 'Bring in', exact: true }).click();
  await page.getByLabel('Or paste the address of a file').fill(`${servers.address}/downloads/islet_beacons.zip`);
  await page.getByRole('button', { name: 'Fetch it', exact: true }).click();
  await page.getByRole('button', { name: 'Bring in 1 thing' }).click();
  await expect(page.getByText(/every checksum is right/)).toBeVisible();
  await page.getByRole('button', { name: 'Take it off this page' }).click();
  const shp = root('received/islet_beacons/islet_beacons.shp');
  expect(existsSync(shp)).toBe(true);
  const first = readFileSync(shp);
  await page.getByRole('button', { name: 'Look for new editions' }).click();
  const row = page.getByRole('row').filter({ hasText: 'islet_beacons.zip' });
  await expect(row).toContainText('unchanged');
  await servers.switch({ newEdition: true });
  await row.getByRole('button', { name: 'Look' }).click();
  await expect(row).toContainText('changed');
  await row.getByRole('button', { name: 'Fetch it to compare' }).click();
  await page.getByRole('button', { name: 'Fetch it', exact: true }).click();
  await expect(page.getByText(/50 records, now 64/)).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Let it take the place of islet_beacons.shp' }).click();
  await expect(page.getByText('The new edition stands where the old one stood.')).toBeVisible();
  const told = execFileSync('ogrinfo', ['-ro', '-so', '-al', shp], { encoding: 'utf8' });
  expect(told).toContain('Feature Count: 64');
  await page.getByRole('button', { name: 'Undo' }).last().click();
  // On its way back, the one has gone and the other has not come yet.
  await expect(() => expect(readFileSync(shp).equals(first)).toBe(true)).toPass({ timeout: 20_000 });
});

test('a copied collection has changed: copied once more, compared, in the place of its table, and undone', async ({ page }) => {
  const count = (): string | undefined =>
    /Feature Count: (\d+)/.exec(
      execFileSync('ogrinfo', ['-ro', '-so', root('geodatabases/ellisande.gpkg'), 'beds_of_the_office'], { encoding: 'utf8' }),
    )?.[1];
  await servers.switch({ newEdition: true });
  await openStop(page, STUDY, 'sources');
  await page.getByRole('button', { name: 'Bring in', exact: true }).click();
  const row = page.getByRole('row').filter({ hasText: 'protected_beds/items' });
  await row.getByRole('checkbox').click();
  await page.getByRole('button', { name: 'Look for new editions of 1' }).click();
  await expect(row).toContainText('It has 35 records now, and had 28.');
  await row.getByRole('button', { name: 'Copy it to compare' }).click();
  const dialog = page.getByRole('dialog', { name: 'Copy it anew' });
  await expect(dialog).toContainText('28 records, now 35');
  await expect(dialog).toContainText('No layer uses it.'); // others of the same geodatabase are drawn
  expect(count()).toBe('28');
  await expectAccessible(page);
  await dialog.getByRole('button', { name: 'Let it take the place of the table' }).click();
  await expect(dialog).toContainText('It stands where the old table stood. Read back, every value and shape is the same');
  expect(count()).toBe('35');
  await dialog.getByRole('button', { name: 'Close' }).click();
  await page.goto('/journal');
  const change = page.getByRole('row').filter({ hasText: 'Take over the new edition of beds_of_the_office' }).first();
  await change.getByRole('button', { name: 'Undo' }).click();
  await page.getByRole('dialog').getByRole('button', { name: /^Undo/ }).click();
  await expect.poll(count).toBe('28');
});

test('sent light: a picture in place of the servers, and what a publisher offers is fetched at arrival, as it was', async ({ page }) => {
  await servers.switch({ newEdition: false });
  await openStop(page, STUDY, 'send');
  await page.getByLabel('Leave a picture of each map that draws on servers').click();
  await expect(page.getByRole('status').filter({ hasText: 'From servers' })).toContainText(/drawn 20/, { timeout: 40_000 });
  await expect(page.getByRole('status').filter({ hasText: 'Regional overview' })).toContainText(
    'not or not wholly on it: Sea chart backdrop',
  );
  await page.getByText(/^Stays out:/).click();
  await page.getByLabel('Data that its publisher offers: listed with address, size and hash instead').click();
  await expect(page.getByText(/it can be fetched again from .*islet_beacons\.zip/).first()).toBeVisible();
  await expectAccessible(page);
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
  const zip = desk('ellisande_seagrass.zip');
  const entry = (name: string): Buffer => execFileSync('unzip', ['-p', zip, name], { maxBuffer: 1 << 26 });
  const readMe = entry('*/READ_ME.txt').toString();
  expect(readMe).toMatch(/As it was drawn on 20\d\d-\d\d-\d\d, its servers included: pictures\/from_servers\.png/);
  expect(readMe).toContain('Not, or not wholly, on that picture: Sea chart backdrop');
  // GDAL reads the picture; the sea of the chart that the server drew is on it.
  writeFileSync(root('../page.png'), entry('*/pictures/from_servers.png'));
  const told = JSON.parse(execFileSync('gdalinfo', ['-json', '-stats', root('../page.png')], { encoding: 'utf8' }));
  expect(told.size).toEqual([1754, 1240]);
  expect(told.bands[0].stdDev).toBeGreaterThan(10);

  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await page.getByRole('button', { name: 'Choose where it goes' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^arrivals/ }).click();
  await dialog.getByLabel('New folder').fill('light');
  await dialog.getByRole('button', { name: 'Make it here' }).click();
  await page.getByRole('button', { name: 'Check and receive' }).click();
  const stayed = page.getByRole('region', { name: 'What stayed out' });
  await expect(stayed.getByText(/islet_beacons\.zip/)).toBeVisible();
  const shp = join(folder, 'places/arrivals/light/received/islet_beacons/islet_beacons.shp');
  expect(existsSync(shp)).toBe(false);
  await stayed.getByRole('button', { name: /^Fetch (it|them)$/ }).click();
  await expect(stayed.getByText('as it was', { exact: true })).toBeVisible();
  await expectAccessible(page);
  expect(readFileSync(shp).equals(readFileSync(root('received/islet_beacons/islet_beacons.shp')))).toBe(true);
  expect(execFileSync('ogrinfo', ['-ro', '-so', '-al', shp], { encoding: 'utf8' })).toContain('Feature Count: 50');
});
