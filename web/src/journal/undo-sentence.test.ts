import { expect, test } from '@jest/globals';
import type { UndoneView } from '@rootmap/core/contract';
import { undoSentence } from './undo-sentence';

const undone = (over: Partial<UndoneView> = {}): UndoneView => ({
  change: { id: 'x' } as never,
  isRedo: false,
  changes: 1,
  back: 2,
  kept: [],
  ...over,
});
const edited = (path: string) => ({ path, why: 'edited since' });

test('an undo says what it did, and no more', () => {
  expect(undoSentence(undone())).toBe('Undone: 2 files and folders put back.');
  expect(undoSentence(undone({ changes: 3, back: 12 }))).toBe('Undone: 12 files and folders of 3 changes put back.');
  expect(undoSentence(undone({ isRedo: true, back: 1 }))).toBe('Done again: 1 file or folder.');
  expect(undoSentence(undone({ kept: [edited('/a.shp')] }))).toBe(
    'Undone: 2 files and folders put back. 1 stays as it is: /a.shp (edited since).',
  );
  expect(undoSentence(undone({ kept: ['/a', '/b', '/c', '/d', '/e'].map(edited) }))).toBe(
    'Undone: 2 files and folders put back. 5 stay as they are: /a (edited since), /b (edited since), /c (edited since), and 2 more.',
  );
  expect(undoSentence(undone({ change: null, changes: 0, back: 0, kept: [edited('/a')] }))).toBe(
    'Nothing was undone. It stays as it is: /a (edited since).',
  );
  expect(undoSentence(undone({ change: null, changes: 0, back: 0 }))).toBe('There was nothing to undo.');
});
