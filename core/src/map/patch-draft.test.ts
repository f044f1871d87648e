import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PLAIN_LABEL, PLAIN_RASTER, plainLook } from '../look/look.js';
import { draftWithoutLooks, writeDraft } from './patch-draft.js';
import { draftOf, type DraftLayer, type MapDraft } from './map-draft.js';
import { parseMapFile, type MapFile } from './map-file.js';
import type { NewLayer } from './write-map.js';

const read = (text: string): MapFile => {
  const result = parseMapFile('m.owc.json', text);
  if (!result.ok) throw new Error(JSON.stringify(result.problem));
  return result.value;
};
const FILE = `{
  "type": "FeatureCollection",
  "their_own": {"a": [1,   2]},
  "properties": {
    "title": "Moorings",
    "updated": "2025-01-01T00:00:00Z",
    "rootmap": { "crs": "EPSG:32624", "keep": true }
  },
  "features": [
    {
      "type": "Feature",
      "id": "a",
      "odd":   "spacing",
      "properties": {
        "title": "A",
        "maxScaleDenominator": 50000,
        "offerings": [{"code": "x", "contents": [{"href": "a.shp"}], "styles": [{"name": "s", "content": {"type": "t", "content": "<old/>"}}, {"name": "night"}]}],
        "rootmap": { "opacity": 0.5, "filter": "n > 1" }
      }
    },
    { "type": "Feature", "id": "b", "properties": { "title": "B", "offerings": [{"contents": [{"href": "b.shp"}]}] } },
    { "type": "Feature", "id": "c", "properties": { "title": "C", "folder": "base" }, "extra": null }
  ]
}
`;
const added = (l: DraftLayer): NewLayer => ({ id: l.id, title: l.title, format: 'geojson', href: '../n.geojson' });
const write = (text: string, edit: (d: MapDraft) => MapDraft, sld = '<new/>'): string => {
  const map = read(text);
  const before = draftWithoutLooks(map);
  return writeDraft(map, edit(before), { before, styleText: () => sld, added, updated: '2026-11-27T00:00:00Z' });
};
const layer = (d: MapDraft, id: string, more: Partial<DraftLayer>): MapDraft => ({
  ...d,
  layers: d.layers.map((l) => (l.id === id ? { ...l, ...more } : l)),
});
const linesThatDiffer = (after: string): string[] => {
  const old = new Set(FILE.split('\n'));
  return after
    .split('\n')
    .filter((l) => !old.has(l))
    .map((l) => l.trim());
};

describe('saving a draft', () => {
  test('nothing edited: not a byte differs', () => expect(write(FILE, (d) => d)).toBe(FILE));
  test('it is read with both spellings of the scale limit', () =>
    expect(draftWithoutLooks(read(FILE)).layers[0]).toMatchObject({ maxScale: 50000, minScale: null, opacity: 0.5, filter: 'n > 1' }));
  test('one title: its line and the time', () =>
    expect(linesThatDiffer(write(FILE, (d) => layer(d, 'a', { title: 'Beds "2026"' })))).toEqual([
      '"updated": "2026-11-27T00:00:00Z",',
      '"title": "Beds \\"2026\\"",',
    ]));
  test('what a style has no place for stands beside it, and comes back: a value that is not drawn, resampling, the range of three bands', () => {
    const bands = [4, 3, 2] as const;
    const look = { ...PLAIN_RASTER, bands, nodata: -9999, resampling: 'cubic' as const, stretch: { from: 10, to: 900 } };
    const after = write(FILE, (d) => layer(d, 'a', { look }));
    expect(after).toMatch(/"nodata": ?-9999/);
    expect(
      draftOf(
        read(after),
        () => ({ ...PLAIN_RASTER, bands }),
        () => null,
      ).layers[0]!.look,
    ).toEqual(look);
    expect(
      draftOf(
        read(after),
        () => plainLook('area'),
        () => null,
      ).layers[0]!.look,
    ).toEqual(plainLook('area'));
  });
  test('opacity back to full takes the member out, a limit keeps its spelling', () => {
    const after = write(FILE, (d) => layer(d, 'a', { opacity: 1, maxScale: 25000 }));
    expect(JSON.parse(after).features[0].properties).toMatchObject({ maxScaleDenominator: 25000, rootmap: { filter: 'n > 1' } });
    expect(after).not.toMatch(/opacity|maxscaledenominator/);
  });
  test('named views stand in the map, and the last one takes the member out', () => {
    const views = [{ name: 'Mouth', at: [-39.2, 43.98] as const, scale: 12_500 }];
    const kept = write(FILE, (d) => ({ ...d, views }));
    expect(draftWithoutLooks(read(kept)).views).toEqual(views);
    expect(kept).toContain('"keep": true');
    expect(write(kept, (d) => ({ ...d, views: [] }))).not.toContain('views');
    const odd = FILE.replace('"keep": true', '"views": [{"name": "x", "at": [1]}, {"at": [1, 2], "scale": 3}, 4]');
    expect(draftWithoutLooks(read(odd)).views).toEqual([]);
  });
  test('another order moves features as they are', () => {
    const after = write(FILE, (d) => ({ ...d, layers: [d.layers[2]!, d.layers[0]!, d.layers[1]!] }));
    expect(JSON.parse(after).features.map((f: { id: string }) => f.id)).toEqual(['c', 'a', 'b']);
    for (const f of read(FILE).layers) expect(after).toContain(FILE.slice(f.node.start, f.node.end));
    expect(after).toContain('"their_own": {"a": [1,   2]}');
  });
  test('a layer goes, another comes, in the manner of the file', () => {
    const fresh: DraftLayer = {
      id: 'n',
      title: 'New',
      folder: 'base/sea',
      active: false,
      opacity: 0.4,
      minScale: 1000,
      maxScale: null,
      filter: '',
      label: null,
      look: plainLook('point'),
      source: '/x',
    };
    const after = write(FILE, (d) => ({ ...d, layers: [fresh, ...d.layers.slice(1)] }));
    const [first] = JSON.parse(after).features;
    expect(first).toMatchObject({
      id: 'n',
      properties: { title: 'New', folder: 'base/sea', active: false, minscaledenominator: 1000, rootmap: { opacity: 0.4 } },
    });
    expect(first.properties.offerings[0].styles[0].content).toEqual({ type: 'application/vnd.ogc.sld+xml', content: '<new/>' });
    expect(after).toContain('\n    {\n      "type": "Feature",\n      "id": "n"');
    expect(after).not.toContain('"id": "a"');
  });
  test('a look is written into the first style, others stay', () => {
    const after = JSON.parse(write(FILE, (d) => layer(d, 'a', { look: plainLook('area') })));
    expect(after.features[0].properties.offerings[0].styles).toEqual([
      { name: 's', content: { type: 'application/vnd.ogc.sld+xml', content: '<new/>' } },
      { name: 'night' },
    ]);
  });
  test('title, CRS, view of the map', () => {
    const view = { center: [1.5, 2] as const, scale: 25000 };
    const after = JSON.parse(write(FILE, (d) => ({ ...d, title: 'M', summary: 'S', crs: null, storedForm: 'absolute', view })));
    expect(after.properties).toMatchObject({ title: 'M', abstract: 'S', rootmap: { crs: null, storedForm: 'absolute', view, keep: true } });
  });
});

const text = fc.constantFrom('', 'x', 'base/sea', '"', 'ö');
const anyLayer = fc.record({
  title: text,
  folder: fc.option(fc.constantFrom('g', 'g/h')),
  active: fc.boolean(),
  opacity: fc.constantFrom(0, 0.25, 1),
  minScale: fc.option(fc.constantFrom(100, 5000)),
  maxScale: fc.option(fc.constantFrom(10_000, 50_000)),
  filter: fc.constantFrom('', 'n > 1', "t = 'a'"),
  label: fc.option(fc.constantFrom({ ...PLAIN_LABEL, template: '{t}' })),
});

test('what is written is read as the draft, from a wide file and from one line; written again it stays', () => {
  fc.assert(
    fc.property(
      fc.shuffledSubarray(['a', 'b', 'c', 'n']),
      fc.array(anyLayer, { minLength: 4, maxLength: 4 }),
      fc.boolean(),
      (ids, more, isWide) => {
        const file = isWide ? FILE : JSON.stringify(JSON.parse(FILE));
        const map = read(file);
        const before = draftWithoutLooks(map);
        const draft: MapDraft = { ...before, layers: ids.map((id, i) => ({ ...more[i]!, id, look: null, source: null })) };
        const w = { before, styleText: () => null, added, updated: '2026-11-27T00:00:00Z' };
        const after = writeDraft(map, draft, w);
        const again = draftWithoutLooks(read(after));
        expect(again).toEqual(draft);
        expect(writeDraft(read(after), again, { ...w, before: again })).toBe(after);
        expect(after.trim().includes('\n')).toBe(isWide);
      },
    ),
    { seed: 64, numRuns: 200 },
  );
});
