import { describe, expect, test } from '@jest/globals';
import { geoJsonToWkb } from '../geometry/geojson-to-wkb';
import { wkbToWkt } from '../geometry/wkb-to-wkt';
import { isSuspect } from '../geometry/suspect-shape';
import { lossWords } from '../dataset/loss';
import type { Field } from '../dataset/dataset';
import { csvLines, csvPlan, csvRow } from './csv/write-csv';
import { geoJsonFeature } from './geojson/write-geojson';
import { DbfSurvey, dbfHeader, writeDbfRecord } from './shapefile/dbf-columns';
import { emptyBox, shapeHeader, shapeOf, shapeTypeFor, widenBox } from './shapefile/wkb-to-shape';

const wkb = (geometry: object): Uint8Array => geoJsonToWkb(geometry)!.slice();
const ints = (bytes: Uint8Array, ...at: number[]): number[] =>
  at.map((a) => new DataView(bytes.buffer, bytes.byteOffset).getInt32(a, true));
const doubles = (bytes: Uint8Array, at: number, n: number): number[] =>
  Array.from({ length: n }, (_, i) => new DataView(bytes.buffer, bytes.byteOffset).getFloat64(at + i * 8, true));

// ESRI Shapefile Technical Description (July 1998): the record of a polygon with a hole that pages 8 and 9 draw, and the tables of fields.
describe('shapefile', () => {
  const withHole = {
    type: 'Polygon',
    coordinates: [
      [
        [0, 0],
        [4, 0],
        [4, 4],
        [0, 4],
        [0, 0],
      ],
      [
        [1, 1],
        [1, 2],
        [2, 2],
        [1, 1],
      ],
    ],
  };

  test('a polygon: box, two parts, nine points, outer ring clockwise and hole the other way', () => {
    const content = shapeOf(wkb(withHole), 5)!;
    expect(ints(content, 0, 36, 40, 44, 48)).toEqual([5, 2, 9, 0, 5]);
    expect(doubles(content, 4, 4)).toEqual([0, 0, 4, 4]);
    expect(content).toHaveLength(44 + 2 * 4 + 9 * 16);
    expect(doubles(content, 52, 10)).toEqual([0, 0, 0, 4, 4, 4, 4, 0, 0, 0]); // clockwise
    expect(doubles(content, 52 + 80, 8)).toEqual([1, 1, 2, 2, 1, 2, 1, 1]);
  });
  test('points, with Z as page 15 has them; an empty shape is a null shape; another kind is refused', () => {
    expect(shapeOf(wkb({ type: 'Point', coordinates: [1, 2] }), 1)).toHaveLength(20);
    const z = shapeOf(wkb({ type: 'Point', coordinates: [1, 2, 3] }), 11)!;
    expect([z.length, ...doubles(z, 4, 3)]).toEqual([36, 1, 2, 3]);
    expect(shapeOf(wkb({ type: 'Point', coordinates: [1, 2] }), 3)).toBeNull();
    expect(shapeOf(Uint8Array.of(1, 2, 0, 0, 0, 0, 0, 0, 0), 3)).toEqual(new Uint8Array(4));
    expect(shapeOf(Uint8Array.of(1, 9), 3)).toBeNull();
  });
  test('types by kind; several kinds have none', () => {
    expect(['Point', 'MultiLineString', 'PolygonZ', 'MultiPointM', 'PointZM', 'Geometry', 'GeometryCollection'].map(shapeTypeFor)).toEqual([
      1,
      3,
      15,
      28,
      11,
      null,
      null,
    ]);
  });
  test('the header: file code, words, version, type, box (page 3)', () => {
    const box = emptyBox();
    widenBox(box, shapeOf(wkb(withHole), 5)!);
    widenBox(
      box,
      shapeOf(
        wkb({
          type: 'Polygon',
          coordinates: [
            [
              [9, 9],
              [9, 10],
              [10, 10],
              [9, 9],
            ],
          ],
        }),
        5,
      )!,
    );
    widenBox(box, new Uint8Array(4));
    const header = shapeHeader(5, 1000, box);
    expect(new DataView(header.buffer).getInt32(0)).toBe(9994);
    expect(new DataView(header.buffer).getInt32(24)).toBe(500);
    expect(ints(header, 28, 32)).toEqual([1000, 5]);
    expect(doubles(header, 36, 8)).toEqual([0, 0, 10, 10, 0, 0, 0, 0]);
  });

  const fields: Field[] = [
    { name: 'Län', type: 'text' },
    { name: 'a very long name', type: 'integer' },
    { name: 'A_VERY_LON', type: 'real' },
    { name: 'day', type: 'date' },
    { name: 'ok', type: 'boolean' },
    { name: 'raw', type: 'binary' },
  ];
  test('a table: names of ten letters, widths as needed, numbers to the right; what does not fit is told', () => {
    const survey = new DbfSurvey(fields);
    const rows = [
      ['å'.repeat(200), 7, 1.5, '2026-03-01', true, null],
      [null, -12345, null, 'soon', null, null],
    ] as const;
    for (const row of rows) survey.add(row);
    const { columns, losses, recordBytes } = survey.layout();
    expect(columns.map((c) => [c.name, c.code, c.lengthBytes])).toEqual([
      ['Lan', 'C', 254],
      ['a_very_lon', 'N', 9],
      ['A_VERY_L_1', 'N', 24],
      ['day', 'D', 8],
      ['ok', 'L', 1],
    ]);
    const told = losses.map(lossWords);
    expect(told.join('\n')).toMatch(/Län: it is called Lan/);
    expect(told).toContain('raw: it holds bytes, and is left out');
    expect(told).toContain('day: 1 value that is no date is left out');
    const record = new Uint8Array(recordBytes);
    writeDbfRecord(columns, rows[0], record);
    const text = new TextDecoder().decode(record);
    expect(text.slice(1, 128)).toBe('å'.repeat(127)); // no letter is cut in two
    expect(text.slice(128)).toBe(`        7${' '.repeat(21)}1.520260301T`);
    writeDbfRecord(columns, rows[1], record);
    expect(new TextDecoder().decode(record).trimEnd().slice(-1)).toBe('?');
    const header = dbfHeader(columns, 2, new Date('2026-03-04T00:00:00Z'));
    expect([...header.subarray(0, 4)]).toEqual([3, 126, 3, 4]);
    expect(header.at(-1)).toBe(0x0d);
  });
});

// RFC 7946, section 3.1.6: exterior rings are counterclockwise.
test('GeoJSON: rings are wound, whole numbers keep every digit, lists stay lists', () => {
  const geometry = wkb({
    type: 'Polygon',
    coordinates: [
      [
        [0, 0],
        [0, 1],
        [1, 1],
        [0, 0],
      ],
    ],
  });
  const values = [9007199254740993n, '[1,2]', 'a "b"', NaN] as never[];
  const typed: Field[] = [
    { name: 'big', type: 'integer64' },
    { name: 'list', type: 'json' },
    { name: 'text', type: 'text' },
    { name: 'none', type: 'real' },
  ];
  expect(geoJsonFeature({ id: 0, geometry, values }, typed)).toBe(
    '{"type":"Feature","properties":{"big":9007199254740993,"list":[1,2],"text":"a \\"b\\"","none":null},"geometry":{"type":"Polygon","coordinates":[[[0,0],[1,1],[0,1],[0,0]]]}}',
  );
  expect(geoJsonFeature({ id: 0, geometry: Uint8Array.of(1, 2), values }, typed)).toBeNull();
});

// RFC 4180, section 2, rules 5 to 7.
test('CSV: quotes around commas, quotes and line ends; points as two columns of free names', () => {
  const typed: Field[] = [
    { name: 'x', type: 'text' },
    { name: 'ok', type: 'boolean' },
  ];
  const plan = csvPlan(typed, 'xy');
  expect(plan.header).toEqual(['x_1', 'y', 'x', 'ok']);
  const row = csvRow({ id: 0, geometry: wkb({ type: 'Point', coordinates: [1.5, -2] }), values: ['a,"b"\nc', false] }, plan)!;
  expect(csvLines([plan.header, row])).toBe('x_1,y,x,ok\r\n1.5,-2,"a,""b""\nc",false\r\n');
  expect(csvRow({ id: 0, geometry: null, values: [null, null] }, plan)).toEqual(['', '', '', '']);
});

// OGC 06-103r4, clause 7.2.6, table 6: its examples.
test.each([
  [{ type: 'Point', coordinates: [10, 10] }, 'POINT (10 10)'],
  [
    {
      type: 'LineString',
      coordinates: [
        [10, 10],
        [20, 20],
        [30, 40],
      ],
    },
    'LINESTRING (10 10, 20 20, 30 40)',
  ],
  [
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
    'POLYGON ((10 10, 10 20, 20 20, 20 15, 10 10))',
  ],
  [
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
    'MULTILINESTRING ((10 10, 20 20), (15 15, 30 15))',
  ],
  [{ type: 'Point', coordinates: [10, 10, 5] }, 'POINT Z (10 10 5)'],
  [
    {
      type: 'GeometryCollection',
      geometries: [
        { type: 'Point', coordinates: [10, 10] },
        { type: 'Point', coordinates: [30, 30] },
      ],
    },
    'GEOMETRYCOLLECTION (POINT (10 10), POINT (30 30))',
  ],
])('well-known text of %j', (geometry, text) => expect(wkbToWkt(wkb(geometry))).toBe(text));

// OGC 06-103r4, clause 6.1.11.1, figure 12: what is no polygon.
describe('shapes that may be invalid', () => {
  const area = (...rings: number[][][]): Uint8Array => wkb({ type: 'Polygon', coordinates: rings });
  const square = [
    [0, 0],
    [4, 0],
    [4, 4],
    [0, 4],
    [0, 0],
  ];
  test.each([
    ['a square', area(square), false],
    [
      'with a hole',
      area(square, [
        [1, 1],
        [1, 2],
        [2, 2],
        [1, 1],
      ]),
      false,
    ],
    [
      'a bow tie',
      area([
        [0, 0],
        [2, 2],
        [2, 0],
        [0, 2],
        [0, 0],
      ]),
      true,
    ],
    [
      'a spike',
      area([
        [0, 0],
        [4, 0],
        [6, 0],
        [4, 0],
        [4, 4],
        [0, 0],
      ]),
      true,
    ],
    [
      'flat',
      area([
        [0, 0],
        [4, 0],
        [2, 0],
        [0, 0],
      ]),
      true,
    ],
    [
      'a hole outside',
      area(square, [
        [8, 8],
        [8, 9],
        [9, 9],
        [8, 8],
      ]),
      true,
    ],
    [
      'a hole that crosses',
      area(square, [
        [3, 3],
        [3, 5],
        [5, 5],
        [3, 3],
      ]),
      true,
    ],
    [
      'not closed',
      area([
        [0, 0],
        [4, 0],
        [4, 4],
        [0, 4],
      ]),
      true,
    ],
    [
      'too few corners',
      area([
        [0, 0],
        [4, 0],
        [0, 0],
      ]),
      true,
    ],
    [
      'a line',
      wkb({
        type: 'LineString',
        coordinates: [
          [0, 0],
          [1, 1],
        ],
      }),
      false,
    ],
    [
      'a line of one place',
      wkb({
        type: 'LineString',
        coordinates: [
          [1, 1],
          [1, 1],
        ],
      }),
      true,
    ],
    ['a point', wkb({ type: 'Point', coordinates: [1, 1] }), false],
  ])('%s', (_, shape, isIt) => expect(isSuspect(shape)).toBe(isIt));
});
