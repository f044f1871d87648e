/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import type { ChangeView } from '@rootmap/core/contract';
import { cleanup, screen, waitFor } from '@testing-library/react';
import { answerWith, show } from '../../test/render.js';
import { ChangesList } from './changes-list.js';

afterEach(cleanup);
const change = (n: number, state: ChangeView['state'] = 'done'): ChangeView =>
  ({ id: `c${n}`, title: `Change ${n}`, kind: 'move', who: 'me', createdMs: Date.UTC(2026, 1, n), state, isWaiting: false, note: null, files: [], fileCount: 1, canUndo: false, redo: null }); // prettier-ignore

test('the newest few, what was undone told apart, and the way to the rest of them', async () => {
  const asked = answerWith({ 'GET /api/journal': { body: [change(9, 'undone'), ...[8, 7, 6, 5, 4, 3].map((n) => change(n))] } });
  show(<ChangesList title="Brought in before" kind="intake" project="k" empty="Nothing yet." />);
  await waitFor(() => expect(screen.getAllByRole('listitem')).toHaveLength(6));
  const [first, second] = screen.getAllByRole('listitem');
  expect(first!.textContent).toMatch(/Change 9undone$/);
  expect(second!.textContent).toMatch(/Change 8$/);
  expect(asked[0]!.what).toMatch(/kind=intake/);
  expect(screen.getByRole('link').getAttribute('href')).toBe('/journal?kind=intake&project=k');
});

test('where there is none, that is said; while nobody knows, nothing is', async () => {
  answerWith({ 'GET /api/journal': { body: [] } });
  show(<ChangesList title="Changed last" empty="Nothing yet." />);
  expect(screen.queryByText('Nothing yet.')).toBeNull();
  await waitFor(() => expect(screen.getByText('Nothing yet.')).toBeTruthy());
  expect(screen.getByRole('link').getAttribute('href')).toBe('/journal');
});
