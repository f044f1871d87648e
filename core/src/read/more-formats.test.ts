import { describe, expect, test } from '@jest/globals';
import { zipSync } from 'fflate';
import { memorySource } from '../bytes/byte-source';
import type { Description, FileGroup, Format } from '../dataset/dataset';
import { describeFlatGeobuf } from '../format/flatgeobuf/describe-flatgeobuf';
import { describeGpx } from '../format/gpx/describe-gpx';
import { describeKml } from '../format/kml/describe-kml';
import { describeGeoJson } from '../format/geojson/describe-geojson';
import { geoJsonFeatures } from '../format/geojson/geojson-features';
import { scanGeoJson } from '../format/geojson/scan-geojson';
import { describeXlsx } from '../format/xlsx/describe-xlsx';
import { xlsxFeatures } from '../format/xlsx/xlsx-features';
import { wkbToGeoJson } from '../geometry/wkb-to-geojson';

const crs = { codeOf: () => null, nameOf: (code: string) => (code === 'EPSG:4326' ? 'WGS 84' : null) };
const group = (path: string, format: Format): FileGroup => {
  const main = { path, bytes: 0, modifiedMs: 0 };
  return { format, kind: 'vector', path, main, companions: [], borrowed: [] };
};
const encoder = new TextEncoder();
const gpx = (text: string | Uint8Array): Description[] =>
  describeGpx(group('a.gpx', 'gpx'), () => memorySource(typeof text === 'string' ? encoder.encode(text) : text), crs);
const kml = (text: string): Description[] => describeKml(group('a.kml', 'kml'), () => memorySource(encoder.encode(text)), crs);

describe('GPX (topografix.com, GPX 1.1 schema)', () => {
  const sample = `<?xml version="1.0"?><gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><metadata><name>m</name></metadata>
  <wpt lat="44.1" lon="-39.2"><ele>3</ele><name>A</name></wpt><wpt lat="44.2" lon="-39.1"><name>B</name><time>2026-01-01T00:00:00Z</time></wpt>
  <rte><name>r</name><rtept lat="1" lon="2"/><rtept lat="3" lon="4"/></rte>
  <trk><name>t</name><number>1</number><trkseg><trkpt lat="-1" lon="-2"><ele>9</ele></trkpt><trkpt lat="5" lon="6"/></trkseg></trk></gpx>`;
  test('waypoints, routes and tracks are tables; counts, fields and extents', () => {
    const found = gpx(sample);
    expect(found.map((d) => [d.table, d.geometryType, d.featureCount, d.bbox, d.crs?.code])).toEqual([
      ['waypoints', 'Point', 2, [-39.2, 44.1, -39.1, 44.2], 'EPSG:4326'],
      ['routes', 'LineString', 1, [2, 1, 4, 3], 'EPSG:4326'],
      ['tracks', 'MultiLineString', 1, [-2, -1, 6, 5], 'EPSG:4326'],
    ]);
    expect(found[0]!.fields).toEqual([
      { name: 'ele', type: 'real' },
      { name: 'name', type: 'text' },
      { name: 'time', type: 'datetime' },
    ]);
    expect(found[2]!.fields!.map((f) => f.name)).toEqual(['name', 'number']);
  });
  test('cut off, other XML, nothing: unreadable with line and column, never a throw', () => {
    for (let length = 0; length < sample.length; length += 7) {
      const [d] = gpx(sample.slice(0, length));
      expect([length, d!.state]).toEqual([length, 'unreadable']);
    }
    expect(gpx('<kml/>')[0]!.findings[0]!.message).toContain('it begins otherwise');
    expect(gpx('<gpx><wpt></gpx>')[0]!.findings[0]!.message).toMatch(/line 1, column \d+/);
  });
  test('entities that grow are not expanded', () => {
    const bomb = `<!DOCTYPE g [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;">]><gpx><wpt lat="1" lon="2"><name>&b;</name></wpt></gpx>`;
    expect(gpx(bomb)[0]!.state).toBe('unreadable');
  });
  test('UTF-16 by its mark', () => {
    const bytes = Buffer.from(`\ufeff${sample}`, 'utf16le');
    expect(gpx(new Uint8Array(bytes))).toHaveLength(3);
  });
});

describe('KML (OGC 12-007r2)', () => {
  const point = (at: string, more = ''): string =>
    `<Placemark><name>n</name>${more}<Point><coordinates>${at}</coordinates></Point></Placemark>`;
  test('one folder: the file is one dataset; fields of data and of a schema', () => {
    const [d, ...others] = kml(
      `<kml xmlns="http://www.opengis.net/kml/2.2"><Document><name>Doc</name><Schema name="s"><SimpleField type="double" name="depth"/></Schema>${point(
        '-39.5,44.5,3',
        '<ExtendedData><Data name="kind"><value>x</value></Data><SchemaData><SimpleData name="depth">2</SimpleData></SchemaData></ExtendedData>',
      )}${point('-39,44')}</Document></kml>`,
    );
    expect(others).toEqual([]);
    expect(d).toMatchObject({
      table: null,
      geometryType: 'Point',
      featureCount: 2,
      bbox: [-39.5, 44, -39, 44.5],
      crs: { code: 'EPSG:4326' },
    });
    expect(d!.fields).toEqual([
      { name: 'name', type: 'text' },
      { name: 'kind', type: 'text' },
      { name: 'depth', type: 'real' },
    ]);
  });
  test('several folders: each is a table, by its path', () => {
    const found = kml(
      `<kml><Document><name>D</name><Folder><name>A</name>${point('1,2')}<Folder><name>B</name><Placemark><Polygon><outerBoundaryIs><LinearRing><coordinates>0,0 4,0 4,4 0,0</coordinates></LinearRing></outerBoundaryIs></Polygon></Placemark></Folder></Folder>${point('9,9')}</Document></kml>`,
    );
    expect(found.map((d) => [d.table, d.geometryType, d.featureCount, d.bbox])).toEqual([
      ['D', 'Point', 1, [9, 9, 9, 9]],
      ['A', 'Point', 1, [1, 2, 1, 2]],
      ['A/B', 'Polygon', 1, [0, 0, 4, 4]],
    ]);
  });
  test('other XML is unreadable', () => expect(kml('<gpx/>')[0]!.state).toBe('unreadable'));
});

// Source: files written by the reference library (npm package flatgeobuf, BSD-2-Clause).
describe('FlatGeobuf', () => {
  const written = async (): Promise<Uint8Array> => {
    const { serialize } = await import('flatgeobuf/lib/mjs/geojson.js');
    const feature = (i: number) => ({
      type: 'Feature' as const,
      properties: { name: `n${i}`, depth: i + 0.5, ok: i % 2 === 0 },
      geometry: { type: 'Point' as const, coordinates: [i, i * 2] },
    });
    return serialize({ type: 'FeatureCollection', features: [0, 1, 2].map(feature) } as never, 32624);
  };
  const fgb = (bytes: Uint8Array): Description => describeFlatGeobuf(group('a.fgb', 'flatgeobuf'), () => memorySource(bytes), crs);
  test('count, fields, geometry and CRS from the header', async () => {
    const d = fgb(await written());
    expect(d).toMatchObject({ state: 'ok', geometryType: 'Point', featureCount: 3, crs: { code: 'EPSG:32624' } });
    expect(d.fields!.map((f) => [f.name, f.type])).toEqual([
      ['name', 'text'],
      ['depth', 'real'],
      ['ok', 'boolean'],
    ]);
  });
  test('cut off at every byte of the header, or with bytes changed: unreadable or read, never a throw', async () => {
    const bytes = await written();
    const header = new DataView(bytes.buffer, bytes.byteOffset).getUint32(8, true) + 12;
    for (let length = 0; length < header; length++) expect(fgb(bytes.subarray(0, length)).state).toBe('unreadable');
    let seed = 7;
    for (let n = 0; n < 2000; n++) {
      const broken = bytes.slice();
      for (let k = 0; k < 3; k++) {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
        broken[8 + (seed % header)] = seed >>> 24;
      }
      expect(['ok', 'unreadable']).toContain(fgb(broken).state);
    }
  });
});

describe('KMZ and XLSX', () => {
  const zipOf = (members: Record<string, string>): Uint8Array =>
    zipSync(Object.fromEntries(Object.entries(members).map(([name, text]) => [name, encoder.encode(text)])));
  test('a KMZ is read by its first .kml', () => {
    const bytes = zipOf({
      'files/x.png': 'x',
      'doc.kml': '<kml><Placemark><Point><coordinates>1,2</coordinates></Point></Placemark></kml>',
      'other.kml': '<kml/>',
    });
    const [d] = describeKml(group('a.kmz', 'kml'), () => memorySource(bytes), crs);
    expect(d).toMatchObject({ state: 'ok', geometryType: 'Point', featureCount: 1 });
    expect(describeKml(group('a.kmz', 'kml'), () => memorySource(encoder.encode('no zip')), crs)[0]!.state).toBe('unreadable');
  });
  // ECMA-376 part 1: the least that a workbook has.
  const workbook = zipOf({
    'xl/workbook.xml':
      '<workbook xmlns:r="r"><sheets><sheet name="Counts" sheetId="1" r:id="rId1"/><sheet name="Notes" sheetId="2" r:id="rId2"/></sheets></workbook>',
    'xl/_rels/workbook.xml.rels':
      '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Target="/xl/worksheets/sheet2.xml"/></Relationships>',
    'xl/sharedStrings.xml': '<sst><si><t>site</t></si><si><r><t>co</t></r><r><t>unt</t></r></si><si><t>A</t></si></sst>',
    'xl/worksheets/sheet1.xml':
      '<worksheet><sheetData><row r="1"><c r="A1" t="s"><v>0</v></c><c r="B1" t="s"><v>1</v></c><c r="D1" t="inlineStr"><is><t>ok</t></is></c></row><row r="2"><c r="A2" t="s"><v>2</v></c><c r="B2"><v>4</v></c><c r="D2" t="b"><v>1</v></c></row><row r="3"><c r="B3"><v>4.5</v></c></row><row r="4"/></sheetData></worksheet>',
    'xl/worksheets/sheet2.xml': '<worksheet><sheetData/></worksheet>',
  });
  const xlsx = (bytes: Uint8Array): Description[] => describeXlsx(group('a.xlsx', 'xlsx'), () => memorySource(bytes), crs);
  test('each sheet is a table: names from its first row, types from the others', () => {
    const [counts, notes] = xlsx(workbook);
    expect(counts).toMatchObject({ table: 'Counts', kind: 'table', featureCount: 2 });
    expect(counts!.fields).toEqual([
      { name: 'site', type: 'text' },
      { name: 'count', type: 'real' },
      { name: 'field_3', type: 'text' },
      { name: 'ok', type: 'boolean' },
    ]);
    expect(notes).toMatchObject({ table: 'Notes', featureCount: 0, fields: [] });
  });
  test('two columns of coordinates make points', () => {
    const cells = (row: number, ...values: (string | number)[]): string =>
      `<row r="${row}">${values
        .map((v, i) => {
          const at = `${'ABC'[i]}${row}`;
          return typeof v === 'number' ? `<c r="${at}"><v>${v}</v></c>` : `<c r="${at}" t="inlineStr"><is><t>${v}</t></is></c>`;
        })
        .join('')}</row>`;
    const rows = cells(1, 'site', 'Longitude', 'Latitude') + cells(2, 'A', -39.5, 44.25) + cells(3, 'B', -38, 45) + cells(4, 'C');
    const placed = zipOf({
      'xl/workbook.xml': '<workbook xmlns:r="r"><sheets><sheet name="Sites" sheetId="1" r:id="rId1"/></sheets></workbook>',
      'xl/_rels/workbook.xml.rels': '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/></Relationships>',
      'xl/worksheets/sheet1.xml': `<worksheet><sheetData>${rows}</sheetData></worksheet>`,
    });
    const [sites] = xlsx(placed);
    expect(sites).toMatchObject({
      kind: 'vector',
      geometryType: 'Point',
      featureCount: 3,
      bbox: [-39.5, 44.25, -38, 45],
      crs: { code: 'EPSG:4326' },
    });
    const { features } = xlsxFeatures(group('a.xlsx', 'xlsx'), 'Sites', () => memorySource(placed), sites!.fields!, {
      geometry: true,
      values: true,
    });
    expect(Array.from(features, (f) => (f.geometry ? wkbToGeoJson(f.geometry) : null))).toEqual([
      { type: 'Point', coordinates: [-39.5, 44.25] },
      { type: 'Point', coordinates: [-38, 45] },
      null,
    ]);
  });
  test('cut off at any byte, or with bytes changed: unreadable or read, never a throw', () => {
    for (let length = 0; length < workbook.length; length += 5)
      expect(xlsx(workbook.subarray(0, length))[0]?.state ?? 'unreadable').toBe('unreadable');
    let seed = 3;
    for (let n = 0; n < 500; n++) {
      const broken = workbook.slice();
      for (let k = 0; k < 4; k++) {
        seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
        broken[seed % broken.length] = seed >>> 24;
      }
      for (const d of xlsx(broken)) expect(['ok', 'unreadable']).toContain(d.state);
    }
  });
});

// RFC 8259, section 6, lets numbers have any length; a double holds whole numbers up to 2^53.
test('GeoJSON keeps whole numbers of 64 bits to the last digit, and text that looks like them', () => {
  const text = `{"type":"FeatureCollection","features":[{"type":"Feature","geometry":null,"properties":{
    "n":9007199254740993,"m":-9223372036854770001,"s":"9007199254740993","list":[9007199254740993],"big":12345678901234567890123,"x":1234567890123456.5,"k":7}}]}`;
  const source = memorySource(encoder.encode(text));
  const scan = scanGeoJson('a.geojson', source, 'collection');
  if (!scan.ok) throw new Error('not read');
  const { fields } = scan.value;
  expect(fields.map((f) => f.type)).toEqual(['integer64', 'integer64', 'text', 'json', 'real', 'real', 'integer']);
  const [feature] = geoJsonFeatures(source, 'collection', fields, { geometry: true, values: true }).features;
  expect(feature!.values).toEqual([
    9007199254740993n,
    -9223372036854770001n,
    '9007199254740993',
    '[9007199254740993]',
    Number('12345678901234567890123'),
    1234567890123456.5,
    7,
  ]);
});

// The GeoJSON specification of 2008, clause 3, and how programs wrote it (common practice, no source).
test.each([
  ['{"type":"name","properties":{"name":"EPSG:25832"}}', 'EPSG:25832'],
  ['{"type":"name","properties":{"name":"urn:ogc:def:crs:EPSG::25832"}}', 'EPSG:25832'],
  ['{"type":"name","properties":{"name":"urn:ogc:def:crs:EPSG:8.9:25832"}}', 'EPSG:25832'],
  ['{"type":"name","properties":{"name":"http://www.opengis.net/def/crs/EPSG/0/25832"}}', 'EPSG:25832'],
  ['{"type":"EPSG","properties":{"code":25832}}', 'EPSG:25832'],
  ['{"type":"EPSG","properties":{"code":"25832"}}', 'EPSG:25832'],
  ['{"type":"link","properties":{"href":"http://example.com/ref/epsg/25832/proj4/","type":"proj4"}}', 'EPSG:25832'],
  ['{"type":"name","properties":{"name":"urn:ogc:def:crs:OGC:1.3:CRS84"}}', 'EPSG:4326'],
  ['{"type":"name","properties":{"name":"Our own"}}', null],
  ['null', undefined],
])('GeoJSON with crs %s', (member, code) => {
  const text = `{"type":"FeatureCollection","crs":${member},"features":[{"type":"Feature","properties":{},"geometry":{"type":"Point","coordinates":[1,2]}}]}`;
  const found = describeGeoJson(group('a.geojson', 'geojson'), () => memorySource(encoder.encode(text)), crs);
  expect(found.crs?.code).toBe(code);
});
