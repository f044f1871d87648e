import { expect, test } from '@jest/globals';
import { withChanges } from './use-url-state.js';

const of = (text: string, changes: Parameters<typeof withChanges>[1]): string => withChanges(new URLSearchParams(text), changes).toString();

test('a parameter is set, taken out, or there several times; the others stay, and what was given is not changed', () => {
  const before = new URLSearchParams('a=1&b=2');
  expect(withChanges(before, { a: '3' }).toString()).toBe('b=2&a=3');
  expect(before.toString()).toBe('a=1&b=2');
  expect(of('a=1&b=2', { a: null })).toBe('b=2');
  expect(of('a=1&b=2', { a: '', b: [] })).toBe('');
  expect(of('in=x&b=2', { in: ['x', 'y'] })).toBe('b=2&in=x&in=y');
});
