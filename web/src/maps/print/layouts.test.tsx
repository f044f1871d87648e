/** @jest-environment jsdom */
import { afterEach, expect, test } from '@jest/globals';
import { act, renderHook } from '@testing-library/react';
import type { MapDraft } from '@rootmap/core/contract';
import { useLayouts, wishOf } from './layouts.js';
import { firstWish } from './page-wish.js';

afterEach(() => localStorage.clear());
const wish = {
  ...firstWish({ title: 'Beds' } as MapDraft, null),
  paper: 'A1',
  grid: 'degrees',
  notes: [{ text: 'For the board', place: 'upper-middle' }],
} as const;

/** A layout as the browser has it, but for its texts. */
const KEPT = { name: 'a', paper: 'A4', isWide: true, dpi: 200, format: 'pdf', has: { legend: true, bar: true, north: true }, grid: 'none' };

test('a layout keeps what is the same for other maps, and not the title, scale or file of this one', () => {
  const { result } = renderHook(useLayouts);
  act(() => result.current.keep('Wall sheet', wish));
  const [layout] = result.current.layouts;
  expect(wishOf(layout!)).toEqual({
    paper: 'A1',
    isWide: true,
    dpi: 200,
    format: 'pdf',
    has: { legend: true, bar: true, north: true, locator: false },
    grid: 'degrees',
    notes: [{ text: 'For the board', place: 'upper-middle' }],
    legendColumns: 1,
  });
  act(() => result.current.keep('Wall sheet', { ...wish, paper: 'A0' }));
  expect(result.current.layouts.map((l) => [l.name, l.paper])).toEqual([['Wall sheet', 'A0']]);
  act(() => result.current.drop('Wall sheet'));
  expect(result.current.layouts).toEqual([]);
});

test('what is kept in another form is left out, and the rest stays', () => {
  const good = { ...KEPT, note: '' };
  const odd = [{ ...good, paper: 'B5' }, { ...good, dpi: 1 }, { ...good, has: null }, null, 3];
  localStorage.setItem('rootmap.layouts', JSON.stringify([...odd, good]));
  expect(renderHook(useLayouts).result.current.layouts).toEqual([good]);
});

test('the one text of a layout that was kept before stands where it stood', () => {
  localStorage.setItem('rootmap.layouts', JSON.stringify([{ ...KEPT, note: 'Draft' }, { ...KEPT, name: 'b', notes: [{ text: 'x', place: 'nowhere' }] }])); // prettier-ignore
  const { layouts } = renderHook(useLayouts).result.current;
  expect(layouts.map((l) => l.name)).toEqual(['a']);
  expect(wishOf(layouts[0]!).notes).toEqual([{ text: 'Draft', place: 'lower-left' }]);
});
