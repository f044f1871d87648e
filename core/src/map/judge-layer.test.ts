import { describe, expect, test } from '@jest/globals';
import { parseAddress, parseDriveName, type Place } from '../address/index.js';
import type { Fingerprint } from '../dataset/fingerprint.js';
import { judgeLayer, type Found, type Surroundings } from './judge-layer.js';
import { differenceFrom } from './layer-state.js';
import { parseMapFile, type MapLayer } from './map-file.js';

const folder = (path: string) => {
  const r = parseAddress(path);
  if (!r.ok) throw new Error(path);
  return r.value;
};
const places: Place[] = [
  { name: 'desk', root: folder('/srv/desk'), driveNames: [parseDriveName('D:')!], present: true, ignoresCase: false, readOnly: false },
  { name: 'stick', root: folder('/mnt/stick'), driveNames: [parseDriveName('E:')!], present: false, ignoresCase: false, readOnly: false },
];
const print = (over: Partial<Fingerprint> = {}): Fingerprint => ({
  v: 1,
  format: 'shapefile',
  geometryType: 'Polygon',
  count: 4,
  vertices: null,
  fields: [
    ['id', 'integer'],
    ['name', 'text'],
  ],
  extent: [0, 0, 10, 10],
  crs: 'EPSG:4326',
  raster: null,
  bytes: {},
  modified: null,
  grid: null,
  hash: null,
  ...over,
});
const found = (over: Partial<Extract<Found, { kind: 'dataset' }>> = {}): Found => ({
  kind: 'dataset',
  fingerprint: print(),
  table: null,
  incomplete: null,
  spelled: null,
  realLocation: null,
  ...over,
});

function layer(href: string | null, rootmap: object = {}): MapLayer {
  const offerings = href === null ? [] : [{ contents: [{ href }] }];
  const r = parseMapFile(
    'm',
    JSON.stringify({ type: 'FeatureCollection', features: [{ type: 'Feature', id: 'l', properties: { title: 'L', offerings, rootmap } }] }),
  );
  if (!r.ok) throw new Error('no map');
  return r.value.layers[0]!;
}
const judge = (href: string | null, there: Found = found(), rootmap: object = {}, over: Partial<Surroundings> = {}) =>
  judgeLayer({ place: 'desk', segments: ['p', 'maps', 'm.owc.json'] }, layer(href, rootmap), {
    places,
    root: { place: 'desk', segments: ['p'] },
    links: [{ place: 'desk', segments: ['library'] }],
    look: () => there,
    ...over,
  });

describe('state, in the order of its rules', () => {
  test.each<[string, string | null, Found, object, object]>([
    ['no source', null, found(), {}, { state: 'adrift', reason: 'no-reference' }],
    ['a service is not asked', 'https://x.example/wms', { kind: 'nothing' }, {}, { state: 'not-asked', reach: 'service' }],
    ['a place that is not present', 'file:///E:/x.shp', { kind: 'nothing' }, {}, { state: 'absent' }],
    [
      'a drive that no place claims',
      'file:///C:/x.shp',
      found(),
      {},
      { state: 'adrift', reason: 'no-place', resolved: 'file:///C:/x.shp' },
    ],
    ['above the root of its place', '../../../../x.shp', found(), {}, { state: 'adrift', reason: 'above-root' }],
    ['nothing there', '../x.shp', { kind: 'nothing' }, {}, { state: 'adrift', reason: 'no-file', reach: 'inside' }],
    [
      'the table is missing',
      '../g.gpkg#t',
      { kind: 'no-table', tables: ['a'] },
      {},
      { state: 'adrift', reason: 'no-table', detail: 'tables there: a' },
    ],
    [
      'the table is not named',
      '../g.gpkg',
      { kind: 'table-not-named', tables: ['a', 'b'] },
      {},
      { state: 'adrift', reason: 'table-not-named' },
    ],
    ['permission', '../x.shp', { kind: 'denied' }, {}, { state: 'unreadable', reason: 'permission' }],
    ['damage', '../x.shp', { kind: 'damaged', why: 'w' }, {}, { state: 'unreadable', reason: 'damaged', detail: 'w' }],
    ['a needed companion is missing', '../x.shp', found({ incomplete: 'no .dbf' }), {}, { state: 'incomplete' }],
    [
      'incomplete goes before different',
      '../x.shp',
      found({ incomplete: 'no .dbf', fingerprint: print({ geometryType: 'Point' }) }),
      { fingerprint: print() },
      { state: 'incomplete' },
    ],
    [
      'other geometry',
      '../x.shp',
      found({ fingerprint: print({ geometryType: 'Point' }) }),
      { fingerprint: print() },
      { state: 'different', reason: 'other-geometry' },
    ],
    ['sound', '../x.shp', found(), { fingerprint: print() }, { state: 'sound', reach: 'inside', stored: 'relative' }],
    [
      'another hash is still sound',
      '../x.shp',
      found({ fingerprint: print({ hash: 'sha256:1', count: 9 }) }),
      { fingerprint: print({ hash: 'sha256:2' }) },
      { state: 'sound' },
    ],
    ['spelled otherwise', '../X.shp', found({ spelled: ['p', 'x.shp'] }), {}, { state: 'sound', reason: 'spelling' }],
    ['two spellings', '../X.shp', { kind: 'ambiguous', spellings: ['x.shp', 'X.SHP'] }, {}, { state: 'adrift', reason: 'ambiguous' }],
    [
      'through a link of the file system',
      '../x.shp',
      found({ realLocation: { place: 'desk', segments: ['elsewhere', 'x.shp'] } }),
      {},
      { state: 'sound', reason: 'through-link', reach: 'outside' },
    ],
    ['linked', '../../library/x.shp', found(), {}, { state: 'sound', reach: 'linked' }],
    ['outside', '../../other/x.shp', found(), {}, { state: 'sound', reach: 'outside' }],
    ['a whole segment counts: p2 is not inside p', '../../p2/x.shp', found(), {}, { reach: 'outside' }],
  ])('%s', (_, href, there, rootmap, expected) => expect(judge(href, there, rootmap)).toMatchObject(expected));
  test('of a lone map, all data is outside', () =>
    expect(judge('x.shp', found(), {}, { root: null, links: [] })).toMatchObject({ reach: 'outside', state: 'sound' }));
});

describe('different', () => {
  const differs = (a: Partial<Fingerprint>, b: Partial<Fingerprint>, needs: string[] = []) =>
    differenceFrom(print(a), print(b), needs)?.reason ?? null;
  test.each<[string, Partial<Fingerprint>, Partial<Fingerprint>, string[], string | null]>([
    ['multi or single is one kind', { geometryType: 'MultiPolygon' }, {}, [], null],
    ['unknown is no difference', { geometryType: null, crs: null, extent: null, fields: null }, {}, [], null],
    ['another CRS', { crs: 'EPSG:3857' }, {}, [], 'other-crs'],
    ['code against text is unknown', { crs: { wkt: 'x' } }, {}, [], null],
    ['a needed field is gone', {}, { fields: [['id', 'integer']] }, ['name'], 'field-gone'],
    [
      'a needed field of another type',
      {},
      {
        fields: [
          ['id', 'integer'],
          ['name', 'real'],
        ],
      },
      ['name'],
      'field-type',
    ],
    [
      'integer and real are numbers both',
      {},
      {
        fields: [
          ['id', 'real'],
          ['name', 'text'],
        ],
      },
      ['id'],
      null,
    ],
    ['a field that nothing needs may go', {}, { fields: [['id', 'integer']] }, [], null],
    ['extents apart', { extent: [20, 20, 30, 30] }, {}, [], 'extent-apart'],
    ['extents that touch', { extent: [10, 10, 30, 30] }, {}, [], null],
    [
      'fewer than half of the fields',
      {
        fields: [
          ['a', 'text'],
          ['b', 'text'],
          ['id', 'integer'],
        ],
      },
      {},
      [],
      'fields-changed',
    ],
    [
      'half of them is enough',
      {
        fields: [
          ['a', 'text'],
          ['id', 'integer'],
        ],
      },
      {},
      [],
      null,
    ],
    ['a raster was a vector', { raster: { width: 1, height: 1, pixel: [1, 1], bands: 1 }, geometryType: null }, {}, [], 'other-geometry'],
  ])('%s', (_, a, b, needs, expected) => expect(differs(a, b, needs)).toBe(expected));
});
