import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { StandIns } from '../../engine/test/stand-ins.js';
import { useFolder } from '../test/use-example.js';

/*
 * Services and data by its address in the terminal, against the stand-ins; what comes is judged by GDAL and by a plain walk of
 * the disk.
 */
const { at, rootmap: run } = useFolder();
const servers = new StandIns();
let places: string;
const study = (...parts: string[]): string => at('demo/places/desk/gis/ellisande_seagrass', ...parts);
const rootmap = (...args: string[]) => run(...args, ...places.split(';').flatMap((p) => ['--place', p]));

beforeAll(async () => {
  await servers.start({ soundings: 5000 });
  process.env['ROOTMAP_HOSTS'] = servers.host;
  places = execFileSync(process.execPath, ['demo/dist/main.js', at('demo')], { encoding: 'utf8' }).trim();
});
afterAll(() => {
  delete process.env['ROOTMAP_HOSTS'];
  servers.stop();
});
beforeEach(() => servers.switch({ slow: false, failing: false, moved: false, newEdition: false }));
const features = (...args: string[]): number =>
  Number(/Feature Count: (\d+)/.exec(execFileSync('ogrinfo', ['-ro', '-so', ...args], { encoding: 'utf8' }))![1]);

test('nothing is asked by reading: a service is not asked until it is tried', () => {
  const { status, json } = rootmap('services', 'list', study(), '--json');
  expect(status).toBe(0);
  expect(json().services).toMatchObject([{ name: null, url: 'https://charts.harbour.example/wms', state: 'not-asked' }]);
  expect(rootmap('layers', study(), '--json').json().totals).toMatchObject({ 'not-asked': 1 });
});

test('linked by part of an address, tried, searched', () => {
  expect(
    rootmap('services', 'add', study(), `${servers.address}/library/collections/harbour_lights`, '--name', 'library', '--json').json(),
  ).toMatchObject({
    kind: 'features',
    url: `${servers.address}/library`,
    items: 9,
  });
  expect(rootmap('services', 'add', study(), `${servers.address}/charts/wms`, '--name', 'charts').status).toBe(0);
  expect(rootmap('services', 'add', study(), `${servers.address}/charts/wms`, '--name', 'again').err).toContain(
    'linked already, as charts',
  );
  expect(
    rootmap('services', 'items', study(), 'library', '--find', 'seagrass anchor', '--json')
      .json()
      .items.map((i: { name: string }) => i.name),
  ).toContain('protected_beds');
  expect(rootmap('services', 'try', study()).out).toMatch(/answers\s+features\s+library/);
});

test('a password is read from a file, and stands nowhere afterwards', () => {
  expect(rootmap('services', 'add', study(), `${servers.address}/members`).err).toMatch(/wants to know who asks/);
  expect(rootmap('services', 'add', study(), `${servers.address}/members`, '--user', 'guest').err).toMatch(/no terminal to ask in/);
  writeFileSync(at('wrong'), 'no\n');
  expect(rootmap('services', 'add', study(), `${servers.address}/members`, '--user', 'guest', '--password-file', at('wrong')).err).toMatch(
    /does not accept/,
  );
  writeFileSync(at('right'), 'tide table\n');
  expect(
    rootmap(
      'services',
      'add',
      study(),
      `${servers.address}/members`,
      '--name',
      'wardens',
      '--user',
      'guest',
      '--password-file',
      at('right'),
    ).status,
  ).toBe(0);
  // Known from now on.
  expect(rootmap('services', 'items', study(), 'wardens').out).toContain('nesting_sites');
  const holding: string[] = [];
  for (const name of readdirSync(at(), { recursive: true, encoding: 'utf8' })) {
    const path = join(at(), name);
    if (!statSync(path).isFile() || name === 'right') continue;
    const bytes = readFileSync(path).toString('latin1');
    if (bytes.includes('tide table') || bytes.includes(Buffer.from('guest:tide table').toString('base64'))) holding.push(name);
  }
  expect(holding).toEqual([]);
});

test('copied in pages, every record as GDAL reads it from the same server; the origin tells from where', () => {
  const target = study('geodatabases/ellisande.gpkg');
  const { status, json } = rootmap('services', 'copy', study(), 'library', 'soundings', '--into', target, '--json');
  expect([status, json()]).toMatchObject([0, { told: 5000, came: 5000, written: 5000, equal: true, table: 'soundings' }]);
  expect(features(target, 'soundings')).toBe(5000);
  const dump = (source: string, ...of: string[]): string[] =>
    execFileSync(
      'ogr2ogr',
      ['-f', 'CSV', '/vsistdout/', source, ...of, '-lco', 'GEOMETRY=AS_XY', '-select', 'sounding,depth_m,fixed_on', '-t_srs', 'OGC:CRS84'],
      { encoding: 'utf8', maxBuffer: 1 << 26 },
    )
      .trim()
      .split('\n')
      .slice(1)
      .map((line) => {
        // GDAL takes texts that are dates for dates, and writes them its own way.
        const [x, y, ...rest] = line.replace(/(\d{4})\/(\d\d)\/(\d\d)/, '$1-$2-$3').split(',');
        return [Number(x).toFixed(7), Number(y).toFixed(7), ...rest].join(',');
      })
      .sort();
  const wanted = dump(`OAPIF:${servers.address}/library`, 'soundings', '-oo', 'PAGE_SIZE=1000');
  expect(wanted).toHaveLength(5000);
  expect(dump(target, 'soundings')).toEqual(wanted);
  expect(readFileSync(study('geodatabases/datapackage.json'), 'utf8')).toContain(`${servers.address}/library/collections/soundings/items`);
  const part = rootmap(
    'services',
    'copy',
    study(),
    'library',
    'soundings',
    '--into',
    target,
    '--table',
    'part',
    '--box=-39.2,43.98,-39.18,44',
    '--json',
  ).json();
  expect(part.came).toBeGreaterThan(10);
  expect(part.came).toBeLessThan(5000);
  expect(rootmap('services', 'copy', study(), 'charts', 'bay', '--into', target).err).toMatch(/is a picture/);
});

test('a server that fails is told, with when it answered last, and fails nothing else', async () => {
  await servers.switch({ failing: true });
  const { status, json } = rootmap('services', 'try', study(), 'charts', '--json');
  expect(status).toBe(1);
  expect(json().services[0]).toMatchObject({
    state: 'no-answer',
    lastAnswer: expect.stringMatching(/Z$/),
    why: expect.stringContaining('503'),
  });
  expect(rootmap('layers', study(), '--json').json().layers.length).toBeGreaterThan(30);
  await servers.switch({ failing: false });
  expect(rootmap('services', 'try', study(), 'charts').status).toBe(0);
});

test('fetched by its address; the second edition is found, compared, taken over, and stands for GDAL', async () => {
  const folder = study('received/beacons');
  const address = `${servers.address}/downloads/islet_beacons.zip`;
  expect(rootmap('fetch', address, '--into', folder, '--publisher', 'Office').status).toBe(0);
  const shp = join(folder, 'islet_beacons.shp');
  expect(features('-al', shp)).toBe(50);
  const states = (): Record<string, string> =>
    Object.fromEntries(
      (rootmap('editions', study(), '--json').json().editions as { address: string; state: string }[]).map((e) => [e.address, e.state]),
    );
  expect(states()).toMatchObject({ [address]: 'unchanged', [`${servers.address}/library/collections/soundings/items`]: 'unchanged' });
  await servers.switch({ newEdition: true });
  expect(states()).toMatchObject({ [address]: 'changed' });
  expect(rootmap('editions', study(), '--take', shp).out).toMatch(/50 records, now 64[\s\S]*nothing is changed yet/);
  expect(features('-al', shp)).toBe(50);
  expect(rootmap('editions', study(), '--take', shp, '--apply').out).toMatch(/taken over/);
  expect(features('-al', shp)).toBe(64);
  expect(statSync(shp).mode & 0o222).toBe(0); // among originals
  expect(states()).toMatchObject({ [address]: 'unchanged' });
  const record = JSON.parse(readFileSync(join(folder, 'datapackage.json'), 'utf8'));
  for (const { path, hash } of record.resources[0]['rootmap:files'] as { path: string; hash: string }[])
    expect(hash).toBe(`sha256:${execFileSync('sha256sum', [join(folder, path)], { encoding: 'utf8' }).split(' ')[0]}`);
  expect(existsSync(join(folder, 'islet_beacons.cpg'))).toBe(true);
});

test('a copied collection that has changed takes the place of its table: looks stay, other tables are as they were', async () => {
  const target = study('geodatabases/ellisande.gpkg');
  const sql = (query: string): string => execFileSync('sqlite3', [target, query], { encoding: 'utf8' }).trim();
  const copy = (...more: string[]) => rootmap('services', 'copy', study(), 'library', 'protected_beds', '--into', target, ...more);
  expect(copy('--table', 'beds_now').status).toBe(0);
  expect(features(target, 'beds_now')).toBe(28);
  sql(`CREATE TABLE IF NOT EXISTS layer_styles (id INTEGER PRIMARY KEY, f_table_name TEXT, styleName TEXT);
    INSERT INTO layer_styles (f_table_name, styleName) VALUES ('beds_now', 'as drawn')`);
  const others = sql("SELECT count(*) || ' ' || total(depth_m) FROM soundings");
  await servers.switch({ newEdition: true });
  const beds = `${servers.address}/library/collections/protected_beds/items`;
  const looks = rootmap('editions', study(), '--json').json().editions as { address: string; state: string; why: string }[];
  expect(looks.find((l) => l.address === beds)).toMatchObject({ state: 'changed', why: 'It has 35 records now, and had 28.' });
  // The part that was copied is held against the same part of the server.
  expect(looks.filter((l) => l.address.includes('/soundings/')).map((l) => l.state)).toEqual(['unchanged', 'unchanged']);
  expect(copy('--table', 'beds_now').err).toMatch(/a table of that name is there already/);
  expect(copy('--table', 'no_such', '--replace').err).toMatch(/there is no table of that name whose place it could take/);
  expect(copy('--table', 'beds_now', '--replace', '--json').json()).toMatchObject({ written: 35, equal: true, table: 'beds_now' });
  expect(features(target, 'beds_now')).toBe(35);
  expect(sql("SELECT styleName FROM layer_styles WHERE f_table_name = 'beds_now'")).toBe('as drawn');
  expect(sql("SELECT count(*) || ' ' || total(depth_m) FROM soundings")).toBe(others);
  expect(sql('PRAGMA integrity_check')).toBe('ok');
  expect(sql("SELECT count(*) FROM gpkg_contents WHERE table_name = 'beds_now'")).toBe('1');
});

test('what stayed out of a bundle is fetched at arrival, held against its checksums, and stands for GDAL', async () => {
  const folder = study('received/beacons');
  const address = `${servers.address}/downloads/islet_beacons.zip`;
  const kept = readFileSync(join(folder, 'islet_beacons.dbf'));
  const zip = at('light.zip');
  expect(rootmap('pack', study(), '--leave-fetchable', '--arrange', 'delivery', '--out', zip).status).toBe(1); // layers of the share
  const said = rootmap('receive', zip, '--into', at('light'));
  expect(said.out).toMatch(/\d+ datasets? stayed out and can be fetched: rootmap editions FOLDER --missing --apply/);
  const [place] = rootmap('editions', at('light'), '--missing', '--json')
    .json()
    .missing.filter((m: { address: string }) => m.address === address);
  expect(place).toMatchObject({ state: 'left', path: expect.stringMatching(/islet_beacons\.shp$/) }); // the first edition is offered again
  expect(existsSync(join(at('light'), place.path))).toBe(false);
  await servers.switch({ newEdition: true });
  rootmap('editions', at('light'), '--missing', '--apply');
  await servers.switch({ newEdition: false });
  expect(features('-al', join(at('light'), place.path))).toBe(64);
  expect(readFileSync(join(at('light'), place.path.replace('.shp', '.dbf'))).equals(kept)).toBe(true);
  const again = rootmap('editions', at('light'), '--missing', '--json').json().missing as { address: string }[];
  expect(again.filter((m) => m.address === address)).toEqual([]);
});

test('addresses that are refused, in a sentence', () => {
  const err = (address: string): string => rootmap('services', 'add', study(), address).err;
  expect(err('http://10.1.2.3/wms')).toMatch(/network of your own/);
  expect(err('http://169.254.169.254/latest')).toMatch(/network of your own/);
  expect(err('ftp://maps.example')).toMatch(/no address of a server/);
  expect(err(`${servers.secure}/library`)).toMatch(/network of your own/);
  process.env['ROOTMAP_HOSTS'] = `${servers.host},${new URL(servers.secure).host}`;
  expect(err(`${servers.secure}/library`)).toMatch(/certificate of .* is not valid: the server signed it itself/);
  process.env['ROOTMAP_HOSTS'] = servers.host;
  expect(rootmap('fetch', `${servers.address}/downloads/none.zip`, '--into', study('received/none')).err).toMatch(
    /nothing at this address/,
  );
  expect(existsSync(study('received/none'))).toBe(false);
});
