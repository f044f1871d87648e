import { describe, expect, test } from '@jest/globals';
import { memorySource } from '../bytes/byte-source';
import type { Description, FileGroup, Format } from '../dataset/dataset';
import { describeFlatGeobuf } from '../format/flatgeobuf/describe-flatgeobuf';
import { describeGpx } from '../format/gpx/describe-gpx';
import { describeKml } from '../format/kml/describe-kml';

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
