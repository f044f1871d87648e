/** @jest-environment jsdom */
import { expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import type { MapDocView, MapDraft } from '@rootmap/core/contract';
import { openDraft } from './draft-history.js';
import { useFileChanges } from './use-file-changes.js';

const draft: MapDraft = { title: 'M', summary: '', crs: null, storedForm: null, view: null, views: [], layers: [] };
const nothing = (): void => undefined;

test('who else has the map open is told every few seconds; the editor is drawn anew only where that changed', () => {
  const doc = { draft, base: 'b', others: [{ who: 'Ada', hasChanges: false }] } as unknown as MapDocView;
  let drawn = 0;
  const { result } = renderHook(() => {
    drawn++;
    const under = { doc, base: 'b', isSaving: false, history: openDraft(draft), send: nothing };
    return useFileChanges({ ...under, setBase: nothing, setConflicts: nothing, setMerged: nothing });
  });
  const tell = (hasChanges: boolean): void => act(() => result.current.set([{ who: 'Ada', hasChanges }]));
  const before = drawn;
  tell(false);
  expect(drawn).toBe(before);
  tell(true);
  expect(drawn).toBeGreaterThan(before);
  expect(result.current.now).toEqual([{ who: 'Ada', hasChanges: true }]);
});
