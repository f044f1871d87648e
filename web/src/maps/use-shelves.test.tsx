/** @jest-environment jsdom */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { act, renderHook, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { plainLook } from '@rootmap/core';
import type { KeptLook, MapDraft, PageLayout, ShelvesView } from '@rootmap/core/contract';
import { told } from '../../test/notistack.js';
import { firstWish } from './print/page-wish.js';
import { layoutOf, wishOf } from './print/layouts.js';
import { useShelves } from './use-shelves.js';

/** A server that keeps what it is given, and refuses a layout of a paper that it does not know. */
let kept: ShelvesView;
const before = globalThis.fetch;
beforeEach(() => {
  kept = { layouts: [], looks: [] };
  globalThis.fetch = (async (input: string, { method = 'GET', body }: RequestInit = {}) => {
    const [, shelf, name] = /^\/api\/shelves(?:\/(layouts|looks))?(?:\?name=(.*))?$/.exec(input)!;
    const of = shelf as keyof ShelvesView;
    const item = typeof body === 'string' ? (JSON.parse(body) as PageLayout & KeptLook) : null;
    if (item && of === 'layouts' && !item.has.legend)
      return { status: 400, ok: false, json: async () => ({ status: 400, detail: 'No legend.' }) };
    const gone = item?.name ?? (method === 'DELETE' ? decodeURIComponent(name!) : null);
    if (of) kept = { ...kept, [of]: [...kept[of].filter((k) => k.name !== gone), ...(item ? [item] : [])] };
    return { status: 200, ok: true, json: async () => kept };
  }) as typeof fetch;
});
afterEach(() => {
  globalThis.fetch = before;
  localStorage.clear();
});

const shelves = () => {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const wrapper = ({ children }: { children: ReactNode }) => <QueryClientProvider client={client}>{children}</QueryClientProvider>;
  return renderHook(useShelves, { wrapper });
};
const wish = {
  ...firstWish({ title: 'Beds' } as MapDraft, null),
  paper: 'A1',
  grid: 'degrees',
  notes: [{ text: 'For the board', place: 'upper-middle' }],
} as const;
const look = (name: string): KeptLook => ({ name, kind: 'area', look: plainLook('area'), label: null });

test('a layout keeps what is the same for other maps, and not the title, scale or file of this one', () => {
  expect(wishOf(layoutOf('Wall sheet', wish))).toEqual({
    paper: 'A1',
    isWide: true,
    dpi: 200,
    format: 'pdf',
    has: { legend: true, bar: true, north: true, locator: false },
    grid: 'degrees',
    notes: [{ text: 'For the board', place: 'upper-middle' }],
    legendColumns: 1,
  });
});

test('one layout and one look a name; what is dropped goes; a refusal is told in its words', async () => {
  const { result } = shelves();
  act(() => result.current.keepLayout(layoutOf('Wall sheet', wish)));
  act(() => result.current.keepLayout(layoutOf('Wall sheet', { ...wish, paper: 'A0' })));
  act(() => result.current.keepLook(look('Mud')));
  await waitFor(() => expect(result.current.looks.map((l) => l.name)).toEqual(['Mud']));
  expect(result.current.layouts.map((l) => [l.name, l.paper])).toEqual([['Wall sheet', 'A0']]);
  act(() => result.current.dropLook('Mud'));
  await waitFor(() => expect(result.current.looks).toEqual([]));
  act(() => result.current.keepLayout(layoutOf('Bare', { ...wish, has: { ...wish.has, legend: false } })));
  await waitFor(() => expect(told.at(-1)).toBe('No legend.'));
  act(() => result.current.dropLayout('Wall sheet'));
  await waitFor(() => expect(result.current.layouts).toEqual([]));
});

test('what this browser kept goes to the server once, under free names; what is no layout is left out', async () => {
  kept = { layouts: [layoutOf('Board', wish)], looks: [] };
  // As browsers had it: one text, no map of the region, no columns.
  const old = { name: 'Board', paper: 'A4', isWide: true, dpi: 200, format: 'pdf', grid: 'none', note: 'Draft' };
  const has = { legend: true, bar: true, north: true };
  localStorage.setItem(
    'rootmap.layouts',
    JSON.stringify([{ ...old, has }, { ...old, name: 'odd', has: null }, null, 3, { ...old, name: 'Notes', has, note: '' }]),
  );
  localStorage.setItem('rootmap.looks', JSON.stringify([look('Mud')]));
  const { result } = shelves();
  await waitFor(() => expect(result.current.looks.map((l) => l.name)).toEqual(['Mud']));
  expect(result.current.layouts.map((l) => [l.name, l.notes, l.has.locator, l.legendColumns])).toEqual([
    ['Board', wish.notes, false, 1],
    ['Board (2)', [{ text: 'Draft', place: 'lower-left' }], false, 1],
    ['Notes', [], false, 1],
  ]);
  expect([localStorage.getItem('rootmap.layouts'), localStorage.getItem('rootmap.looks')]).toEqual([null, null]);
});

test('where the server is lost on the way, what has gone there does not go again', async () => {
  localStorage.setItem('rootmap.looks', JSON.stringify([look('Beds'), look('Mud')]));
  const answers = globalThis.fetch;
  globalThis.fetch = ((input: string, init?: RequestInit) =>
    typeof init?.body === 'string' && init.body.includes('Mud')
      ? Promise.reject(new TypeError('lost'))
      : answers(input, init)) as typeof fetch;
  const { result } = shelves();
  await waitFor(() => expect(result.current.error).not.toBeNull());
  expect(JSON.parse(localStorage.getItem('rootmap.looks')!)).toEqual([look('Mud')]);
  globalThis.fetch = answers;
  const again = shelves();
  await waitFor(() => expect(again.result.current.looks.map((l) => l.name)).toEqual(['Beds', 'Mud']));
});

test.each(['{', '3', '[3, null]'])('what a browser kept as %s does no harm', async (text) => {
  localStorage.setItem('rootmap.layouts', text);
  localStorage.setItem('rootmap.looks', text);
  kept = { layouts: [], looks: [look('Mud')] };
  const { result } = shelves();
  await waitFor(() => expect(result.current.looks).toHaveLength(1));
  expect(result.current.layouts).toEqual([]);
});
