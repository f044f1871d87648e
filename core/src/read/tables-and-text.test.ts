import { describe, expect, test } from '@jest/globals';
import { guessEncoding } from '../bytes/guess-encoding';
import { describeCsv } from '../format/csv/describe-csv';
import { writeCsvt } from '../format/csv/csvt';
import { wktToWkb } from '../geometry/wkt-to-wkb';
import { wkbToGeoJson } from '../geometry/wkb-to-geojson';
import { csvFile } from '../../test/csv-file';

const crs = { codeOf: () => null, nameOf: () => 'WGS 84' };
const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const csv = (content: string | Uint8Array, csvt?: string) => {
  const { group, open } = csvFile(content, csvt);
  return describeCsv(group, open, crs);
};

describe('CSV (RFC 4180)', () => {
  test.each([
    ['comma', 'name,lon,lat\nA,-39.5,44.1\n'],
    ['semicolon', 'name;lon;lat\r\nA;-39.5;44.1\r\n'],
    ['tab, with a mark', '\uFEFFname\tlon\tlat\nA\t-39.5\t44.1'],
    ['bar, quoted', 'name|lon|lat\n"A, ""x""\n2"|-39.5|44.1\n'],
  ])('%s', (_, text) => {
    expect(csv(text)).toMatchObject({
      kind: 'vector',
      geometryType: 'Point',
      featureCount: 1,
      bbox: [-39.5, 44.1, -39.5, 44.1],
      crs: { code: 'EPSG:4326' },
    });
  });
  test('names that say coordinates, but values that are none: a table; a column of text is no coordinate', () => {
    expect(csv('x,y\nred,blue\n')).toMatchObject({ kind: 'table', bbox: null });
    expect(csv('lon,lat\n500000,4800000\n').crs).toBeNull();
  });
  test('a .csvt decides, either way', () => {
    const text = 'a,b,lon,lat\n1,2,3,4\n';
    expect(csv(text, '"CoordX","CoordY","Real","Real"').bbox).toEqual([1, 2, 1, 2]);
    expect(csv(text, '"Integer","Integer","Real","Real"').kind).toBe('table');
    const fields = csv(text).fields!;
    expect(writeCsvt(fields, { x: 2, y: 3 })).toBe('"Integer","Integer","CoordX","CoordY"\n');
    expect(csv(text, writeCsvt(fields, { x: 0, y: 1 })).bbox).toEqual([1, 2, 1, 2]);
  });
  test('rows that are uneven are counted, and letters that are guessed are told', () => {
    expect(csv('a,b\n1\n1,2,3\n1,2\n').findings.map((f) => f.code)).toEqual(['uneven-rows']);
    const latin = Uint8Array.from([...bytes('name,n\nGr'), 0xfc, 0xdf, ...bytes('e aus K'), 0xf6, ...bytes('ln,1\n')]);
    expect(csv(latin).findings.map((f) => f.code)).toEqual(['encoding-guessed']);
  });
});

describe('encodings by statistics', () => {
  // Texts in each encoding by its table (WHATWG Encoding Standard, index-windows-1251 and so on, through the platform).
  test('Cyrillic, Greek and Western letters are told apart; ASCII does not matter; UTF-8 is certain', () => {
    const inCyrillic = (text: string): Uint8Array =>
      Uint8Array.from(text, (c) => (c.charCodeAt(0) >= 0x410 && c.charCodeAt(0) <= 0x44f ? c.charCodeAt(0) - 0x350 : c.charCodeAt(0)));
    const russian = 'побережье моря и острова, маяк на северном берегу залива, глубина и течение воды';
    expect(guessEncoding(inCyrillic(russian))?.label).toBe('windows-1251');
    expect(guessEncoding(bytes('plain'))).toBeNull();
    expect(guessEncoding(bytes('Ærø'))).toEqual({ label: 'utf-8', confidence: 1 });
    expect(guessEncoding(Uint8Array.from([0xe9, 0x20, 0x61]))!.confidence).toBeLessThan(1);
  });
});

// Source: OGC 06-103r4, clause 7, table 6 (example text representations).
describe('well-known text', () => {
  test.each([
    ['Point (10 10)', { type: 'Point', coordinates: [10, 10] }],
    [
      'LineString ( 10 10, 20 20, 30 40)',
      {
        type: 'LineString',
        coordinates: [
          [10, 10],
          [20, 20],
          [30, 40],
        ],
      },
    ],
    [
      'Polygon ((10 10, 10 20, 20 20, 20 15, 10 10))',
      {
        type: 'Polygon',
        coordinates: [
          [
            [10, 10],
            [10, 20],
            [20, 20],
            [20, 15],
            [10, 10],
          ],
        ],
      },
    ],
    [
      'MultiPoint ((10 10), (20 20))',
      {
        type: 'MultiPoint',
        coordinates: [
          [10, 10],
          [20, 20],
        ],
      },
    ],
    [
      'MULTIPOINT (10 10, 20 20)',
      {
        type: 'MultiPoint',
        coordinates: [
          [10, 10],
          [20, 20],
        ],
      },
    ],
    [
      'MultiLineString ((10 10, 20 20), (15 15, 30 15))',
      {
        type: 'MultiLineString',
        coordinates: [
          [
            [10, 10],
            [20, 20],
          ],
          [
            [15, 15],
            [30, 15],
          ],
        ],
      },
    ],
    [
      'GeometryCollection (POINT (10 10), POINT (30 30), LINESTRING (15 15, 20 20))',
      {
        type: 'GeometryCollection',
        geometries: [
          { type: 'Point', coordinates: [10, 10] },
          { type: 'Point', coordinates: [30, 30] },
          {
            type: 'LineString',
            coordinates: [
              [15, 15],
              [20, 20],
            ],
          },
        ],
      },
    ],
    ['POINT Z (10 10 5)', { type: 'Point', coordinates: [10, 10, 5] }],
    ['SRID=4326;POINT(-1.5e1 .5)', { type: 'Point', coordinates: [-15, 0.5] }],
  ])('%s', (text, expected) => expect(wkbToGeoJson(wktToWkb(text)!)).toEqual(expected));
  test.each(['', 'POINT', 'POINT (1)', 'POINT (1 2', 'LINESTRING (1 2, 3)', 'CIRCLE (1 2)', 'POINT (1 2) x', 'POLYGON (1 2, 3 4)'])(
    'not: %s',
    (text) => expect(wktToWkb(text)).toBeNull(),
  );
});
