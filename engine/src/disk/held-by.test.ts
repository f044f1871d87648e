import { expect, test } from '@jest/globals';
import { explain } from '@rootmap/core';
import { parseHolders } from './held-by.js';

test('programs are told once each, without this one; what is no list tells none', () => {
  const list = [
    { Id: 1, Name: 'Drawing table' },
    { Id: 2, Name: 'Drawing table' },
    { Id: 3, Name: ' ' },
    { Id: 9, Name: 'Root Map' },
    null,
  ];
  expect(parseHolders(JSON.stringify(list), 9)).toEqual(['Drawing table']);
  expect(parseHolders('{"Id":4,"Name":"Index of files"}', 9)).toEqual(['Index of files']);
  for (const text of ['', '[]', 'null', '3', 'The term is not recognized', '[{"Id":1,"Name":{}}]'])
    expect(parseHolders(text, 9)).toEqual([]);
});
test('at most three are named', () => {
  const list = ['a', 'b', 'c', 'd'].map((Name, Id) => ({ Id, Name }));
  expect(parseHolders(JSON.stringify(list), 9)).toEqual(['a', 'b', 'c']);
});
test('the sentence names them where they are known', () => {
  expect(explain({ code: 'busy', path: 'D:/a.gpkg', by: ['Drawing table', 'Index'] })).toBe(
    'D:/a.gpkg is held open by another program (Drawing table, Index). Close it there, then try again.',
  );
  expect(explain({ code: 'busy', path: 'D:/a.gpkg', by: [] })).toBe(
    'D:/a.gpkg is held open by another program. Close it there, then try again.',
  );
});
