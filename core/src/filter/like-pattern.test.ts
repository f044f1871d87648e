import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { likePattern } from './like-pattern.js';

test.each([
  ['a%', 'abc', true],
  ['%c', 'abc', true],
  ['%b%', 'abc', true],
  ['a_c', 'abc', true],
  ['a_c', 'a💧c', true],
  ['a_', 'abc', false],
  ['', '', true],
  ['%', '', true],
  ['_', '', false],
  ['a%a', 'a', false],
  ['100\\%', '100%', true],
  ['100\\%', '1000', false],
  ['a\\b', 'a\\b', true],
  ['a\\\\b', 'a\\b', true],
])('%s and %s: %s', (pattern, text, matches) => expect(likePattern(pattern, false)(text)).toBe(matches));

test('case is ignored where that is asked for, in letters of one character', () => {
  expect(likePattern('STRAẞE%Σ', true)('straßen ς')).toBe(true);
  expect(likePattern('ABC', true)('abc')).toBe(true);
  expect(likePattern('ABC', false)('abc')).toBe(false);
});

test('as a regular expression says, over texts of few letters (ECMAScript, section 22.2)', () => {
  const letters = fc.string({ unit: fc.constantFrom('a', 'b', '%', '_'), maxLength: 8 });
  const text = fc.string({ unit: fc.constantFrom('a', 'b'), maxLength: 10 });
  fc.assert(
    fc.property(letters, text, (pattern, value) => {
      const source = pattern.replaceAll('%', '[\\s\\S]*').replaceAll('_', '[\\s\\S]');
      return likePattern(pattern, false)(value) === new RegExp(`^${source}$`, 'u').test(value);
    }),
    { seed: 2011, numRuns: 5000 },
  );
});

// CWE-1333: a regular expression of this pattern takes longer than anybody lives.
test('many wildcards over a long text end soon', () => {
  const matches = likePattern(`${'%a'.repeat(40)}b`, true);
  const texts = Array.from({ length: 20 }, (_, i) => 'a'.repeat(5000 + i));
  expect(texts.map(matches)).toEqual(texts.map(() => false));
}, 2000);
