import { afterAll, afterEach, beforeAll, expect, jest, test } from '@jest/globals';
import { json, TestHttp, type Answering } from '../../test/hostile-server.js';
import { Wire } from '../wire/wire.js';
import { findService, searchRecords } from './find-service.js';

const server = new TestHttp();
let wire: Wire;
beforeAll(async () => {
  await server.start();
  wire = new Wire(() => new Set([server.host]));
});
afterAll(() => Promise.all([wire.close(), server.stop()]));
afterEach(() => void jest.restoreAllMocks());

const record = (id: string) => ({ type: 'Feature', id, geometry: null, properties: { title: `Record ${id}` }, links: [] });
const items = '/api/collections/cat/items';

/** A catalogue of 2,000 records in pages of 500; `slowlyBy`: each answer takes as long, as the clock here has it. */
function catalogue(slowlyBy: number): void {
  let clock = Date.now();
  if (slowlyBy > 0) jest.spyOn(Date, 'now').mockImplementation(() => clock);
  const page: Answering = (request, response) => {
    clock += slowlyBy;
    const { searchParams } = new URL(request.url!, 'http://x');
    const q = searchParams.get('q');
    const all = Array.from({ length: 2000 }, (_, i) => `r${i}`).filter((id) => q === null || id.endsWith(q));
    const [offset, limit] = [Number(searchParams.get('offset') ?? 0), Number(searchParams.get('limit'))];
    const next = new URLSearchParams({ limit: String(limit), offset: String(offset + limit), ...(q === null ? {} : { q }) });
    const links = offset + limit < all.length ? [{ rel: 'next', href: `${items}?${next.toString()}` }] : [];
    json({ features: all.slice(offset, offset + limit).map(record), links, numberMatched: all.length })(request, response);
  };
  server.answer({
    '/api': json({ links: [{ rel: 'data', href: '/api/collections' }] }),
    '/api/collections': json({ collections: [{ id: 'cat', title: 'All maps', itemType: 'record' }] }),
    [items]: page,
  });
}

test('a catalogue that answers in time is listed whole', async () => {
  catalogue(0);
  const { tree } = await findService(wire, server.at('/api'), {});
  expect([tree.kind, tree.items.length, tree.more]).toEqual(['records', 2001, 0]); // with its heading
});

test('a slow one is listed as far as it came within the time, and the rest is counted', async () => {
  catalogue(2500);
  const { tree } = await findService(wire, server.at('/api'), {});
  expect([tree.items.length, tree.more]).toEqual([1001, 1000]);
  expect(server.asked.filter((a) => a.url.startsWith(items)).length).toBeLessThanOrEqual(3); // the next one was on its way
});

test('its server searches all of it', async () => {
  catalogue(0);
  const found = await searchRecords(wire, server.at('/api'), '99', {});
  expect(found.items.map((i) => i.name)).toEqual(Array.from({ length: 20 }, (_, i) => (i === 0 ? 'r99' : `r${i}99`)));
  expect([found.more, found.items[0]!.below]).toEqual([0, ['All maps']]);
  expect((await searchRecords(wire, server.at('/api'), 'r', {})).items).toEqual([]);
  expect(await searchRecords(wire, server.at('/api'), '', {})).toMatchObject({ more: 1500, items: { length: 500 } });
});
