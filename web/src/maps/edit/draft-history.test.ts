import { expect, test } from '@jest/globals';
import type { MapDraft } from '@rootmap/core/contract';
import { draftLayer } from '../../../test/draft-layer.js';
import { changesOf, openDraft, stepDraft, type DraftHistory } from './draft-history.js';

const layer = (id: string, title = id) => draftLayer({ id, title });
const draft: MapDraft = { title: 'M', summary: '', crs: null, storedForm: null, view: null, views: [], layers: [layer('a'), layer('b')] };
const edit = (h: DraftHistory, d: MapDraft, what: string | null = null): DraftHistory => stepDraft(h, { type: 'edit', draft: d, what });

test('steps are taken back and done again; a new step forgets those taken back', () => {
  let h = edit(edit(openDraft(draft), { ...draft, title: 'N' }), { ...draft, title: 'O' });
  h = stepDraft(h, { type: 'undo' });
  expect([h.now.title, changesOf(h)]).toEqual(['N', 1]);
  h = stepDraft(h, { type: 'redo' });
  expect(h.now.title).toBe('O');
  h = edit(stepDraft(h, { type: 'undo' }), { ...draft, summary: 'S' });
  expect(h.future).toEqual([]);
  h = stepDraft(stepDraft(stepDraft(h, { type: 'undo' }), { type: 'undo' }), { type: 'undo' });
  expect([h.now, changesOf(h)]).toEqual([draft, 0]);
});

test('typing in one field is one step', () => {
  let h = edit(edit(openDraft(draft), { ...draft, title: 'N' }, 'title'), { ...draft, title: 'No' }, 'title');
  h = stepDraft(h, { type: 'undo' });
  expect(h.now).toEqual(draft);
});

test('what is counted as unsaved: a layer edited, one gone, one new, another order; where one looks is not', () => {
  const count = (now: MapDraft): number => changesOf(edit(openDraft(draft), now));
  expect(count({ ...draft, layers: [layer('a', 'x'), layer('b')] })).toBe(1);
  expect(count({ ...draft, layers: [layer('b'), layer('a')] })).toBe(1);
  expect(count({ ...draft, layers: [layer('b'), layer('n')] })).toBe(2);
  expect(count({ ...draft, view: { center: [0, 0], scale: 1 } })).toBe(0);
  const saved = stepDraft(edit(openDraft(draft), { ...draft, title: 'N' }), { type: 'saved', draft: { ...draft, title: 'N' } });
  expect(changesOf(saved)).toBe(0);
});
