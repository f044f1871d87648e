import { expect, test } from '@jest/globals';
import { parseFilter } from '../filter/parse-filter.js';
import { fieldsOf } from '../filter/expression.js';
import { patchText } from '../json/patch-text.js';
import { must } from '../problem.js';
import { parseMapFile } from './map-file.js';
import { fieldUses, patchFields, renameInFilter, renameInStyle, renameInTemplate } from './rename-fields.js';

const names = new Map([
  ['cover', 'COVER_PCT'],
  ['name', 'bed "A"'],
  ['year', 'in'],
]);

test('a filter keeps its texts, keywords, functions and other fields', () => {
  const before = `cover > 10 AND "name" LIKE 'cover name%' or year(depth) = 4 and year is not null and "Cover" = cover`;
  const after = renameInFilter(before, names);
  expect(after).toBe(`COVER_PCT > 10 AND "bed ""A""" LIKE 'cover name%' or year(depth) = 4 and "in" is not null and "Cover" = COVER_PCT`);
});

test('what comes out is a filter (OGC 21-065r2 as it is parsed here) on the new fields', () => {
  const parsed = parseFilter(renameInFilter(`cover > 10 and name = 'x' and year in (1, 2)`, names));
  expect(parsed.ok && fieldsOf(parsed.condition)).toEqual(['COVER_PCT', 'bed "A"', 'in']);
});

test('names are changed at once: two that change places do', () => {
  const swap = new Map([
    ['a', 'b'],
    ['b', 'a'],
  ]);
  expect(renameInFilter('a < b', swap)).toBe('b < a');
  expect(renameInTemplate('{a} of { b }', swap)).toBe('{b} of {a}');
  expect(renameInStyle('<PropertyName>a</PropertyName><PropertyName>b</PropertyName>', swap)).toBe(
    '<PropertyName>b</PropertyName><PropertyName>a</PropertyName>',
  );
});

test('a style: PropertyName (SLD 1.0) and ValueReference (FES 2.0) under any prefix; literals stay; names are escaped', () => {
  const style = '<ogc:PropertyName>cover</ogc:PropertyName><ogc:Literal>cover</ogc:Literal><fes:ValueReference> name </fes:ValueReference>';
  expect(
    renameInStyle(
      style,
      new Map([
        ['cover', 'a<b&c'],
        ['name', 'n'],
      ]),
    ),
  ).toBe('<ogc:PropertyName>a&lt;b&amp;c</ogc:PropertyName><ogc:Literal>cover</ogc:Literal><fes:ValueReference>n</fes:ValueReference>');
});

const STYLE = '<PropertyName>cover</PropertyName>';
const map = (ours: unknown): string =>
  JSON.stringify(
    {
      type: 'FeatureCollection',
      features: [
        {
          type: 'Feature',
          id: 'beds',
          properties: { title: 'cover', offerings: [{ code: 'x', styles: [{ content: { content: STYLE } }] }], rootmap: ours },
        },
        { type: 'Feature', id: 'other', properties: { title: 'cover', rootmap: ours } },
      ],
    },
    null,
    2,
  );

test.each([
  [
    { filter: 'cover > 1', label: '{cover} %' },
    { filter: 'COVER_PCT > 1', label: '{COVER_PCT} %' },
  ],
  [
    { filter: { expression: 'cover > 1' }, label: { template: '{cover}', size: 9 } },
    { filter: { expression: 'COVER_PCT > 1' }, label: { template: '{COVER_PCT}', size: 9 } },
  ],
  [{ label: { field: 'cover' } }, { label: { field: 'COVER_PCT' } }],
])('one layer is patched in filter, label and style, the other stays: %j', (before, after) => {
  const text = map(before);
  const file = must(parseMapFile('m', text));
  const patched = patchText(text, patchFields(file.layers[0]!, names));
  const [beds, other] = JSON.parse(patched).features;
  expect(beds.properties.rootmap).toEqual(after);
  expect(beds.properties.offerings[0].styles[0].content.content).toBe('<PropertyName>COVER_PCT</PropertyName>');
  expect([beds.properties.title, other.properties.rootmap]).toEqual(['cover', before]);
  expect(must(parseMapFile('m', patched)).layers[0]!.needs).toEqual(['COVER_PCT']);
});

test('which part uses a field', () => {
  const file = must(parseMapFile('m', map({ filter: 'cover > 1 and depth < 3', label: '{name}' })));
  expect([...fieldUses(file.layers[0]!, ['<PropertyName>depth</PropertyName>'])]).toEqual([
    ['cover', ['filter', 'style']],
    ['depth', ['filter', 'style']],
    ['name', ['label']],
  ]);
});

test('where nothing is renamed, nothing is patched', () => {
  const file = must(parseMapFile('m', map({ filter: 'cover > 1' })));
  expect(patchFields(file.layers[0]!, new Map([['depth', 'z']]))).toEqual([]);
});
