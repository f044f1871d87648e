import { mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { ProblemError } from '@rootmap/core';
import { TestHttp, text } from '../../test/hostile-server.js';
import { isPublicAddress } from './public-address.js';
import { freshForMs, retryAfterMs } from './retry-after.js';
import { SecretBox } from './secret-box.js';
import { wireProblem } from './wire-problem.js';
import { Wire } from './wire.js';

const server = new TestHttp();
const other = new TestHttp();
let allowed = new Set<string>();
const wire = new Wire(() => allowed);
beforeAll(async () => {
  await Promise.all([server.start(), other.start()]);
  allowed = new Set([server.host]);
});
afterAll(() => Promise.all([wire.close(), server.stop(), other.stop()]));

/** What a request comes to: its text, or what is the matter and how it is told. */
async function outcome(work: Promise<{ body: Buffer }>): Promise<string> {
  try {
    return (await work).body.toString('utf8');
  } catch (error) {
    if (!(error instanceof ProblemError)) throw error;
    const { problem } = error;
    return problem.code === 'no-service' ? `${problem.trouble} ${problem.detail ?? ''}`.trim() : problem.code;
  }
}

// IANA's registers of special-purpose addresses (RFC 6890): none of these is shared by the whole network.
test.each([
  '127.0.0.1',
  '10.1.2.3',
  '172.16.0.1',
  '172.31.255.255',
  '192.168.1.1',
  '169.254.169.254',
  '100.64.0.1',
  '0.0.0.0',
  '224.0.0.1',
  '255.255.255.255',
  '::1',
  '::',
  'fe80::1',
  'fc00::1',
  'fd12::1',
  'ff02::1',
  '::ffff:127.0.0.1',
  '::ffff:10.0.0.1',
  '2002:7f00:1::',
  '64:ff9b::7f00:1',
  'nonsense',
])('%s is not asked unless it is allowed', (address) => expect(isPublicAddress(address)).toBe(false));
test.each(['8.8.8.8', '172.32.0.1', '2606:4700::1111', '::ffff:8.8.8.8'])('%s is', (address) =>
  expect(isPublicAddress(address)).toBe(true),
);

describe('where it goes', () => {
  test('an allowed host of one’s own network is asked, another one is not, whatever its name', async () => {
    server.answer({ '*': text('yes') });
    other.answer({ '*': text('yes') });
    expect(await outcome(wire.ask(server.at('/')))).toBe('yes');
    expect(await outcome(wire.ask(other.at('/')))).toBe('private 127.0.0.1');
    expect(await outcome(wire.ask(`http://localhost:${other.port}/`))).toMatch(/^private (127\.0\.0\.1|::1)$/);
    for (const host of ['2130706433', '0x7f000001', '017700000001', '127.1', '[::ffff:127.0.0.1]', '[::1]', '0'])
      expect(await outcome(wire.ask(`http://${host}:${other.port}/`))).toMatch(/^private/);
    expect(other.asked).toEqual([]);
  });
  test('other schemes', async () => {
    for (const url of ['file:///etc/passwd', 'ftp://x/', 'data:text/plain,x', 'gopher://x/'])
      expect(await outcome(wire.ask(url))).toBe('broken only http and https are asked');
  });
  test('redirects: within the host, round in a ring, to another host, to another scheme', async () => {
    const to = (location: string, status = 302) => text('', { location }, status);
    server.answer({
      '/a': to('/b'),
      '/b': to('/c', 301),
      '/c': text('there'),
      '/ring': to('/ring2'),
      '/ring2': to('/ring'),
      '/moved': to(other.at('/new'), 301),
      '/for-now': to(other.at('/new'), 307),
      '/file': to('file:///etc/passwd'),
      '/meta': to('http://169.254.169.254/latest/'),
      '/bad': to('http://['),
    });
    expect(await outcome(wire.ask(server.at('/a')))).toBe('there');
    expect(await outcome(wire.ask(server.at('/ring')))).toBe('ring');
    expect(await outcome(wire.ask(server.at('/moved')))).toBe(`moved ${other.at('/new')}`);
    expect(await outcome(wire.ask(server.at('/for-now')))).toBe(`moved ${other.at('/new')}`);
    expect(await outcome(wire.ask(server.at('/file')))).toMatch(/^broken/);
    expect(await outcome(wire.ask(server.at('/meta')))).toMatch(/^moved/);
    expect(await outcome(wire.ask(server.at('/bad')))).toMatch(/^broken/);
    expect(other.asked).toEqual([]);
  });
  test('what is secret goes to the server that was linked and to no other, also where another one is allowed', async () => {
    const signIn = { kind: 'password', name: 'me', password: 'pässword' } as const;
    server.answer({ '/a': text('', { location: other.at('/b') }, 302), '/b': text('ok') });
    other.answer({ '*': text('other') });
    allowed = new Set([server.host, other.host]);
    expect(await outcome(wire.ask(server.at('/a'), { signIn }))).toBe('other');
    allowed = new Set([server.host]);
    // RFC 7617, 2.1: the pair in UTF-8, base64.
    expect(server.asked[0]!.headers.authorization).toBe(`Basic ${Buffer.from('me:pässword').toString('base64')}`);
    expect(other.asked[0]!.headers.authorization).toBeUndefined();
    await outcome(wire.ask(server.at('/b?x=1'), { signIn: { kind: 'key', as: 'query', name: 'api_key', key: 'k/1' } }));
    await outcome(wire.ask(server.at('/b'), { signIn: { kind: 'key', as: 'header', name: 'X-API-Key', key: 'k/1' } }));
    expect(server.asked[1]!.url).toBe('/b?x=1&api_key=k%2F1');
    expect(server.asked[2]!.headers['x-api-key']).toBe('k/1');
    expect(await outcome(wire.ask('http://maps.example.com/', { signIn }))).toBe('plain-secret');
  });
});

test('a key that a server says back, in links or on its way to another host, is in nothing that is kept', async () => {
  const signIn = { kind: 'key', as: 'query', name: 'ticket', key: 'kelp/42 x' } as const;
  const echo = (joint: string) =>
    `{"links":[{"href":"${server.at('/b')}?ticket=kelp%2F42%20x${joint}offset=5"},{"href":"/c?ticket=kelp%2F42+x"}]}`;
  server.answer({
    '/amp': text(echo('&'), { 'content-type': 'application/json' }),
    '/escaped': text(echo('\\u0026'), { 'content-type': 'application/json' }),
    '/xml': text(echo('&amp;'), { 'content-type': 'text/xml' }),
    '/moved': (request, response) => response.writeHead(301, { location: `http://other.example${request.url}&token=own` }).end(),
  });
  for (const path of ['/amp', '/escaped', '/xml']) {
    const got = await outcome(wire.ask(server.at(path), { signIn }));
    expect(got).toContain('?offset=5');
    expect(got).not.toMatch(/kelp/);
  }
  const moved = await outcome(wire.ask(server.at('/moved'), { signIn }));
  expect(moved).toMatch(/^moved http:\/\/other\.example\/moved/);
  expect(moved).not.toMatch(/kelp|own/);
});

describe('how it answers', () => {
  test.each([
    [401, {}, 'sign-in'],
    [403, {}, 'sign-in'],
    [404, {}, 'gone'],
    [410, {}, 'gone'],
    [500, {}, 'error 500'],
    [503, { 'retry-after': '7' }, 'error 503'],
    [429, {}, 'error 429'],
  ])('%d', async (status, headers, said) => {
    server.answer({ '*': text('no', headers, status) });
    expect(await outcome(wire.ask(server.at('/')))).toBe(said);
  });
  test('a wrong password is another matter than none', async () => {
    server.answer({ '*': text('no', {}, 401) });
    expect(await outcome(wire.ask(server.at('/'), { signIn: { kind: 'password', name: 'a', password: 'b' } }))).toBe('wrong-sign-in');
  });
  test('nobody there, no such name, no answer in time, cut off, too much, no HTTP', async () => {
    allowed = new Set([server.host, '127.0.0.1:1', 'no-such-name.invalid']);
    expect(await outcome(wire.ask('http://127.0.0.1:1/'))).toBe('refused');
    expect(await outcome(wire.ask(`http://${'m'.repeat(300)}/`))).toBe('unknown-host');
    // Where no name server answers at all, it is told by the time that it took.
    expect(await outcome(wire.ask('http://no-such-name.invalid/'))).toMatch(/^(unknown-host|slow)/);
    server.answer({
      '/never': () => undefined,
      '/drip': (_, response) => {
        const timer = setInterval(() => response.write('x'), 50);
        response.on('close', () => clearInterval(timer));
      },
      '/cut': (_, response) => {
        response.writeHead(200, { 'content-length': '100' }).write('x');
        setTimeout(() => response.destroy(), 50);
      },
      '/much': (_, response) => {
        response.on('error', () => undefined);
        const piece = Buffer.alloc(1 << 20);
        const more = (): void => void (response.write(piece) ? setImmediate(more) : response.once('drain', more));
        more();
      },
      '/odd': (_, response) => void response.socket!.end('hello\r\n\r\n'),
    });
    const before = performance.now();
    expect(await outcome(wire.ask(server.at('/never'), { limitMs: 300 }))).toMatch(/^slow/);
    expect(await outcome(wire.ask(server.at('/drip'), { limitMs: 300 }))).toMatch(/^slow/);
    expect(performance.now() - before).toBeLessThan(3000);
    expect(await outcome(wire.ask(server.at('/cut')))).toMatch(/^broke-off/);
    expect(await outcome(wire.ask(server.at('/much'), { mostBytes: 3 << 20 }))).toBe('too-large 3 MB');
    expect(await outcome(wire.ask(server.at('/odd')))).toMatch(/^broken/);
    allowed = new Set([server.host]);
  });
  test('who does not wait any more is told so', async () => {
    server.answer({ '/never': () => undefined });
    const abort = new AbortController();
    setTimeout(() => abort.abort(), 50);
    await expect(wire.ask(server.at('/never'), { signal: abort.signal })).rejects.toThrow(/abort/i);
  });
});

// RFC 9110, 10.2.3: seconds or a date. The server's own clock is what its date is held against.
test('when to ask again, also where the other clock is off', () => {
  const now = Date.parse('2026-11-30T12:00:00Z');
  expect(retryAfterMs('120', undefined, now)).toBe(120_000);
  expect(retryAfterMs('Mon, 30 Nov 2026 12:00:30 GMT', undefined, now)).toBe(30_000);
  expect(retryAfterMs('Sun, 30 Nov 2036 12:00:30 GMT', 'Sun, 30 Nov 2036 12:00:00 GMT', now)).toBe(30_000);
  expect(retryAfterMs('Fri, 31 Dec 1999 23:59:59 GMT', undefined, now)).toBe(0);
  expect(retryAfterMs('9999999', undefined, now)).toBe(600_000);
  expect([retryAfterMs(undefined, undefined, now), retryAfterMs('soon', undefined, now)]).toEqual([null, null]);
});
// RFC 9111, 4.2.1 and 5.1: max-age, of which Age has passed already; 5.2.2.4 and 5.2.2.5: no-cache, no-store.
test('how long an answer is fresh', () => {
  expect(freshForMs('public, max-age=60', '20', 1)).toBe(40_000);
  expect(freshForMs('max-age=60', '90', 1)).toBe(0);
  expect(freshForMs('max-age="60"', 'x', 1)).toBe(60_000);
  expect(freshForMs(undefined, undefined, 5)).toBe(5);
  expect([
    freshForMs('no-store', undefined, 5),
    freshForMs('private, max-age=60', undefined, 5),
    freshForMs('no-cache', undefined, 5),
  ]).toEqual([null, null, 0]);
});

describe('what is sealed', () => {
  const folder = mkdtempSync(join(tmpdir(), 'rm-box-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  test('opens again with its key only, is different each time, and its key is its owner’s', async () => {
    const box = new SecretBox(folder);
    const sealed = await box.seal('tide table ✓');
    expect(sealed).not.toBe(await box.seal('tide table ✓'));
    expect(Buffer.from(sealed, 'base64').toString('latin1')).not.toContain('tide');
    expect(await new SecretBox(folder).open(sealed)).toBe('tide table ✓');
    const bytes = Buffer.from(sealed, 'base64');
    for (let i = 0; i < bytes.length; i++) {
      const changed = Buffer.from(bytes);
      changed[i]! ^= 1;
      expect(await box.open(changed.toString('base64'))).toBeNull();
    }
    expect(await box.open('')).toBeNull();
    const key = join(folder, 'services.key');
    if (process.platform !== 'win32') expect(statSync(key).mode & 0o777).toBe(0o600);
    expect(readFileSync(key)).toHaveLength(32);
    writeFileSync(key, Buffer.alloc(32, 1));
    expect(await new SecretBox(folder).open(sealed)).toBeNull();
  });
});

test('a connection that a system refuses in its own words is a server that is not reached', () => {
  // libuv's catch-all for what it has no name for (docs.libuv.org, errors: UV_UNKNOWN).
  const unknown = Object.assign(new Error('connect UNKNOWN 127.0.0.1:9'), { code: 'UNKNOWN', syscall: 'connect' });
  const behind = new Error('fetch failed', { cause: unknown });
  for (const error of [unknown, behind]) expect(wireProblem(error, 'maps.example', 0).problem).toMatchObject({ trouble: 'refused' });
  const other = Object.assign(new Error('read UNKNOWN'), { code: 'UNKNOWN', syscall: 'read' });
  expect(() => wireProblem(other, 'maps.example', 0)).toThrow('read UNKNOWN');
});
