import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { JsonStream, MAX_DEPTH } from './json-stream.js';
import { member, parseJsonTree, toValue } from './json-tree.js';
import { patchText } from './patch-text.js';

const tree = (text: string) => parseJsonTree('m.json', text);

describe('against JSON.parse (ECMA-404), on seeded random values', () => {
  test('the same value, whole and in pieces', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), fc.nat(4), fc.integer({ min: 1, max: 7 }), (value, indent, size) => {
        const text = JSON.stringify(value, null, indent);
        const whole = tree(text);
        expect(whole.ok && toValue(whole.value)).toEqual(JSON.parse(text));
        const events: unknown[] = [];
        const stream = new JsonStream({
          key: (k) => events.push(k),
          string: (s) => events.push(s),
          number: (n) => events.push(n),
          literal: (l) => events.push(l),
        });
        for (let i = 0; i < text.length; i += size) stream.write(text.slice(i, i + size));
        stream.end();
        const again: unknown[] = [];
        const one = new JsonStream({
          key: (k) => again.push(k),
          string: (s) => again.push(s),
          number: (n) => again.push(n),
          literal: (l) => again.push(l),
        });
        one.write(text);
        one.end();
        expect(events).toEqual(again);
      }),
      { seed: 1, numRuns: 800 },
    );
  });
  test('refuses whatever JSON.parse refuses, and nothing else', () => {
    const broken = fc
      .tuple(fc.jsonValue({ maxDepth: 3 }), fc.nat(200), fc.constantFrom('', ',', '}', ']', '"', '1', ':', '\u0000', 'x', '\\'))
      .map(([v, at, ch]) => {
        const text = JSON.stringify(v);
        return text.slice(0, at % (text.length + 1)) + ch + text.slice((at % (text.length + 1)) + 1);
      });
    fc.assert(
      fc.property(broken, (text) => {
        let valid = true;
        try {
          JSON.parse(text);
        } catch {
          valid = false;
        }
        expect(tree(text).ok).toBe(valid);
      }),
      { seed: 2, numRuns: 3000 },
    );
  });
});

test('a damaged text names line and column', () => {
  const result = tree('{\n  "a": [1,\n    2,,\n  ]\n}');
  expect(result).toEqual({ ok: false, problem: { code: 'bad-json', file: 'm.json', line: 3, column: 7, expected: 'a value' } });
  expect(tree('{"a": "b')).toMatchObject({ problem: { line: 1, column: 9, expected: 'the closing quote' } });
  expect(tree('')).toMatchObject({ problem: { line: 1, column: 1, expected: 'a value' } });
});

test('nesting without end is refused', () => {
  expect(tree('['.repeat(MAX_DEPTH + 1)).ok).toBe(false);
  expect(tree('['.repeat(MAX_DEPTH) + ']'.repeat(MAX_DEPTH)).ok).toBe(true);
});

test('tokens know where they stand, so that a patch touches nothing else', () => {
  const text = '{ "a" : "x\\u00e9" ,\r\n\t"b":[ 1e2, {"c":null} ] }';
  const result = tree(text);
  if (!result.ok) throw new Error('not read');
  const a = member(result.value, 'a')!;
  expect(text.slice(a.start, a.end)).toBe('"x\\u00e9"');
  expect(patchText(text, [{ start: a.start, end: a.end, text: '"y"' }])).toBe('{ "a" : "y" ,\r\n\t"b":[ 1e2, {"c":null} ] }');
  expect(() =>
    patchText(text, [
      { start: 0, end: 5, text: '' },
      { start: 3, end: 6, text: '' },
    ]),
  ).toThrow(/overlap/);
});

test('of a member that stands twice, the last counts, as in JSON.parse', () => {
  const result = tree('{"a":1,"a":2}');
  expect(result.ok && toValue(member(result.value, 'a')!)).toBe(2);
});

// CWE-407: a long string that comes in pieces was looked through again for each of them.
test('a string that comes in many pieces is looked through once, escapes at the seams included', () => {
  const seen: string[] = [];
  const stream = new JsonStream({ string: (value) => seen.push(value) });
  const text = `["${'x'.repeat(1000)}\\n\\"\\\\${'y'.repeat(1000)}\\u00e9"]`;
  for (const char of text) stream.write(char);
  stream.end();
  expect(seen).toEqual([JSON.parse(text)[0]]);
  const startedMs = performance.now();
  const long = new JsonStream({});
  long.write('["');
  for (let i = 0; i < 2000; i++) long.write('z'.repeat(4096));
  long.write('"]');
  long.end();
  expect(performance.now() - startedMs).toBeLessThan(10_000);
});

test('more values than any map has are refused before they take the memory', () => {
  expect(parseJsonTree('x', `[${'1,'.repeat(2_000_000)}1]`)).toMatchObject({ ok: false, problem: { code: 'too-many-values' } });
});
