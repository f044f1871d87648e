import { mkdirSync, symlinkSync, writeFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';
import { TestServer } from '../test/start-server.js';

const server = new TestServer();
const SECRET = 'the secret outside';

beforeAll(async () => {
  const place = join(server.folder, 'place');
  mkdirSync(join(place, 'sub'), { recursive: true });
  mkdirSync(join(server.folder, 'outside'));
  writeFileSync(join(server.folder, 'outside', 'secret.owc.json'), SECRET);
  writeFileSync(join(server.folder, 'outside', 'secret.txt'), SECRET);
  symlinkSync(join(server.folder, 'outside'), join(place, 'way_out'));
  symlinkSync(join(place, 'way_out'), join(place, 'sub', 'two_steps'));
  symlinkSync('loop_b', join(place, 'loop_a'));
  symlinkSync('loop_a', join(place, 'loop_b'));
  await server.start({ ROOTMAP_PLACES: `desk=${place},D:` });
});
afterAll(() => server.stop());

/** No answer may show the secret, an inner path, or a stack. */
function refused(answer: { status: number; body: unknown; headers: Record<string, unknown> }): void {
  expect(answer.status).toBeGreaterThanOrEqual(400);
  expect(answer.status).toBeLessThan(500);
  const text = JSON.stringify(answer.body);
  expect(text).not.toContain(SECRET);
  expect(text).not.toMatch(/node_modules|at \w+ \(|root:x:/);
  if (typeof answer.body === 'object') {
    expect(answer.headers['content-type']).toMatch(/application\/problem\+json/);
    expect(answer.body).toMatchObject({ status: answer.status, detail: expect.stringMatching(/[.]$/) });
  }
}

const up = '../outside';
const paths = [
  up,
  `sub/../../outside`,
  `./${up}`,
  `sub/./../../outside`,
  '..',
  '../',
  '../../etc',
  '../../../../../../etc/passwd',
  'sub/..',
  '.',
  '..%2foutside',
  '%2e%2e/outside',
  '%2e%2e%2foutside',
  '%252e%252e%252foutside',
  '..%252foutside',
  '%25252e%25252e/outside',
  '..%c0%afoutside/..',
  '%c0%ae%c0%ae/../outside',
  '..\\outside',
  'sub\\..\\..\\outside',
  '..%5coutside',
  '\\\\server\\share',
  '//server/share',
  '\\\\?\\C:\\x',
  '\\\\.\\C:',
  '/etc/passwd',
  '/etc',
  '/',
  '//etc',
  '~/x',
  '~root/x',
  'C:/Windows',
  'C:',
  'c:\\x',
  'D:/x',
  'file:///etc/passwd',
  'http://x.example/y',
  'sub//x',
  '//',
  'sub/\u0000/x',
  'a\u0000.shp',
  '%00',
  'sub/%00',
  'a\nb',
  'a\rb',
  'a\tb',
  '\u007f',
  'CON',
  'con',
  'nul.txt',
  'sub/AUX',
  'COM1',
  'lpt9.shp',
  'COM¹',
  'CONIN$',
  'aux .txt',
  '．．/outside',
  '．．／outside',
  '․․/outside',
  'sub/‥/outside',
  'way_out',
  'way_out/secret.txt',
  'sub/two_steps',
  'sub/two_steps/secret.txt',
  'loop_a',
  'loop_a/x',
  'x'.repeat(5000),
  `${'a/'.repeat(2100)}b`,
];

describe('paths, in every encoding', () => {
  test('there are more than sixty', () => expect(paths.length).toBeGreaterThanOrEqual(60));
  test.each(paths.map((p) => [JSON.stringify(p).slice(0, 60), p]))('%s, listed', async (_, path) =>
    refused(await server.get(`/api/folder?place=desk&path=${encodeURIComponent(path)}`)),
  );
  test.each(paths.map((p) => [JSON.stringify(p).slice(0, 60), p]))('%s, opened', async (_, path) =>
    refused(await server.post('/api/projects', { place: 'desk', path })),
  );
  test.each(paths.filter((p) => p !== '').map((p) => [JSON.stringify(p).slice(0, 60), p]))('%s, received into', async (_, path) =>
    refused(await server.post('/api/receive', { bundle: { place: 'desk', path }, into: { place: 'desk', path } })),
  );
  test('the raw request line too', async () => {
    for (const path of [
      '/../../etc/passwd',
      '/assets/../../../etc/passwd',
      '/assets/%2e%2e/%2e%2e/package.json',
      '/assets/..%2f..%2fpackage.json',
      '/%2e%2e/%2e%2e/etc/passwd',
      '/assets/%00',
      '/api/%2e%2e/places',
    ]) {
      const answer = await server.get(path);
      expect(JSON.stringify(answer.body)).not.toMatch(/root:x:|"workspaces"|secret/);
    }
  });
  test('what is honest is answered', async () => {
    expect((await server.get('/api/folder?place=desk&path=sub')).status).toBe(200);
    expect((await server.get('/api/folder?place=desk&path=')).body).toMatchObject({
      folders: expect.arrayContaining([{ name: 'sub', isProject: false }]),
    });
  });
});

describe('who asks', () => {
  test.each([
    ['another host', { host: 'evil.example' }],
    ['another host with the port', { host: 'evil.example:4870' }],
    ['a name that begins like ours', { host: 'localhost.evil.example' }],
    ['another origin', { origin: 'http://evil.example' }],
    ['the null origin', { origin: 'null' }],
    ['our name on another port', { origin: 'http://127.0.0.1:1' }],
  ])('%s is refused', async (_, headers) =>
    refused(await server.ask('GET', '/api/places', { headers: headers as unknown as Record<string, string> })),
  );
  test('a form of another page is refused', async () =>
    refused(await server.ask('POST', '/api/places', { body: {}, headers: { 'sec-fetch-site': 'cross-site' } })));
  test('our own page is answered', async () =>
    expect((await server.ask('GET', '/api/places', { headers: { origin: `http://127.0.0.1:${server.port}` } })).status).toBe(200));
});

describe('what is asked', () => {
  test.each<[string, string, string, string | undefined]>([
    ['an unknown member', 'POST', '/api/projects', '{"place":"desk","path":"","more":1}'],
    ['a missing member', 'POST', '/api/projects', '{"place":"desk"}'],
    ['a wrong type', 'POST', '/api/projects', '{"place":["desk"],"path":{}}'],
    ['no JSON', 'POST', '/api/projects', '{"place":'],
    ['a prototype', 'POST', '/api/projects', '{"__proto__":{"x":1},"place":"desk","path":".."}'],
    ['an unknown place', 'GET', '/api/folder?place=nowhere&path=', undefined],
    ['a place that is a member of all objects', 'GET', '/api/folder?place=constructor&path=', undefined],
    ['an unknown project', 'GET', '/api/projects/ffffffffffff', undefined],
    ['a project that is a path', 'GET', '/api/projects/..%2f..%2fetc', undefined],
    ['an unknown change', 'POST', '/api/journal/none/undo', '{}'],
    ['an unknown job', 'POST', '/api/jobs/none/cancel', '{}'],
    ['the demo, which this is not', 'POST', '/api/demo/places/desk', '{"present":false}'],
    ['places that are configured', 'POST', '/api/places', '{"name":"x","folder":"/etc"}'],
    ['an address that is not there', 'GET', '/api/nothing', undefined],
    ['a body beyond all measure', 'POST', '/api/projects', `{"place":"desk","path":"${'x'.repeat(9 * 1024 * 1024)}"}`],
    ['nesting beyond all measure', 'POST', '/api/projects', `${'['.repeat(100_000)}`],
  ])('%s', async (_, method, path, raw) => refused(await server.ask(method, path, raw === undefined ? {} : { raw })));
});

test('beyond loopback the server starts only with an access key', async () => {
  const open = new TestServer();
  await expect(open.start({ ROOTMAP_HOST: '0.0.0.0' })).rejects.toThrow(/ROOTMAP_KEY/);
  await open.stop();
});

test('headers keep other pages and scripts out', async () => {
  const { headers } = await server.get('/api/places');
  expect(headers['content-security-policy']).toContain("default-src 'none'");
  expect(headers['x-content-type-options']).toBe('nosniff');
  expect(headers['x-powered-by']).toBeUndefined();
});
