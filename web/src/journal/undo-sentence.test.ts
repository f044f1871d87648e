import { expect, test } from '@jest/globals';
import { undoSentence } from './undo-sentence';

const change = { id: 'x' } as never;

test('an undo says what it did, and no more', () => {
  expect(undoSentence({ kept: [], change })).toBe('Undone. Every file is as it was before.');
  expect(undoSentence({ kept: ['/a.shp'], change })).toBe('Undone, but for 1 file that was changed since and stays: /a.shp.');
  expect(undoSentence({ kept: ['/a', '/b', '/c', '/d', '/e'], change })).toBe(
    'Undone, but for 5 files that were changed since and stay: /a, /b, /c, and 2 more.',
  );
  expect(undoSentence({ kept: ['/a'], change: null })).toBe('Nothing was undone: 1 file was changed since (/a).');
  expect(undoSentence({ kept: [], change: null })).toBe('There was nothing to undo.');
});
