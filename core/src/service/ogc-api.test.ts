import { describe, expect, test } from '@jest/globals';
import { linksOf, readCollections, readLanding, readPage, readRecords } from './ogc-api.js';

const SERVICE = 'https://x.example/api';
const about = { title: 'Library', description: '' };

// OGC 17-069r4, 7.2 (landing page), 7.13 (collections): members that have to be there, and those that may.
describe('a server of records', () => {
  test('its landing page leads to its collections', () => {
    const page = { title: 'T', links: [{ href: 'collections', rel: 'data' }] };
    expect(readLanding(page, `${SERVICE}/`)).toEqual({ title: 'T', description: '', collections: `${SERVICE}/collections` });
    expect(readLanding({ title: 'T' }, SERVICE)).toBeNull();
    expect(readLanding([], SERVICE)).toBeNull();
  });
  test('a collection with the least that it may have, and one with all', () => {
    const collections = [
      { id: 'least', links: [] },
      {
        id: 'all of it',
        title: 'All',
        description: 'D',
        keywords: ['k', 7],
        attribution: '© Office',
        extent: { spatial: { bbox: [[-1, -2, 3, 4]], crs: 'http://www.opengis.net/def/crs/OGC/1.3/CRS84' } },
        crs: ['#/crs', 'http://www.opengis.net/def/crs/EPSG/0/32624'],
        links: [{ rel: 'license', href: 'https://l.example', title: 'CC BY' }],
        updated: '2026-01-02T03:04:05Z',
      },
      { id: 'catalogue', itemType: 'record' },
      { title: 'no id' },
      7,
    ];
    const read = readCollections(SERVICE, { collections, crs: ['http://www.opengis.net/def/crs/EPSG/0/3857'] }, about);
    if (!read.ok) throw new Error('not read');
    expect(read.value.items.map((i) => i.name)).toEqual(['least', 'all of it', 'catalogue']);
    expect(read.value.items[0]).toMatchObject({
      title: 'least',
      crs: ['CRS:84'],
      degrees: null,
      changed: null,
      use: 'copyable',
      whyNot: null,
    });
    expect(read.value.items[1]).toMatchObject({
      crs: ['EPSG:3857', 'EPSG:32624'],
      degrees: [-1, -2, 3, 4],
      keywords: ['k'],
      licence: 'CC BY',
      changed: '2026-01-02T03:04:05Z',
      href: `${SERVICE}/collections/all%20of%20it/items`,
    });
    expect(read.value.items[2]!.whyNot).toContain('records of a catalogue');
  });
  test('what is no list of collections is told', () => {
    for (const wrong of [null, {}, { collections: {} }, 'x'])
      expect(readCollections(SERVICE, wrong, about)).toMatchObject({ ok: false, problem: { code: 'wrong-shape' } });
  });
});

// OGC 20-004r1, 7.1: a record is a GeoJSON feature; its links say by `rel` what they lead to.
test('records of a catalogue lead to pictures, records and files', () => {
  const record = (id: string, links: object[], more: object = {}) => ({
    type: 'Feature',
    id,
    geometry: {
      type: 'Polygon',
      coordinates: [
        [
          [0, 1],
          [2, 1],
          [2, 3],
          [0, 1],
        ],
      ],
    },
    properties: { title: id, contacts: [{ organization: 'Office' }], updated: '2026-01-01', ...more },
    links,
  });
  const items = readRecords(
    {
      features: [
        record('records', [{ rel: 'items', href: '/api/collections/a/items' }]),
        record('picture', [{ rel: 'data', href: '/wms?LAYERS=a' }]),
        record('file', [{ rel: 'enclosure', href: '/a.zip', type: 'application/zip' }]),
        record('nothing', [{ rel: 'self', href: '/a' }]),
        { id: 4, geometry: null, properties: null, links: 'x' },
        null,
      ],
    },
    SERVICE,
  );
  expect(items.map((i) => [i.name, i.use, i.href, i.whyNot === null])).toEqual([
    ['records', 'copyable', 'https://x.example/api/collections/a/items', true],
    ['picture', 'picture', 'https://x.example/wms?LAYERS=a', true],
    ['file', 'file', 'https://x.example/a.zip', false],
    ['nothing', 'picture', null, false],
    ['4', 'picture', null, false],
  ]);
  expect(items[0]).toMatchObject({ publisher: 'Office', degrees: [0, 1, 2, 3], changed: '2026-01-01' });
});

test('links and pages', () => {
  expect(
    linksOf(
      { links: [{ href: '?offset=10', rel: 'next' }, { rel: 'x' }, { href: 'http://[bad', rel: 'y' }, 3] },
      `${SERVICE}/items?limit=10`,
    ),
  ).toEqual([{ href: `${SERVICE}/items?offset=10`, rel: 'next', type: null, title: null }]);
  expect(readPage({ features: [{ id: 1 }, 7], links: [{ href: 'b', rel: 'next' }], numberMatched: 5 }, `${SERVICE}/a`)).toEqual({
    features: [{ id: 1 }],
    next: `${SERVICE}/b`,
    matched: 5,
  });
  expect(readPage({ features: [], numberMatched: -1 }, SERVICE)).toEqual({ features: [], next: null, matched: null });
  expect(readPage({ type: 'FeatureCollection' }, SERVICE)).toBeNull();
});
