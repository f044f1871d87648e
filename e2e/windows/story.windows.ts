import { expect, test as base, type Page } from '@playwright/test';
import { execFileSync, type ChildProcess } from 'node:child_process';
import { copyFileSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { ledFrom } from '../../engine/test/resolve.js';
import { StandIns } from '../../engine/test/stand-ins.js';
import { windowsMachine, type WindowsMachine } from '../../scripts/windows/machine.mjs';

/*
 * One story on Node for Windows: a project on D:, and a stick that is E:. What the app says is held against a plain walk of the
 * same folders by this system, which shares no code with it.
 */
const folder = mkdtempSync(join(tmpdir(), 'rootmap-story-'));
const d = (...parts: string[]): string => join(folder, 'd', ...parts);
const e = (...parts: string[]): string => join(folder, 'e', ...parts);
const TITLE = 'Kelp survey';
const root = (...parts: string[]): string => d('gis', 'Kelp_survey', ...parts);
const REEF = 'received/ellisande_reef_group/reef_survey_2026';

/** Servers of others, on this system: the machine reaches them by the loopback address that both share. */
const servers = new StandIns();
let machine: WindowsMachine;
let server: ChildProcess;
let address = '';
// eslint-disable-next-line no-empty-pattern -- Playwright reads off the pattern that it needs no other fixture
const test = base.extend({ baseURL: async ({}, use) => use(address) });
test.describe.configure({ mode: 'serial' });

const ENVIRONMENT = {
  ROOTMAP_DATA: 'D:\\data',
  ROOTMAP_PLACES: 'desk=D:\\gis;downloads=D:\\downloads;stick=E:',
};
const command = (...args: string[]) =>
  machine.finish([`${machine.workspace}\\cli\\bin\\rootmap.js`, ...args], { env: { ...ENVIRONMENT, ROOTMAP_HOSTS: servers.host } });

test.beforeAll(async () => {
  for (const path of [d('gis'), d('downloads'), e()]) mkdirSync(path, { recursive: true });
  await servers.start();
  machine = await windowsMachine({ D: d(), E: e() });
  const made = await machine.finish([`${machine.workspace}\\demo\\dist\\main.js`, 'D:\\demo'], { env: ENVIRONMENT });
  expect([made.status, made.text]).toEqual([0, expect.stringContaining('D:/demo/places/desk')]);
  copyFileSync(d('demo', 'places', 'desk', 'downloads', 'reef survey 2026.zip'), d('downloads', 'reef survey 2026.zip'));
  const out = join(folder, 'server.log');
  server = machine.node([`${machine.workspace}\\server\\dist\\bundle\\main.js`], {
    out,
    env: { ...ENVIRONMENT, ROOTMAP_PORT: '0', ROOTMAP_LOG: 'warn' },
  });
  for (let tries = 0; address === '' && tries < 200; tries++) {
    await wait(50);
    address = /http:\/\/\S+/.exec(readFileSync(out, 'utf8'))?.[0] ?? '';
  }
  expect(address, readFileSync(out, 'utf8')).not.toBe('');
});
test.afterAll(() => {
  server.kill();
  machine.close();
  servers.stop();
  rmSync(folder, { recursive: true, force: true, maxRetries: 5 });
});

/** Every file below the root with its bytes, told by Node of this system; the trash left out. */
const tree = (): Map<string, string> =>
  new Map(
    readdirSync(root(), { recursive: true, withFileTypes: true })
      .filter((f) => f.isFile() && !f.parentPath.includes('.rootmap'))
      .map((f) => [join(f.parentPath, f.name), readFileSync(join(f.parentPath, f.name), 'base64')] as const)
      .sort(([a], [b]) => (a < b ? -1 : 1)),
  );
const adrift = (below = root()): string[] => ledFrom(below).flatMap((l) => (l.isThere ? [] : [l.title]));
async function openStop(page: Page, stop: string): Promise<void> {
  const projects = (await (await page.request.get('/api/projects')).json()) as { key: string; title: string; place: string }[];
  await page.goto(`/p/${projects.find((p) => p.title === TITLE && p.place === 'desk')!.key}/${stop}`);
}
async function edit(page: Page, data: object) {
  await openStop(page, 'overview');
  return page.request.post(`/api/projects/${/\/p\/([^/]+)/.exec(page.url())![1]!}/edits`, { data });
}
const at = (path: string) => ({ place: 'desk', path: `Kelp_survey/${path}` });
/** A request about the project, and what came of it; of long work once it has ended. */
async function ask(page: Page, what: string, data: object): Promise<Record<string, unknown>> {
  await openStop(page, 'overview');
  const answer = await page.request.post(`/api/projects/${/\/p\/([^/]+)/.exec(page.url())![1]!}/${what}`, { data });
  const body = (await answer.json()) as Record<string, unknown>;
  if (answer.status() !== 202) return body;
  for (let tries = 0; tries < 400; tries++) {
    const jobs = (await (await page.request.get('/api/jobs')).json()) as { id: string; state: string }[];
    const job = jobs.find((j) => j.id === body['id']);
    if (job && job.state !== 'running') return job;
    await wait(100);
  }
  throw new Error('the work did not end');
}
/** GDAL of this system reads what was written there. */
const records = (path: string, ...layer: string[]): string | undefined =>
  /Feature Count: (\d+)/.exec(execFileSync('ogrinfo', ['-ro', '-so', '-al', path, ...layer], { encoding: 'utf8' }))?.[1];

test('the demo that it made is the one that this system makes', async () => {
  const here = join(folder, 'here');
  execFileSync(process.execPath, ['demo/dist/main.js', here], { stdio: 'ignore' });
  const files = readdirSync(here, { recursive: true, withFileTypes: true }).filter((f) => f.isFile());
  const others = files
    .map((f) => join(f.parentPath, f.name).slice(here.length + 1))
    .filter((path) => !readFileSync(join(here, path)).equals(readFileSync(d('demo', path))));
  // SQLite writes its own version into its files; gzip names the system (RFC 1952, section 2.3.1).
  expect([files.length > 200, others.filter((p) => !/\.(gpkg|gz)$/.test(p))]).toEqual([true, []]);
});

test('a project is made on D:', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'New project' }).click();
  await page.getByLabel('Title').fill(TITLE);
  await page.getByRole('button', { name: 'Choose the folder' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('button', { name: /^desk/ }).first().click();
  await dialog.getByRole('button', { name: 'Use this folder' }).click();
  await page.getByLabel('Plan', { exact: true }).click();
  await page.getByRole('option', { name: 'Received, derived, delivered' }).click();
  await page.getByRole('region', { name: 'What will be made' }).getByRole('button', { name: 'Make the project' }).click();
  await expect(page).toHaveURL(/\/folders/);
  expect(existsSync(root('received'))).toBe(true);
});

test('data is brought in, and a map is made of it', async ({ page }) => {
  await openStop(page, 'sources?view=intake');
  await page.getByRole('button', { name: 'Choose in a place' }).click();
  const chooser = page.getByRole('dialog');
  await chooser
    .getByRole('button', { name: /^downloads/ })
    .first()
    .click();
  await chooser.getByRole('button', { name: /^reef survey 2026\.zip/ }).click();
  const card = page.getByRole('article', { name: 'reef survey 2026.zip' }).or(page.getByRole('region', { name: 'reef survey 2026.zip' }));
  await card.getByLabel('Publisher', { exact: true }).fill('Ellisande Reef Group');
  await card.getByRole('button', { name: /^Bring in/ }).click();
  await expect(card).toContainText('every checksum is right');
  expect(existsSync(root(REEF))).toBe(true);

  await openStop(page, 'sources');
  const name = readdirSync(root(REEF)).find((f) => f.endsWith('.shp'))!;
  await page.getByLabel(`Tick ${name}`).first().check();
  await page.getByRole('toolbar', { name: 'What is ticked' }).getByRole('button', { name: 'Bring into map' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Its title').fill('Kelp');
  await dialog.getByRole('button', { name: 'Make the map' }).click();
  await expect(page).toHaveURL(/maps\/edit\?map=maps%2Fkelp/);
  await expect(page.getByRole('application', { name: /^Map / })).toHaveAttribute('data-drawn', 'true');
  expect([ledFrom(root()).length, adrift()]).toEqual([1, []]);
});

test('a geodatabase is made, and data put into it is read back', async ({ page }) => {
  await openStop(page, 'geodatabases');
  const dialog = page.getByRole('dialog');
  await page.getByRole('button', { name: 'Make a geodatabase' }).click();
  await dialog.getByLabel('Name').fill('kelp_tables');
  await dialog.getByRole('button', { name: 'Make it' }).click();
  await expect(dialog).toBeHidden();
  await page.getByRole('region', { name: 'kelp_tables.gpkg' }).getByRole('button', { name: 'Bring data in' }).click();
  const name = readdirSync(root(REEF)).find((f) => f.endsWith('.shp'))!;
  await dialog.getByRole('checkbox', { name, exact: true }).first().check();
  await dialog.getByRole('button', { name: 'Bring in 1 dataset' }).click();
  await expect(dialog.getByText('Read back, every value and shape is the same.')).toBeVisible();
});

test('names, a link, the trash, an export, points that were drawn: each as GDAL or a plain walk finds it', async ({ page }) => {
  const odd = root('derived', 'Kelp cover (2).csv');
  writeFileSync(odd, 'id,cover\r\n01,0.5\r\n');
  const named = await edit(page, {
    kind: 'names',
    only: ['derived/Kelp cover (2).csv'],
    chosen: {},
    evenOriginals: false,
    evenMentioned: false,
  });
  expect([named.status(), await named.text()]).toEqual([200, expect.anything()]);
  expect(readdirSync(root('derived'))).toEqual(['Kelp_cover_2.csv']);

  mkdirSync(d('downloads', 'library'));
  writeFileSync(d('downloads', 'library', 'tides.csv'), 'id,level\r\n1,2.5\r\n');
  expect((await edit(page, { kind: 'link', name: 'library', folder: { place: 'downloads', path: 'library' } })).status()).toBe(200);
  const project = readdirSync(root()).find((f) => f.endsWith('.rootmap.json'))!;
  expect(JSON.parse(readFileSync(root(project), 'utf8')).links).toMatchObject([{ name: 'library' }]);

  const trashed = await edit(page, { kind: 'trash', paths: [at('derived/Kelp_cover_2.csv')], evenOriginals: false });
  expect([trashed.status(), readdirSync(root('derived'))]).toEqual([200, []]);
  const { change } = (await trashed.json()) as { change: { id: string } };
  expect((await page.request.post(`/api/journal/${change.id}/undo`, { data: {} })).status()).toBe(200);
  expect(readFileSync(root('derived', 'Kelp_cover_2.csv'), 'utf8')).toBe('id,cover\r\n01,0.5\r\n');

  const name = readdirSync(root(REEF)).find((f) => f.endsWith('.shp'))!;
  const told = execFileSync('ogrinfo', ['-ro', '-q', root('geodatabases', 'kelp_tables.gpkg')], { encoding: 'utf8' });
  const table = /^1: (\S+)/m.exec(told)![1]!;
  const dataset = `D:/gis/Kelp_survey/geodatabases/kelp_tables.gpkg#${table}`;
  expect(await ask(page, 'exports', { dataset, format: 'shapefile', at: at('delivered/kelp.shp') })).toMatchObject({
    state: 'done',
    result: { skipped: [] },
  });
  expect(records(root('delivered', 'kelp.shp'))).toBe(records(root(REEF, name)));

  const create = { format: 'geojson', at: at('derived/moorings.geojson'), table: '', kind: 'Point', fields: [] };
  const added = [
    { geometry: { type: 'Point', coordinates: [-38.5, 44.1] }, values: [] },
    { geometry: { type: 'Point', coordinates: [-38.6, 44.2] }, values: [] },
  ];
  expect(await ask(page, 'maps/digitised', { dataset: null, create, crs: 'EPSG:4326', added })).toMatchObject({ records: 2 });
  expect(records(root('derived', 'moorings.geojson'))).toBe('2');
});

test('a service is linked and a collection of it copied; a file comes by its address', async () => {
  const study = 'D:\\gis\\Kelp_survey';
  const linked = await command('services', 'add', study, `${servers.address}/library`, '--name', 'library');
  expect([linked.status, linked.text]).toEqual([0, expect.stringContaining('library')]);
  const into = `${study}\\geodatabases\\kelp_tables.gpkg`;
  const copied = await command('services', 'copy', study, 'library', 'protected_beds', '--into', into);
  expect([copied.status, copied.text]).toEqual([0, expect.stringContaining('read back: values and shapes are the same')]);
  expect(records(root('geodatabases', 'kelp_tables.gpkg'), 'protected_beds')).toBe('28');
  const came = await command('fetch', `${servers.address}/downloads/islet_beacons.zip`, '--into', `${study}\\received\\beacons`);
  expect([came.status, came.text]).toEqual([0, expect.stringContaining('islet_beacons.zip')]);
  expect(records(root('received', 'beacons', 'islet_beacons.shp'))).toBe('50');
  const looked = await command('editions', study);
  expect([looked.status, looked.text]).toEqual([0, expect.stringMatching(/unchanged[^]*unchanged/)]);
});

test('a safe move, and one that is refused whole while another program holds a file of it', async ({ page }) => {
  const before = tree();
  const holder = machine.program('hold.exe', [`D:\\gis\\Kelp_survey\\maps\\kelp.owc.json`], { out: join(folder, 'hold.log') });
  for (let tries = 0; !existsSync(join(folder, 'hold.log')) || !readFileSync(join(folder, 'hold.log'), 'utf8').includes('held'); tries++) {
    expect(tries).toBeLessThan(100);
    await wait(50);
  }
  const one = { kind: 'move', moves: [{ from: at('maps/kelp.owc.json'), to: at('delivered/kelp.owc.json') }] };
  const refused = await edit(page, one);
  expect([refused.status(), await refused.text()]).toEqual([423, expect.stringMatching(/kelp\.owc\.json.*(held|open).*another program/)]);
  expect(tree()).toEqual(before);
  machine.end('hold.exe');
  await new Promise((ended) => holder.once('exit', ended));
  const move = { kind: 'move', moves: [{ from: at('maps'), to: at('drawn') }], evenOriginals: true };
  const moved = await edit(page, move);
  expect([moved.status(), (await moved.text()).slice(0, 30)]).toEqual([200, expect.anything()]);
  expect([existsSync(root('maps')), existsSync(root('drawn', 'kelp.owc.json')), adrift()]).toEqual([false, true, []]);
});

test('a folder is renamed outside the app: it is known again, and mended', async ({ page }) => {
  await openStop(page, 'overview');
  await expect(page.getByText(/1 of 1 layer|1 layer/).first()).toBeVisible();
  renameSync(root('received', 'ellisande_reef_group'), root('received', 'reef_group'));
  expect(adrift()).toHaveLength(1);
  await openStop(page, 'mend');
  const proof = page.getByRole('region', { name: 'Proof' });
  await proof.getByRole('button', { name: /^Mend 1 certain layer/ }).click();
  await expect(page.getByText(/1 layer mended in 1 map/)).toBeVisible();
  expect(adrift()).toEqual([]);
});

test('a bundle goes to E:, is received there, and by this system; every layer is sound', async ({ page }) => {
  await openStop(page, 'send');
  await page.getByRole('button', { name: 'Change', exact: true }).click();
  const dialog = page.getByRole('dialog');
  await dialog
    .getByRole('button', { name: /^stick/ })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'Put it here' }).click();
  await page.getByRole('button', { name: 'Make the bundle' }).click();
  await expect(page.getByText('The bundle is made and was read back.')).toBeVisible();
  const bundle = readdirSync(e()).find((f) => f.endsWith('.zip'))!;
  await page.getByRole('link', { name: 'Receive it into another place' }).click();
  await page.getByRole('button', { name: 'Choose where it goes' }).click();
  await dialog
    .getByRole('button', { name: /^stick/ })
    .first()
    .click();
  await dialog.getByRole('button', { name: 'Make it here' }).click();
  await page.getByRole('button', { name: 'Check and receive' }).click();
  await expect(page.getByText(/Arrived whole: \d+ files/)).toBeVisible();
  await expect(page.getByText('all 1 layer sound')).toBeVisible();

  const here = join(folder, 'received here');
  const rootmap = (...args: string[]) =>
    execFileSync(process.execPath, ['cli/bin/rootmap.js', ...args], {
      encoding: 'utf8',
      env: { ...process.env, ROOTMAP_DATA: join(folder, 'data here') },
    });
  rootmap('receive', e(bundle), '--into', here);
  expect(adrift(here)).toEqual([]);
  expect(rootmap('layers', here)).toContain('1 layer in 1 map, 1 sound');
  // And the other way round: made here, received there.
  rootmap('pack', here, '--out', e('from_here.zip'));
  const back = await command('receive', 'E:\\from_here.zip', '--into', 'E:\\back');
  expect([back.status, back.text]).toEqual([0, expect.stringContaining('sound')]);
  const layers = await command('layers', 'E:\\back');
  expect([layers.status, layers.text]).toEqual([0, expect.stringContaining('1 layer in 1 map, 1 sound')]);
});

test('the stick comes back as F:, and is known by what is on it', async ({ page }) => {
  type Seen = { name: string; folder: string; present: boolean; formerly: string | null };
  const stick = async () => ((await (await page.request.get('/api/places')).json()) as Seen[]).find((p) => p.name === 'stick')!;
  const project = async () =>
    ((await (await page.request.get('/api/projects')).json()) as { place: string; key: string; away: unknown }[]).find(
      (p) => p.place === 'stick',
    )!;
  machine.letter('E', null);
  await expect.poll(async () => (await stick()).present).toBe(false);
  machine.letter('F', e());
  await expect.poll(async () => (await stick()).folder).toBe('F:/');
  expect(await stick()).toMatchObject({ present: true, formerly: 'E:/' });
  await page.goto(`/p/${(await project()).key}/overview`);
  await expect(page.getByText(/every layer is sound|1 of 1 layer|1 layer/i).first()).toBeVisible();
  expect((await project()).away).toBeNull();
});

test('the move is undone: every byte is where it was', async ({ page }) => {
  await page.goto('/journal');
  await page
    .getByRole('button', { name: /^Undo: .*(maps|drawn)/ })
    .first()
    .click();
  const dialog = page.getByRole('dialog');
  const told = page.getByText(/^Undone: .* put back\.$/);
  await expect(told.or(dialog.getByRole('button', { name: 'Undo' })).first()).toBeVisible();
  if (await dialog.isVisible()) await dialog.getByRole('button', { name: 'Undo' }).click();
  await expect(told).toBeVisible();
  expect([existsSync(root('drawn')), existsSync(root('maps', 'kelp.owc.json')), adrift()]).toEqual([false, true, []]);
});
