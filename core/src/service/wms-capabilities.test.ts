import { describe, expect, test } from '@jest/globals';
import { isEastFirst, readWmsCapabilities, wmsCapabilitiesAddress, wmsLayerAddress, wmsPictureAddress } from './wms-capabilities.js';
import { MOST_ITEMS, type ServiceTree } from './service-tree.js';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const read = (text: string): ServiceTree => {
  const result = readWmsCapabilities('https://x.example/wms', bytes(text));
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
  return result.value;
};
const refusal = (text: string): string => {
  const result = readWmsCapabilities('https://x.example/wms', bytes(text));
  return result.ok ? 'read' : JSON.stringify(result.problem);
};
const wms = (layers: string, head = '<Title>Bay</Title>'): string =>
  `<?xml version="1.0"?><WMS_Capabilities version="1.3.0" xmlns="http://www.opengis.net/wms"><Service><Name>WMS</Name>${head}</Service><Capability><Request/>${layers}</Capability></WMS_Capabilities>`;

/*
 * Inheritance by OGC 06-042, table 7 (7.2.4.8): CRS "add", EX_GeographicBoundingBox and Attribution "replace", queryable
 * "replace"; Name and Title are not inherited.
 */
describe('what layers take from those above them', () => {
  const tree = read(
    wms(`<Layer queryable="1"><Title>All</Title><CRS>CRS:84</CRS><CRS>EPSG:3857</CRS>
      <EX_GeographicBoundingBox><westBoundLongitude>-10</westBoundLongitude><eastBoundLongitude>10</eastBoundLongitude><southBoundLatitude>-5</southBoundLatitude><northBoundLatitude>5</northBoundLatitude></EX_GeographicBoundingBox>
      <Attribution><Title>Office</Title></Attribution>
      <Layer><Name>a</Name><Title>A</Title><CRS>EPSG:32624</CRS></Layer>
      <Layer queryable="0"><Name>b</Name><Title>B</Title><Attribution><Title>Wardens</Title></Attribution>
        <EX_GeographicBoundingBox><westBoundLongitude>1</westBoundLongitude><eastBoundLongitude>2</eastBoundLongitude><southBoundLatitude>3</southBoundLatitude><northBoundLatitude>4</northBoundLatitude></EX_GeographicBoundingBox></Layer>
    </Layer>`),
  );
  const of = (title: string) => tree.items.find((i) => i.title === title)!;
  test('CRSs add up', () => {
    expect(of('A').crs).toEqual(['CRS:84', 'EPSG:3857', 'EPSG:32624']);
    expect(of('B').crs).toEqual(['CRS:84', 'EPSG:3857']);
  });
  test('extent and attribution replace', () => {
    expect([of('A').degrees, of('B').degrees]).toEqual([
      [-10, -5, 10, 5],
      [1, 3, 2, 4],
    ]);
    expect([of('A').attribution, of('B').attribution]).toEqual(['Office', 'Wardens']);
  });
  test('whether it can be asked replaces', () => expect([of('A').use, of('B').use]).toEqual(['query', 'picture']));
  test('a layer without a name is a heading, and says so', () => {
    expect(of('All')).toMatchObject({ name: '', href: null, whyNot: expect.stringContaining('heading') });
    expect(of('A').below).toEqual(['All']);
  });
});

// OGC 01-068r3, 7.1.4: several codes may stand in one SRS; the box is an attribute.
test('1.1.1: codes in one element, box in attributes, version in the address of a layer', () => {
  const tree = read(
    `<WMT_MS_Capabilities version="1.1.1"><Service><Name>OGC:WMS</Name><Title>Old</Title></Service><Capability><Layer><Name>a</Name><Title>A</Title><SRS>EPSG:4326 EPSG:3857</SRS><LatLonBoundingBox minx="-1" miny="-2" maxx="3" maxy="4"/></Layer></Capability></WMT_MS_Capabilities>`,
  );
  expect(tree).toMatchObject({ title: 'Old', version: '1.1.1' });
  expect(tree.items[0]).toMatchObject({
    crs: ['EPSG:4326', 'EPSG:3857'],
    degrees: [-1, -2, 3, 4],
    href: 'https://x.example/wms?SERVICE=WMS&VERSION=1.1.1&LAYERS=a',
  });
});

describe('what is sent may be anything', () => {
  test('names with markup stay text', () => {
    const tree = read(wms('<Layer><Name>a&amp;b=c</Name><Title>&lt;script&gt;alert(1)&lt;/script&gt;</Title></Layer>'));
    expect(tree.items[0]).toMatchObject({ name: 'a&b=c', title: '<script>alert(1)</script>' });
    expect(new URL(tree.items[0]!.href!).searchParams.get('LAYERS')).toBe('a&b=c');
  });
  test('entities of its own are not expanded', () => {
    const bomb = `<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;"><!ENTITY f SYSTEM "file:///etc/passwd">]>${wms('<Layer><Name>n</Name><Title>&b;&f;</Title></Layer>').slice(21)}`;
    const said = refusal(bomb);
    if (said === 'read') expect(read(bomb).items[0]!.title).not.toMatch(/aaaa|root:/);
    else expect(said).not.toMatch(/root:/);
  });
  test.each([
    ['nothing', '', 'empty'],
    ['cut short', wms('<Layer><Name>a</Name>').slice(0, -60), 'XML that can be read'],
    ['a web page', '<html><body>Hello</body></html>', 'it begins with'],
    ['an exception', '<ServiceExceptionReport/>', 'it begins with'],
    ['no XML', '{"a":1}', 'XML that can be read'],
    ['a pit', wms(`${'<Layer>'.repeat(300)}${'</Layer>'.repeat(300)}`), 'no deeper'],
  ])('%s is refused with a reason', (_, text, why) => expect(refusal(text)).toContain(why));
  test('10,000 layers are read, and more than are listed are counted', () => {
    const many = (n: number): string =>
      wms(
        `<Layer><Title>All</Title>${Array.from({ length: n }, (_, i) => `<Layer><Name>l${i}</Name><Title>L ${i}</Title></Layer>`).join('')}</Layer>`,
      );
    expect(read(many(10_000))).toMatchObject({ more: 0, items: { length: 10_001 } });
    expect(read(many(MOST_ITEMS + 5))).toMatchObject({ more: 6, items: { length: MOST_ITEMS } });
  });
});

const box = [-39.2, 43.9, -39.1, 44] as const;
const asked = (layer: string, crs: string): URLSearchParams =>
  new URL(wmsPictureAddress(layer, { crs, box, width: 100, height: 50 })).searchParams;

/*
 * OGC 06-042, 6.7.2 and 6.7.4: axes in the order of the CRS, which for EPSG:4326 is latitude first; for CRS:84 longitude first
 * (annex B.3). OGC 01-068r3, 6.5.5: x is longitude. Numbers of sections from memory.
 */
describe('the order of axes', () => {
  const layer = wmsLayerAddress('https://x.example/wms', 'a', '1.3.0');
  test('1.3.0 in EPSG:4326: latitude first', () => expect(asked(layer, 'EPSG:4326').get('BBOX')).toBe('43.9,-39.2,44,-39.1'));
  test('1.3.0 in EPSG:3857: x first', () => expect(asked(layer, 'EPSG:3857').get('BBOX')).toBe('-39.2,43.9,-39.1,44'));
  test('1.1.1 in EPSG:4326: x first, as SRS', () => {
    const old = asked(wmsLayerAddress('https://x.example/wms', 'a', '1.1.1'), 'EPSG:4326');
    expect([old.get('BBOX'), old.get('SRS'), old.get('CRS'), old.get('VERSION')]).toEqual([
      '-39.2,43.9,-39.1,44',
      'EPSG:4326',
      null,
      '1.1.1',
    ]);
  });
  test('parameters of the service stay, those of the layer are put in capitals once', () => {
    const all = asked('https://x.example/cgi?map=bay&service=wms&layers=a&styles=s&crs=EPSG:1', 'EPSG:3857');
    expect([all.get('map'), all.get('LAYERS'), all.get('STYLES'), all.getAll('CRS'), all.get('layers')]).toEqual([
      'bay',
      'a',
      's',
      ['EPSG:3857'],
      null,
    ]);
  });
});

test('capabilities are asked for with what the address has already', () => {
  expect(wmsCapabilitiesAddress('https://x.example/cgi?map=a')).toBe('https://x.example/cgi?map=a&SERVICE=WMS&REQUEST=GetCapabilities');
  expect(wmsCapabilitiesAddress('https://x.example/wms', '1.1.1')).toBe(
    'https://x.example/wms?SERVICE=WMS&REQUEST=GetCapabilities&VERSION=1.1.1',
  );
});

test('codes that are asked for directly', () => {
  expect(['EPSG:3857', 'EPSG:32624', 'EPSG:25832', 'CRS:84'].every(isEastFirst)).toBe(true);
  // 3045 is ETRS89 / UTM 33N with north first; 31467 Gauss-Krüger with north first; 4326 latitude first (EPSG registry).
  expect(['EPSG:3045', 'EPSG:31467', 'EPSG:4326', 'EPSG:27700', 'x'].some(isEastFirst)).toBe(false);
});
