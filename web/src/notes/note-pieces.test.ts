import { expect, test } from '@jest/globals';
import type { NoteBlock } from '@rootmap/core';
import { nextPlace, piecesOf, sentenceAt, startsOf } from './note-pieces.js';

const blocks: NoteBlock[] = [
  { kind: 'heading', text: 'About it' },
  { kind: 'text', text: 'Units: feet. Not for navigation.' },
];

test('a text is cut where marks begin and end; the strongest shows, and nothing is lost', () => {
  const pieces = piecesOf('0123456789', 100, [
    { from: 102, to: 106, kind: 'likely' },
    { from: 104, to: 108, kind: 'taken' },
    { from: 90, to: 101, kind: 'chosen' },
    { from: 200, to: 300, kind: 'chosen' },
    { from: 105, to: 105, kind: 'chosen' },
  ]);
  expect(pieces.map((p) => [p.at, p.text, p.kind])).toEqual([
    [100, '0', 'chosen'],
    [101, '1', null],
    [102, '23', 'likely'],
    [104, '45', 'taken'],
    [106, '67', 'taken'],
    [108, '89', null],
  ]);
  expect(piecesOf('plain', 0, [])).toEqual([{ at: 0, text: 'plain', kind: null }]);
});

test('the sentence at a place, and the next place of some words, round and round', () => {
  expect(startsOf(blocks)).toEqual([0, 9]);
  expect(sentenceAt(blocks, 12)).toEqual({ at: 9, words: 'Units: feet.' });
  expect(sentenceAt(blocks, 25)).toEqual({ at: 22, words: 'Not for navigation.' });
  expect(sentenceAt([], 3)).toBeNull();
  expect([nextPlace('a b A b', 'a', -1), nextPlace('a b A b', 'a', 0), nextPlace('a b A b', 'a', 4)]).toEqual([0, 4, 0]);
  expect([nextPlace('a', 'x', -1), nextPlace('a', ' ', -1)]).toEqual([null, null]);
});
