import { describe, expect, test } from '@jest/globals';
import { readdirSync, readFileSync } from 'node:fs';
import { patchText } from '../json/patch-text.js';
import { fieldsOfFilter } from './needed-fields.js';
import { parseMapFile, type MapFile } from './map-file.js';
import { patchFingerprint, patchFormat, patchReference } from './patch-map.js';
import { writeMapFile } from './write-map.js';
import type { Fingerprint } from '../dataset/fingerprint.js';

const read = (text: string, file = 'm.owc.json'): MapFile => {
  const result = parseMapFile(file, text);
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
  return result.value;
};
const print: Fingerprint = {
  v: 1,
  format: 'shapefile',
  geometryType: 'Point',
  count: 3,
  vertices: 3,
  fields: [['id', 'integer']],
  extent: [0, 0, 1, 1],
  crs: 'EPSG:4326',
  raster: null,
  bytes: { '.shp': 184 },
  modified: '2026-01-05T10:00:00Z',
  grid: null,
  hash: 'sha256:00',
};

/** Members of OWS Context are those that OWSLib 0.27.2 reads (owslib/owscontext/core.py), cited in testdata/checks. */
const CONTEXT = `{"type":"FeatureCollection","id":"x","properties":{"title":"T","lang":"en"},"features":[
 {"type":"Feature","id":"a","geometry":null,"properties":{"title":"A","folder":"/g","active":true,"keep_me":{"n":[1,2]},
  "offerings":[{"code":"c","contents":[{"type":"t","href":"../a b.shp","url":"../a b.shp"},{"href":"second.csv"}],
                "styles":[{"name":"s","content":{"href":"styles/a.sld"}}]}]}},
 {"type":"Feature","id":"a","properties":{"title":"B","offerings":[{"code":"wms","operations":[{"code":"GetMap","href":"https://x.example/wms"}]}]}},
 {"type":"Feature","properties":{"title":"C"}},
 {"type":"Feature","id":7,"properties":{"offerings":[{"contents":[{"url":"only-url.shp"}]}]}}]}`;

describe('reading', () => {
  const map = read(CONTEXT);
  test('a missing or repeated id becomes the position', () => expect(map.layers.map((l) => l.id)).toEqual(['#0', '#1', '#2', '7']));
  test('the first content is the reference, href before url, others and styles are kept apart', () => {
    expect(map.layers[0]!.reference).toMatchObject({ href: '../a b.shp', role: 'content' });
    expect(map.layers[0]!.reference!.nodes).toHaveLength(2);
    expect(map.layers[0]!.others.map((o) => [o.href, o.role])).toEqual([
      ['second.csv', 'content'],
      ['styles/a.sld', 'style'],
    ]);
  });
  test('a service, a layer without a source, a writer that uses url', () => {
    expect(map.layers.map((l) => [l.isService, l.reference?.href ?? null])).toEqual([
      [false, '../a b.shp'],
      [true, 'https://x.example/wms'],
      [false, null],
      [false, 'only-url.shp'],
    ]);
  });
  test.each([
    ['[]', /type/],
    ['{"type":"FeatureCollection"}', /features/],
    ['{"type":"Feature","features":[]}', /type/],
  ])('%s is no map', (text, member) => {
    const r = parseMapFile('m', text);
    expect(!r.ok && r.problem.code === 'wrong-shape' && r.problem.member).toMatch(member);
  });
});

describe('writing back', () => {
  test('nothing asked for changes no byte, in every map of the example project', () => {
    const root = 'testdata/open/example_project/maps';
    const maps = readdirSync(root, { recursive: true })
      .map(String)
      .filter((f) => f.endsWith('.owc.json'));
    expect(maps).toHaveLength(3);
    for (const f of maps) {
      const text = readFileSync(`${root}/${f}`, 'utf8');
      expect(
        patchText(
          text,
          read(text).layers.flatMap((l) => patchReference(l.reference!, l.reference!.href)),
        ),
      ).toBe(text);
    }
  });
  test('a new address changes its tokens and nothing else', () => {
    const map = read(CONTEXT);
    const after = patchText(CONTEXT, patchReference(map.layers[0]!.reference!, '../moved/a%20b.shp'));
    expect(after).toBe(CONTEXT.replaceAll('"../a b.shp"', '"../moved/a%20b.shp"'));
  });
  test('another format changes code and type', () => {
    const map = read(CONTEXT);
    const after = read(patchText(CONTEXT, patchFormat(map.layers[0]!, 'geopackage')));
    expect(JSON.parse(after.text).features[0].properties.offerings[0]).toMatchObject({
      code: 'urn:x-rootmap:offering:geopackage',
      contents: [{ type: 'application/geopackage+sqlite3' }, {}],
    });
  });
  test('a fingerprint is added in the manner of the file, then found again, and written again changes nothing', () => {
    for (const text of [
      CONTEXT,
      JSON.stringify(JSON.parse(CONTEXT), null, 2),
      JSON.stringify(JSON.parse(CONTEXT), null, '\t'),
      JSON.stringify(JSON.parse(CONTEXT)),
    ]) {
      const map = read(text);
      const after = patchText(
        text,
        map.layers.flatMap((l) => patchFingerprint(map, l, print)),
      );
      const again = read(after);
      expect(again.layers.map((l) => l.fingerprint)).toEqual([print, print, print, print]);
      expect(again.layers.flatMap((l) => patchFingerprint(again, l, print))).toEqual([]);
      const without = JSON.parse(after);
      for (const f of without.features) delete f.properties.rootmap;
      expect(without).toEqual(JSON.parse(text));
    }
  });
  test('a new map is relative and reads as it was written', () => {
    const text = writeMapFile({
      id: 'i',
      title: 'New',
      updated: '2026-01-05T10:00:00Z',
      crs: 'EPSG:4326',
      storedForm: 'relative',
      layers: [
        { id: 'l', title: 'L', format: 'shapefile', href: '../x.shp', fingerprint: print, filter: 'a > 1' },
        { id: 's', title: 'S', code: 'wms', href: 'https://x.example/' },
      ],
    });
    const map = read(text);
    expect(map).toMatchObject({ title: 'New', storedForm: 'relative' });
    expect(map.layers.map((l) => [l.id, l.isService, l.needs])).toEqual([
      ['l', false, ['a']],
      ['s', true, []],
    ]);
  });
});

test('fields that a filter needs', () => {
  expect(fieldsOfFilter(`survey = 'summer' AND "bed name" LIKE 'a%' or not upper(kind) in ('x','y') and depth_m >= 3.5`)).toEqual([
    'survey',
    'bed name',
    'kind',
    'depth_m',
  ]);
});
