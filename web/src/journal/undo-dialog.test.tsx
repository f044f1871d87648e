/** @jest-environment jsdom */
import { afterEach, expect, jest, test } from '@jest/globals';
import { fireEvent, screen, waitFor } from '@testing-library/react';
import type { UndoPreview } from '@rootmap/core/contract';
import { answerWith, show } from '../../test/render.js';

jest.unstable_mockModule('notistack', () => ({ enqueueSnackbar: jest.fn() }));
const { UndoDialogHost } = await import('./undo-dialog.js');
const { undoAndTell } = await import('./undo-flow.js');

const before = globalThis.fetch;
afterEach(() => void (globalThis.fetch = before));

const preview = (over: Partial<UndoPreview> = {}): UndoPreview => ({
  title: 'Undo: Move it',
  isRedo: false,
  digest: 'd'.repeat(64),
  back: [{ path: '/p/a.shp', what: 'moved' }],
  backCount: 1,
  kept: [],
  keptCount: 0,
  along: [],
  lost: [],
  ...over,
});
const undone = { body: { change: { id: 'u' }, isRedo: false, changes: 1, back: 1, kept: [] } };

test('what takes nothing from anybody is undone at once, as it was looked at', async () => {
  const asked = answerWith({ 'GET /api/journal/c/undo': { body: preview() }, 'POST /api/journal/c/undo': undone });
  show(<UndoDialogHost />);
  expect(await undoAndTell('c')).toBe(true);
  expect(asked.at(-1)).toEqual({ what: 'POST /api/journal/c/undo', body: { along: false, shown: 'd'.repeat(64) } });
  expect(screen.queryByRole('dialog')).toBeNull();
});

test('what stands on it, what stays and what is lost is shown first; nothing is done until it is agreed to', async () => {
  const shown = preview({
    along: [{ id: 'x', title: 'Save the map', createdMs: 0 }],
    kept: [{ path: '/p/b.txt', why: 'edited since' }],
    keptCount: 1,
    lost: [{ map: 'Harbour', layer: 'Piers', project: null }],
  });
  const asked = answerWith({ 'GET /api/journal/c/undo': { body: shown }, 'POST /api/journal/c/undo': undone });
  show(<UndoDialogHost />);
  const ended = undoAndTell('c');
  await screen.findByRole('dialog', { name: 'Undo: Move it' });
  expect(screen.getByText('1 later change stands on it, and goes along')).not.toBeNull();
  expect(screen.getByText('1 layer that is sound now will not be')).not.toBeNull();
  expect(screen.getByText('edited since')).not.toBeNull();
  expect(asked).toHaveLength(1);
  fireEvent.click(screen.getByRole('button', { name: 'Undo: 2 changes' }));
  expect(await ended).toBe(true);
  expect(asked.at(-1)!.body).toEqual({ along: true, shown: shown.digest });
});

test('what is done again is told as that, not as put back', async () => {
  const again = preview({
    title: 'Redo: Move it',
    isRedo: true,
    back: [{ path: '/p/a', what: 'moved' }],
    kept: [{ path: '/p/b', why: 'edited since' }],
  });
  answerWith({ 'GET /api/journal/c/undo': { body: again } });
  show(<UndoDialogHost />);
  const ended = undoAndTell('c');
  await screen.findByRole('dialog', { name: 'Redo: Move it' });
  expect(screen.getByText('moves again')).not.toBeNull();
  expect(screen.queryByText(/put back|moves back/)).toBeNull();
  expect(screen.getByRole('button', { name: 'Do again' })).not.toBeNull();
  fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  expect(await ended).toBe(false);
});

test('left, it does nothing; where nothing can come back there is nothing to agree to', async () => {
  const asked = answerWith({
    'GET /api/journal/c/undo': { body: preview({ back: [], backCount: 0, kept: [{ path: '/p', why: 'no longer there' }], keptCount: 1 }) },
  });
  show(<UndoDialogHost />);
  const ended = undoAndTell('c');
  await screen.findByText('Nothing of it can be put back now.');
  expect(screen.getByRole('button', { name: 'Undo' }).hasAttribute('disabled')).toBe(true);
  fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  expect(await ended).toBe(false);
  await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  expect(asked).toHaveLength(1);
});

test.each<[string, Partial<UndoPreview>]>([
  ['a later change', { along: [{ id: 'x', title: 'Save the map', createdMs: 0 }] }],
  ['something that stays', { kept: [{ path: '/p/b', why: 'edited since' }], keptCount: 1 }],
  ['a layer that is lost', { lost: [{ map: 'Harbour', layer: 'Piers', project: null }] }],
])('%s alone is asked about', async (_, over) => {
  const asked = answerWith({ 'GET /api/journal/c/undo': { body: preview(over) } });
  show(<UndoDialogHost />);
  const ended = undoAndTell('c');
  await screen.findByRole('dialog', { name: 'Undo: Move it' });
  fireEvent.click(screen.getByRole('button', { name: 'Cancel' }));
  expect([await ended, asked.length]).toEqual([false, 1]);
});
