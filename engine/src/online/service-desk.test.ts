import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { wmsLayerAddress } from '@rootmap/core';
import { TestHttp, text } from '../../test/hostile-server.js';
import { PNG, said } from '../../test/said.js';
import { EVERY_PLACE, type AllowedHost } from './hosts-of-places.js';
import type { ServiceRow } from '../store/remembered.js';
import { ServiceDesk, type ServiceMemory } from './service-desk.js';

const server = new TestHttp();
let folder = '';
beforeAll(() => server.start());
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'rm-desk-'));
});
afterEach(() => rmSync(folder, { recursive: true, force: true }));
afterAll(() => server.stop());

class Memory implements ServiceMemory {
  readonly rows = new Map<string, ServiceRow>();
  allowed: AllowedHost[] = [];
  all = () => Promise.resolve([...this.rows.values()]);
  note = (url: string, row: Partial<ServiceRow>) => {
    this.rows.set(url, { ...this.rows.get(url)!, url, ...row });
    return Promise.resolve();
  };
  hosts = () => Promise.resolve(this.allowed);
  allow = (allowed: AllowedHost) => Promise.resolve(void this.allowed.push(allowed));
  disallow = ({ place, host }: AllowedHost) => this.keep((h) => h.place !== place || h.host !== host);
  forgetPlace = (place: string) => this.keep((h) => h.place !== place);
  private keep(isKept: (h: AllowedHost) => boolean): Promise<void> {
    this.allowed = this.allowed.filter(isKept);
    return Promise.resolve();
  }
}

describe('a desk for services', () => {
  const layer = () => wmsLayerAddress(server.at('/wms'), 'a', '1.3.0');
  const request = { crs: 'EPSG:3857', box: [0, 0, 1, 1], width: 10, height: 10 } as const;
  const open = (memory: Memory) => ServiceDesk.open(memory, { dataFolder: folder, hosts: [{ place: 'work', host: server.host }] });

  test('what one place may ask, another may not, and is not shown what was kept for it', async () => {
    const memory = new Memory();
    const desk = await open(memory);
    server.answer({ '/wms': text(PNG, {}) });
    await desk.mapPicture('work', layer(), request);
    expect(await said(desk.mapPicture('home', layer(), request))).toMatch(/^private/);
    await desk.hosts.allow('home', server.host.toUpperCase(), true);
    await desk.mapPicture('home', layer(), request);
    expect(memory.allowed).toEqual([{ place: 'home', host: server.host }]);
    await desk.hosts.forgetPlace('home');
    expect(await said(desk.mapPicture('home', layer(), { ...request, width: 12 }))).toMatch(/^private/);
    await desk.hosts.allow(EVERY_PLACE, server.host, true);
    await desk.mapPicture('elsewhere', layer(), request);
    await desk.close();
  });

  test('what answered and what did not is remembered, with when it did last, and told once', async () => {
    const memory = new Memory();
    const desk = await open(memory);
    let news = 0;
    desk.onNews = () => void news++;
    expect(desk.asked().size).toBe(0);
    server.answer({ '/wms': text(PNG, { 'cache-control': 'no-store' }) });
    await desk.mapPicture('work', layer(), request);
    await desk.mapPicture('work', layer(), request);
    expect([news, desk.asked().get(server.at('/wms'))!.answered]).toEqual([1, true]);
    server.answer({ '/wms': text('', {}, 503) });
    expect(await said(desk.mapPicture('work', layer(), request))).toBe('error: 503');
    const row = desk.asked().get(server.at('/wms'))!;
    expect([news, row.answered, row.okMs !== null, row.why]).toEqual([2, false, true, expect.stringContaining('answers with an error')]);
    await desk.close();
    const again = await open(memory);
    expect(again.asked().get(server.at('/wms'))!.answered).toBe(false);
    await again.close();
  });

  test('a server that failed is left alone for a while, as long as it asks for', async () => {
    const desk = await open(new Memory());
    server.answer({ '/wms': text('', { 'retry-after': '30' }, 503) });
    expect(await said(desk.mapPicture('work', layer(), request))).toBe('error: 503');
    const before = performance.now();
    for (let i = 0; i < 50; i++)
      expect(await said(desk.mapPicture('work', layer(), { ...request, width: 11 + i }))).toMatch(/^waits: in (29|30) s/);
    expect(performance.now() - before).toBeLessThan(1000);
    expect(server.asked).toHaveLength(1);
    // Asked on purpose, it is asked.
    server.answer({ '/wms': text('<WMS_Capabilities version="1.3.0"><Service/><Capability/></WMS_Capabilities>') });
    expect((await desk.ask('work', server.at('/wms'), 'wms')).why).toBeNull();
    server.answer({ '/wms': text(PNG) });
    expect((await desk.mapPicture('work', layer(), request)).equals(PNG)).toBe(true);
    await desk.close();
  });

  test('pictures are kept as long as they are fresh, asked for once at a time, and nothing else passes for one', async () => {
    const desk = await open(new Memory());
    let n = 0;
    server.answer({
      '/wms': (_, response) => {
        n++;
        setTimeout(() => response.writeHead(200, { 'cache-control': 'max-age=60' }).end(PNG), 50);
      },
    });
    await Promise.all(Array.from({ length: 10 }, () => desk.mapPicture('work', layer(), request)));
    await desk.mapPicture('work', layer(), request);
    expect([n, desk.kept.total() > PNG.length]).toEqual([1, true]);
    server.answer({
      '/wms': text(
        '<ServiceExceptionReport><ServiceException code="LayerNotDefined">No <b>such</b> layer</ServiceException></ServiceExceptionReport>',
      ),
    });
    expect(await said(desk.mapPicture('work', layer(), { ...request, width: 99 }))).toBe('broken: it says "No"');
    server.answer({ '/wms': text(Buffer.alloc(9 << 20, 1)) });
    expect(await said(desk.mapPicture('work', layer(), { ...request, width: 98 }))).toBe('too-large: 8 MB');
    await desk.close();
  });

  test('a tile that is not there is none; a password stands in no row and no file', async () => {
    const memory = new Memory();
    const desk = await open(memory);
    server.answer({ '/t/1/0/0.png': text(PNG) });
    const tiles = server.at('/t/{z}/{x}/{y}.png');
    expect(await desk.tile('work', tiles, { z: 1, x: 0, y: 0 })).not.toBeNull();
    const service = [...desk.asked().keys()][0]!;
    expect(await desk.tile('work', tiles, { z: 9, x: 0, y: 0 })).toBeNull();
    expect(desk.asked().get(service)).toMatchObject({ answered: true, why: null });
    await desk.signIn(tiles, { kind: 'password', name: 'me', password: 'hunter two' });
    expect(desk.signInKind(tiles)).toBe('password');
    expect(JSON.stringify([...memory.rows])).not.toMatch(/hunter/);
    expect(existsSync(join(folder, 'services.key'))).toBe(true);
    await desk.tile('work', tiles, { z: 1, x: 0, y: 0 });
    expect(server.asked.at(-1)!.headers.authorization).toMatch(/^Basic /);
    await desk.signIn(tiles, null);
    expect(await desk.signInFor(tiles)).toBeNull();
    await desk.close();
  });

  test('tiles that moved are followed by their pattern', async () => {
    const desk = await open(new Memory());
    server.answer({ '/t/0/0/0.png': text('', { location: 'http://elsewhere.example/new/0/0/0.png' }, 301) });
    expect((await desk.ask('work', server.at('/t/{z}/{x}/{y}.png'), 'tiles')).movedTo).toBe('http://elsewhere.example/new/{z}/{x}/{y}.png');
    server.answer({ '/t/0/0/0.png': text('', { location: 'http://elsewhere.example/sorry' }, 301) });
    expect((await desk.ask('work', server.at('/t/{z}/{x}/{y}.png'), 'tiles')).movedTo).toBeNull();
    await desk.close();
  });

  test('a server that moved says where to', async () => {
    const desk = await open(new Memory());
    server.answer({ '/wms': text('', { location: 'http://elsewhere.example/wms?SERVICE=WMS' }, 301) });
    expect(await desk.ask('work', server.at('/wms'), 'wms')).toMatchObject({
      movedTo: 'http://elsewhere.example/wms',
      why: expect.stringContaining('moved'),
    });
    await desk.close();
  });
});
