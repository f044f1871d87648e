import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Location, Place } from '../address/place';
import { address } from '../address/address';
import { patchText } from '../json/patch-text';
import { parseMapFile } from '../map/map-file';
import { writeMapFile } from '../map/write-map';
import { must } from '../problem';
import { Relocations, rewriteMap } from './relocate';
import { rewriteStyle } from './relocate-style';

const place = (name: string, over: Partial<Place> = {}): Place => ({
  name,
  root: address('posix', '/', [name]),
  driveNames: [],
  present: true,
  ignoresCase: false,
  readOnly: false,
  ...over,
});
const places = [place('desk', { driveNames: [address('drive', 'D:', [])] }), place('stick', { ignoresCase: true })];
const at = (path: string, on = 'desk'): Location => ({ place: on, segments: path.split('/').filter(Boolean) });
const moves = (...pairs: (readonly [string, string])[]): Relocations =>
  new Relocations(
    pairs.map(([from, to]) => ({ from: at(from), to: at(to) })),
    places,
  );
const pathOf = (l: Location): string => l.segments.join('/');

describe('where a location is after a move', () => {
  test('a folder takes along what is in it, and nothing beside it', () => {
    const m = moves(['a/b', 'x']);
    expect(pathOf(m.of(at('a/b/c.shp')))).toBe('x/c.shp');
    const beside = at('a/bc/d.shp');
    expect(m.of(beside)).toBe(beside);
  });
  test('a file and the folder above it: the file is told with the old folder', () => {
    const m = moves(['a/old.shp', 'a/new.shp'], ['a', 'b']);
    expect(pathOf(m.of(at('a/old.shp')))).toBe('b/new.shp');
    expect(pathOf(m.of(at('a/other.shp')))).toBe('b/other.shp');
  });
  test('on a place that ignores case, in any letters; elsewhere in these only', () => {
    const m = new Relocations([{ from: at('Data/A.shp', 'stick'), to: at('x.shp', 'stick') }], places);
    expect(pathOf(m.of(at('data/a.SHP', 'stick')))).toBe('x.shp');
    expect(pathOf(moves(['Data/A.shp', 'x.shp']).of(at('data/A.shp')))).toBe('data/A.shp');
  });
  test('composed and decomposed letters are one name', () => {
    expect(pathOf(moves(['gr\u00fcn', 'x']).of(at('gru\u0308n/a')))).toBe('x/a');
  });
  const name = fc.constantFrom('a', 'b', 'c', 'd');
  const path = fc.array(name, { minLength: 1, maxLength: 4 }).map((p) => p.join('/'));
  test('law: there and back again is where it was, for whatever was not in the way', () => {
    fc.assert(
      fc.property(path, path, (from, tail) => {
        const there = moves([from, 'free/place']);
        const back = moves(['free/place', from]);
        const start = at(`${from}/${tail}`);
        expect(pathOf(back.of(there.of(start)))).toBe(pathOf(start));
      }),
    );
  });
  test('law: what is not below anything that moves stays the same object', () => {
    fc.assert(
      fc.property(path, path, (from, other) => {
        fc.pre(!`${other}/`.startsWith(`${from}/`));
        const location = at(other);
        expect(moves([from, 'elsewhere']).of(location)).toBe(location);
      }),
    );
  });
});

describe('what a move changes in a map', () => {
  const text = (hrefs: readonly string[]): string =>
    writeMapFile({
      id: 'm',
      title: 'M',
      updated: '2026-01-01T00:00:00Z',
      crs: null,
      storedForm: 'relative',
      layers: hrefs.map((href, i) => ({ id: `l${i}`, title: `L${i}`, format: 'shapefile' as const, href })),
    });
  const after = (hrefs: readonly string[], m: Relocations, map = 'maps/a.owc.json', actual = (l: Location): Location => l): string[] => {
    const file = must(parseMapFile('a', text(hrefs)));
    const { patches } = rewriteMap({ location: at(map), file }, m, places, actual);
    return must(parseMapFile('a', patchText(file.text, patches))).layers.map((l) => l.reference!.href);
  };
  test('references that reach it follow in their own form; others keep their bytes', () => {
    expect(
      after(['../data/a.shp', 'file:///D:/data/a.shp', '../data/b.shp', '../data/../data/c.shp'], moves(['data/a.shp', 'new/a b.shp'])),
    ).toEqual(['../new/a%20b.shp', 'file:///D:/new/a%20b.shp', '../data/b.shp', '../data/../data/c.shp']);
  });
  test('a map that moves keeps reaching its data; what moves along with it keeps its bytes', () => {
    expect(after(['../data/a.shp', 'beside.shp'], moves(['maps/a.owc.json', 'maps/old/a.owc.json']))).toEqual([
      '../../data/a.shp',
      '../beside.shp',
    ]);
    expect(after(['../data/a.shp', 'beside.shp'], moves(['maps', 'sheets']))).toEqual(['../data/a.shp', 'beside.shp']);
  });
  test('a table behind a # goes along; a service and an address of another machine stay', () => {
    const hrefs = ['../data/x.gpkg#my%20table', 'https://maps.example/wms?x=1', 'file:///Z:/data/x.gpkg'];
    expect(after(hrefs, moves(['data', 'sources']))).toEqual(['../sources/x.gpkg#my%20table', hrefs[1], hrefs[2]]);
  });
  test('to another place a relative reference becomes absolute, since no way leads there', () => {
    const m = new Relocations([{ from: at('data/a.shp'), to: at('a.shp', 'stick') }], places);
    expect(after(['../data/a.shp'], m)).toEqual(['file:///stick/a.shp']);
  });
  test('what a reference reaches through a link or in other letters counts as reached', () => {
    const actual = (l: Location): Location => (pathOf(l) === 'way/a.shp' ? at('data/a.shp') : l);
    expect(after(['../way/a.shp'], moves(['data/a.shp', 'new/a.shp']), 'maps/a.owc.json', actual)).toEqual(['../new/a.shp']);
  });
  test('a rename in letters only is written down', () => {
    expect(after(['../data/A.shp'], moves(['data/A.shp', 'data/a.shp']))).toEqual(['../data/a.shp']);
  });
});

describe('pictures that styles name', () => {
  const style = '<a><OnlineResource xlink:href="../marks/buoy &amp; light.svg"/><OnlineResource xlink:href="https://x.test/a.png"/></a>';
  const same = (l: Location): Location => l;
  const hrefs = (m: Relocations, from = 'p/styles/a.sld') => rewriteStyle(style, at(from), m, places, same)?.references.map((r) => r.after);
  test('the picture moves: its address follows, and only that', () => {
    const m = moves(['p/marks', 'p/symbols/sea']);
    expect(rewriteStyle(style, at('p/styles/a.sld'), m, places, same)!.text).toBe(
      style.replace('../marks/buoy &amp; light.svg', '../symbols/sea/buoy%20&amp;%20light.svg'),
    );
  });
  test('the style moves alone, both move, neither moves', () => {
    expect(hrefs(moves(['p/styles', 'p/maps/looks']))).toEqual(['../../marks/buoy%20&%20light.svg']);
    expect(hrefs(moves(['p', 'q']))).toBeUndefined();
    expect(hrefs(moves(['p/data', 'p/d']))).toBeUndefined();
  });
  test('a style within a map is told from the map, and stays JSON', () => {
    const inline = { name: 's', content: { type: 'application/vnd.ogc.sld+xml', content: style } };
    const text = JSON.stringify({
      type: 'FeatureCollection',
      features: [{ type: 'Feature', id: 'a', properties: { title: 'A', offerings: [{ contents: [], styles: [inline] }] } }],
    });
    const file = must(parseMapFile('a.owc.json', text));
    const { patches, references } = rewriteMap({ location: at('p/maps/a.owc.json'), file }, moves(['p/marks', 'p/m']), places, same);
    expect(references).toMatchObject([{ layer: 'a', title: 'a picture of A', after: '../m/buoy%20&%20light.svg' }]);
    expect(JSON.parse(patchText(text, patches)).features[0].properties.offerings[0].styles[0].content.content).toContain(
      'xlink:href="../m/buoy%20&amp;%20light.svg"',
    );
  });
});
