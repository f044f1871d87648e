import { describe, expect, test } from '@jest/globals';
import { farBounds } from './robust.js';
import { checked } from './quality-check.js';
import { byElement, isSameSubject, parseSheets, stateOfSheet, writeSheets, type QualitySheet } from './quality-sheet.js';
import { Hash64, SeenBefore } from './same.js';
import { SampledColumn } from './sampled-column.js';
import { scaleBorne, scaleWords } from './scale.js';
import { histogramOf } from './profile.js';
import { codesOf, withCodes } from '../origin/codes.js';
import type { Resource } from '../origin/origin.js';

describe('a column of numbers', () => {
  test('is held whole, then every second record, and knows which record each is of', () => {
    const column = new SampledColumn(8);
    for (let i = 0; i < 8; i++) column.add(i);
    expect([column.stride, [...column.held()]]).toEqual([1, [0, 1, 2, 3, 4, 5, 6, 7]]);
    for (let i = 8; i < 20; i++) column.add(i);
    expect(column.stride).toBe(4);
    expect([...column.held()].map((v, i) => v + 1 === column.recordOf(i))).toEqual([true, true, true, true, true]);
  });
  test('sorts what is a number', () => {
    const column = new SampledColumn(8);
    for (const v of [3, NaN, 1, Infinity, 2]) column.add(v);
    expect([...column.sorted()]).toEqual([1, 2, 3]);
  });
});

test('far from the others by median and MAD; where more than half are the same nothing is said', () => {
  const bounds = farBounds(Float64Array.from([1, 2, 3, 4, 5]))!; // median 3, MAD 1
  expect([bounds.median, bounds.high]).toEqual([3, 3 + 3.5 / 0.6745]);
  expect([farBounds(Float64Array.from([1, 1, 1, 9])), farBounds(new Float64Array())]).toEqual([null, null]);
});

test('what was there before is told by its bytes; texts that run together are others', () => {
  const [seen, hash] = [new SeenBefore(), new Hash64()];
  const of = (...texts: string[]): boolean => seen.again(texts.reduce((h, t) => h.text(t), hash.reset()));
  expect([of('ab', 'c'), of('a', 'bc'), of('ab', 'c'), of('abc')]).toEqual([false, false, true, false]);
  const many = new SeenBefore();
  expect(Array.from({ length: 100_000 }, (_, i) => many.again(hash.reset().text(String(i)))).filter(Boolean)).toEqual([]);
});

test('scales, rounded as they are named', () => {
  expect([1, 12.3, 0.37, 30].map((m) => scaleWords(scaleBorne(m)))).toEqual(['1:2 000', '1:25 000', '1:740', '1:60 000']);
});

describe('sheets', () => {
  const of = { hash: 'sha256:a', bytes: 10, modifiedMs: 5 };
  const checks = [
    checked('crs', 'fail', [1, 1], 'None.'),
    checked('age', 'pass', [0, 1], 'New.'),
    checked('metadata', 'note', [2, 9], 'Some.'),
  ];
  const review = {
    elements: { positional: { fitness: 'fit' as const, words: 'seen' } },
    accuracy: '',
    fitFor: 'all',
    name: 'A',
    date: '2026-01-01',
    of,
  };
  const fields = [{ name: 'a', type: 'real', filled: 3, of: 4, histogram: { from: 0, to: 2, counts: [1, 2], stride: 1 } }];
  const sheet: QualitySheet = { table: 't', linked: null, computed: { at: '2026-01-01T00:00:00.000Z', of, checks, fields }, review };

  test('are read as they were written', () => {
    const linked = { ...sheet, table: null, linked: { link: 'base', path: 'a/b.shp' }, review: null };
    const read = parseSheets('x', writeSheets([sheet, linked]));
    expect(read).toEqual({ ok: true, value: [sheet, linked] });
    expect([isSameSubject(sheet, linked), isSameSubject(linked, { ...linked })]).toEqual([false, true]);
  });
  test.each(['', '[]', 'null', '{"format":"rootmap-quality/1"}', '{"format":"rootmap-quality/2","sheets":[]}'])(
    'nonsense is told: %j',
    (text) => expect(parseSheets('x', text)).toMatchObject({ ok: false, problem: { code: 'wrong-shape', file: 'x' } }),
  );
  test('what is edited within is left out, and the rest stays', () => {
    const odd = {
      format: 'rootmap-quality/1',
      sheets: [
        3,
        {
          table: 7,
          computed: {
            of,
            at: 1,
            checks: [
              { code: 'toString', result: 'pass' },
              { code: 'crs', result: 'worse' },
              { ...checks[0], examples: [{ at: ['<b>', 2], what: '<script>' }] },
            ],
            fields: [{ name: 7, histogram: { counts: ['x'] } }, null],
          },
          review: { ...review, elements: { positional: { fitness: 'great' }, age: 4, __proto__: {} } },
        },
      ],
    };
    const read = parseSheets('x', JSON.stringify(odd));
    expect(read.ok && read.value).toMatchObject([
      {
        table: null,
        computed: {
          at: '',
          checks: [{ code: 'crs', examples: [{ record: null, at: null, what: '<script>' }] }],
          fields: [{ name: '', histogram: null }],
        },
        review: { elements: {} },
      },
    ]);
  });
  test('how they stand to the data, and the worst of each element', () => {
    expect([
      stateOfSheet(null, of),
      stateOfSheet({ ...sheet, review: null }, of),
      stateOfSheet(sheet, of),
      stateOfSheet(sheet, { hash: 'sha256:b' }),
    ]).toEqual(['none', 'computed', 'reviewed', 'out-of-date']);
    expect(byElement(checks)).toEqual({ metadata: 'fail', temporal: 'pass' });
  });
});

test('histograms: every number is in one step, and a few or none are no trouble', () => {
  const numbers = Float64Array.from({ length: 1000 }, (_, i) => (i * 7919) % 1000).sort();
  const { from, to, counts } = histogramOf(numbers)!;
  expect([from, to, counts.reduce((a, b) => a + b)]).toEqual([0, 999, 1000]);
  expect(counts.length).toBe(10); // 2 · 500 / 1000^(1/3) = 100 wide
  expect(histogramOf(new Float64Array())).toBeNull();
  expect(histogramOf(Float64Array.of(3, 3))).toEqual({ from: 3, to: 3, counts: [2], stride: 1 });
  expect(histogramOf(Float64Array.of(0, 0, 0, 0, 0, 0, 0, 0, 1e300))!.counts.at(-1)).toBe(1);
});

test('codes of a Table Schema are written, read and taken away, and the rest of the record stays', () => {
  const resource = {
    name: 'a',
    schema: { missingValues: [''], fields: [{ name: 'kind', type: 'string', constraints: { required: true } }] },
  };
  const listed = withCodes(withCodes(resource, 'kind', ['a', '<b>']), 'depth', ['1']);
  expect([...codesOf(JSON.parse(JSON.stringify(listed)) as Resource)]).toEqual([
    ['kind', ['a', '<b>']],
    ['depth', ['1']],
  ]);
  expect(withCodes(withCodes(resource, 'kind', ['a']), 'kind', [])).toEqual(resource);
  expect([...codesOf({ schema: { fields: [{ name: 'n', constraints: { enum: [1, true, null, 'x'] } }, 3] } })]).toEqual([
    ['n', ['1', 'true', 'x']],
  ]);
  expect(codesOf({ schema: 4 }).size).toBe(0);
});
