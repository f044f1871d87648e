import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import type { OnProgress } from '@rootmap/core';
import { json, TestHttp, text, type Answering } from '../../test/hostile-server.js';
import { PNG, said } from '../../test/said.js';
import { Wire } from '../wire/wire.js';
import { copyFeatures } from './copy-features.js';
import { fetchFile, nameOf } from './fetch-file.js';
import { findService } from './find-service.js';
import { lookForEdition } from './look-for-edition.js';

const server = new TestHttp();
let wire: Wire;
let folder = '';
const quiet: OnProgress = () => undefined;
beforeAll(async () => {
  await server.start();
  wire = new Wire(() => new Set([server.host]));
});
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'rm-online-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
afterAll(() => Promise.all([wire.close(), server.stop()]));

const landing = json({ title: 'T', links: [{ rel: 'data', href: '/api/collections' }] });
const collections = json({ collections: [{ id: 'a', title: 'A' }] });

describe('what stands at an address', () => {
  const wmsText = `<WMS_Capabilities version="1.3.0"><Service><Title>W</Title></Service><Capability><Layer><Name>a</Name><Title>A</Title></Layer></Capability></WMS_Capabilities>`;
  test('each kind is found out, from a whole address or a part', async () => {
    server.answer({
      '/wms': text(wmsText),
      '/api': landing,
      '/api/collections': collections,
      '/t/0/0/0.png': text(PNG),
      '/deep/6/32/32.png': text(PNG),
    });
    const kind = async (path: string): Promise<string> => (await findService(wire, server.at(path), {})).tree.kind;
    expect(await kind('/wms')).toBe('wms');
    expect(await kind('/wms?service=WMS&request=GetMap&layers=a&bbox=1,2,3,4')).toBe('wms');
    expect(await kind('/api')).toBe('features');
    expect(await kind('/api/collections/a/items?limit=5')).toBe('features');
    expect(await kind('/t/{z}/{x}/{y}.png')).toBe('tiles');
    expect(await kind('/deep/{z}/{x}/{y}.png')).toBe('tiles');
  });
  test('what is none says why', async () => {
    const page = '<!doctype html><title>Hello</title>';
    server.answer({
      '/page': text(page, { 'content-type': 'text/html' }),
      '/list': json([1, 2]),
      '/xml': text('<a'),
      '/nopic/0/0/0.png': text(page),
      '/err': text('', {}, 500),
      '/loop': json({ links: [{ rel: 'data', href: '/nowhere' }] }),
      '/other': json({ links: [{ rel: 'data', href: 'http://169.254.169.254/collections' }] }),
    });
    const of = (path: string): Promise<string> => said(findService(wire, server.at(path), {}));
    expect(await of('/page')).toBe('no-map-server: a web page instead of data');
    expect(await of('/list')).toMatch(/^no-map-server: its answer has no links/);
    expect(await of('/xml')).toMatch(/^no-map-server: no JSON/);
    expect(await of('/nothing')).toBe('gone: ');
    expect(await of('/nopic/{z}/{x}/{y}.png')).toBe('broken: a tile that is no picture');
    expect(await of('/none/{z}/{x}/{y}.png')).toBe('gone: ');
    expect(await of('/err')).toMatch(/^no-map-server: 500/);
    expect(await of('/loop')).toMatch(/^no-map-server/);
    expect(await of('/other')).toMatch(/another server, 169\.254/);
    expect(server.asked.every((a) => !a.url.includes('169'))).toBe(true);
  });
  test('capabilities of 50 MB are not read to their end', async () => {
    const piece = Buffer.alloc(1 << 20, ' ');
    let sent = 0;
    const endless: Answering = (_, response) => {
      response.on('error', () => undefined);
      const more = (): void => {
        if (sent > 200 || response.destroyed) return void response.end();
        sent++;
        if (response.write(piece)) setImmediate(more);
        else response.once('drain', more);
      };
      more();
    };
    server.answer({ '/wms': endless });
    expect(await said(findService(wire, server.at('/wms'), {}))).toBe('too-large: 32 MB');
    expect(sent).toBeLessThan(60);
  });
});

const feature = (id: number) => ({ type: 'Feature', id, geometry: { type: 'Point', coordinates: [id, 1] }, properties: { n: id } });
const order = (over: object = {}) => ({
  layer: server.at('/api/collections/a/items'),
  service: server.at('/api'),
  degrees: null,
  folder: join(folder, 'copy'),
  name: 'a',
  signIn: null,
  ...over,
});
/** Pages of three; `failing` answers one request once. */
const pages = (count: number, failing: number | null = null): Answering => {
  let failed = false;
  return (request, response) => {
    const url = new URL(request.url!, 'http://x');
    const offset = Number(url.searchParams.get('offset') ?? 0);
    if (offset === failing && !failed) {
      failed = true;
      return void response.destroy();
    }
    const links = offset + 3 < count ? [{ rel: 'next', href: `/api/collections/a/items?offset=${offset + 3}` }] : [];
    const features = Array.from({ length: Math.min(3, count - offset) }, (_, i) => feature(offset + i));
    json({ features, links, numberMatched: count })(request, response);
  };
};

describe('copying records', () => {
  const lines = (file: string): number[] =>
    readFileSync(file, 'utf8')
      .split('\n')
      .filter(Boolean)
      .map((l) => (JSON.parse(l) as { id: number }).id);
  test('all pages, each once, and what the server told', async () => {
    server.answer({ '/api/collections/a/items': pages(10), '/api/collections/a': json({ id: 'a', updated: '2026-01-01' }) });
    const copied = await copyFeatures(wire, order(), quiet);
    expect(copied).toMatchObject({ came: 10, told: 10, resumedAt: 0, edition: { records: 10, updated: '2026-01-01' } });
    expect(lines(copied.file)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
  });
  test('a copy that broke off goes on where it was, also after half a page was written', async () => {
    server.answer({ '/api/collections/a/items': pages(10, 6), '/api/collections/a': json({ id: 'a' }) });
    expect(await said(copyFeatures(wire, order(), quiet))).toMatch(/^broke-off/);
    const file = join(folder, 'copy/a.geojsonl');
    writeFileSync(file, '{"half', { flag: 'a' });
    const copied = await copyFeatures(wire, order(), quiet);
    expect(copied.resumedAt).toBe(6);
    expect(lines(copied.file)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9]);
    // Another box is another copy.
    expect((await copyFeatures(wire, order({ degrees: [0, 0, 9, 9] }), quiet)).resumedAt).toBe(0);
    expect(server.asked.some((a) => a.url.includes('bbox=0%2C0%2C9%2C9'))).toBe(true);
  });
  test.each([
    ['pages that repeat', { features: [feature(1)], links: [{ rel: 'next', href: '/api/collections/a/items?x=2' }] }, 'its pages repeat'],
    [
      'a page that leads to itself',
      { features: [feature(1)], links: [{ rel: 'next', href: '/api/collections/a/items?limit=2000' }] },
      'circle',
    ],
    ['pages that lead elsewhere', { features: [feature(1)], links: [{ rel: 'next', href: 'http://10.0.0.1/' }] }, 'another server'],
    ['no features', { type: 'FeatureCollection' }, 'a page without features'],
  ])('%s', async (_, page, why) => {
    server.answer({ '/api/collections/a/items': json(page), '/api/collections/a': json({}) });
    expect(await said(copyFeatures(wire, order(), quiet))).toContain(why);
  });
});

describe('fetching a file', () => {
  const content = randomBytes(300_000);
  const sha = createHash('sha256').update(content).digest('hex');
  let mark = '"one"';
  /** Sends parts; breaks off after so many bytes, as often as told. */
  const file = (breaks: number, ranges = true, piece = 100_000): Answering => {
    let left = breaks;
    return (request, response) => {
      const range = /^bytes=(\d+)-$/.exec(request.headers.range ?? '');
      const isSame = request.headers['if-range'] === undefined || request.headers['if-range'] === mark;
      const from = ranges && range && isSame ? Number(range[1]) : 0;
      response.writeHead(from > 0 ? 206 : 200, {
        etag: mark,
        'content-length': String(content.length - from),
        ...(from > 0 ? { 'content-range': `bytes ${from}-${content.length - 1}/${content.length}` } : {}),
      });
      if (left-- <= 0) return void response.end(content.subarray(from));
      response.write(content.subarray(from, from + piece), () => setTimeout(() => response.destroy(), 100));
    };
  };
  const fetched = (over: object = {}) =>
    fetchFile(wire, { address: server.at('/d/data.zip'), folder: join(folder, 'f'), signIn: null, ...over }, quiet);
  test('a connection that breaks off is taken up again by itself, and nothing is fetched twice', async () => {
    server.answer({ '*': file(2) });
    const { path, name, edition } = await fetched();
    expect([name, edition.sha256, edition.bytes, edition.etag]).toEqual(['data.zip', sha, content.length, '"one"']);
    expect(readFileSync(path).equals(content)).toBe(true);
    expect(server.asked.map((a) => a.headers.range)).toEqual([undefined, 'bytes=100000-', 'bytes=200000-']);
  });
  test('after a stop it goes on; another edition is begun anew', async () => {
    server.answer({ '*': file(99, true, 40_000) });
    expect(await said(fetched())).toMatch(/^broke-off/);
    server.answer({ '*': file(0) });
    const again = await fetched();
    expect([again.resumedAt > 0, again.edition.sha256]).toEqual([true, sha]);
    server.answer({ '*': file(99, true, 40_000) });
    rmSync(join(folder, 'f'), { recursive: true });
    await said(fetched());
    mark = '"two"';
    server.answer({ '*': file(0) });
    const other = await fetched();
    expect([other.resumedAt, other.edition.sha256, other.edition.etag]).toEqual([0, sha, '"two"']);
  });
  test('a file that is called like what is kept on the way', async () => {
    server.answer({ '*': file(0) });
    for (const name of ['part.json', '.part.json', 'part']) {
      const { path } = await fetched({ address: server.at(`/d/${name}`) });
      expect(readFileSync(path).equals(content)).toBe(true);
    }
  });
  test('a server that knows no parts', async () => {
    server.answer({ '*': file(1, false) });
    expect((await fetched()).edition.sha256).toBe(sha);
  });
  test('its name comes from the server, the address or its type, and is none that leads elsewhere', () => {
    const name = (path: string, headers: Record<string, string> = {}): string => nameOf({ url: `https://x.example${path}`, headers });
    expect(name('/a/b.zip?x=1')).toBe('b.zip');
    expect(name('/get', { 'content-disposition': 'attachment; filename="my data.zip"' })).toBe('my data.zip');
    // RFC 6266, 4.3: filename* is preferred.
    expect(name('/get', { 'content-disposition': `attachment; filename="e.zip"; filename*=UTF-8''%C3%A9t%C3%A9.zip` })).toBe('été.zip');
    expect(name('/get', { 'content-disposition': 'attachment; filename="../../etc/passwd"', 'content-type': 'application/zip' })).toBe(
      'get.zip',
    );
    expect(name('/', { 'content-type': 'text/csv; charset=utf-8' })).toBe('download.csv');
    expect(name('/%2e%2e%2fx')).toBe('download');
    expect(name('/con.zip')).toBe('download');
  });
});

describe('whether there is a newer edition', () => {
  const before = { etag: '"a"', modified: 'Sun, 01 Mar 2026 00:00:00 GMT', bytes: 5, sha256: 'x', records: null, updated: null };
  const state = async (headers: Record<string, string>, known: typeof before | null, status = 200): Promise<string> => {
    server.answer({ '*': (_, response) => response.writeHead(status, headers).end() });
    return (await lookForEdition(wire, server.at('/f.zip'), known, null)).state;
  };
  // RFC 9110, 13.1.2 (304), 8.8.3.2 (weak comparison), 8.8.2 (dates).
  test.each([
    ['304', {}, before, 304, 'unchanged'],
    ['the same mark', { etag: '"a"' }, before, 200, 'unchanged'],
    ['the same mark, weakly', { etag: 'W/"a"' }, before, 200, 'unchanged'],
    ['another mark', { etag: '"b"' }, before, 200, 'changed'],
    ['another date', { 'last-modified': 'Mon, 02 Mar 2026 00:00:00 GMT' }, { ...before, etag: null }, 200, 'changed'],
    ['another size', { 'content-length': '6' }, { ...before, etag: null }, 200, 'changed'],
    ['date and size', { 'last-modified': before.modified, 'content-length': '5' }, { ...before, etag: null }, 200, 'unchanged'],
    ['only the size', { 'content-length': '5' }, { ...before, etag: null, modified: null }, 200, 'not-told'],
    ['nothing was noted', { etag: '"a"' }, null, 200, 'not-told'],
    ['it is not there', {}, before, 404, 'gone'],
    ['it fails', {}, before, 500, 'failed'],
  ])('%s', async (_, headers, known, status, told) => expect(await state(headers as never, known as never, status)).toBe(told));
  test('a server that knows no HEAD', async () => {
    server.answer({
      '*': (request, response) =>
        request.method === 'HEAD' ? response.writeHead(405).end() : response.writeHead(200, { etag: '"b"' }).end('xx'),
    });
    expect((await lookForEdition(wire, server.at('/f.zip'), before, null)).state).toBe('changed');
  });
});
