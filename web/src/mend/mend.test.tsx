/** @jest-environment jsdom */
import { afterEach, describe, expect, test } from '@jest/globals';
import { cleanup, fireEvent, render, screen, within } from '@testing-library/react';
import { MemoryRouter } from 'react-router';
import type { DeletionView, FactsView, MendLayerView, MendProjectView } from '@rootmap/core/contract';
import { bestOf } from './choices';
import { Facts } from './facts-table';
import { Known } from './known-of';
import { mapsOf, ofMap } from './of-map';
import { RewriteList } from './rewrite-list';
import { WhatRemains } from './what-remains';

afterEach(cleanup);

const facts = (over: Partial<FactsView> = {}): FactsView => ({
  format: 'shapefile',
  geometry: 'Polygon',
  count: 17,
  vertices: 240,
  crs: 'EPSG:32624',
  modified: '2026-02-11T10:30:00Z',
  hash: 'sha256:0123456789abcdef',
  extent: [1, 2, 3, 4],
  grid: null,
  fields: [
    ['id', 'integer'],
    ['name', 'text'],
  ],
  ...over,
});
const layer = (key: string, over: Partial<MendLayerView> = {}): MendLayerView => ({
  key,
  map: '/maps/a.owc.json',
  mapTitle: 'A',
  layer: key,
  title: key,
  stored: 'relative',
  reach: 'inside',
  recordedFolder: 'old',
  resolved: `/old/${key}`,
  before: { href: `../old/${key}`, state: 'adrift' },
  after: { href: `../new/${key}`, state: 'sound' },
  verdict: 'certain',
  shift: null,
  choice: null,
  packedIn: null,
  remembered: null,
  needs: [],
  candidates: [
    {
      href: `../new/${key}`,
      path: `/new/${key}`,
      shownPath: `new/${key}`,
      score: 1,
      evidence: [],
      leavesProject: false,
      usedBy: [],
      origin: null,
      facts: facts(),
    },
  ],
  trouble: { code: 'folder-moved', sentence: 'Moved.', fix: 'Written anew.' },
  usedBy: [],
  indexLost: null,
  tableLost: null,
  origin: null,
  lastSeenMs: null,
  ...over,
});
const view = (layers: readonly MendLayerView[]): MendProjectView => ({
  layers,
  shifts: [],
  styles: [
    { key: 's', map: '/maps/a.owc.json', title: 's', mapTitle: 'A', before: 'x.sld', after: null, verdict: 'none', evidence: [] },
    { key: 't', map: '/maps/b.owc.json', title: 't', mapTitle: 'B', before: 'x.sld', after: null, verdict: 'none', evidence: [] },
  ],
  damaged: [],
  searched: { folders: [], datasets: 0, isStopped: false, isWider: false, projects: [] },
});

describe('one map of several', () => {
  const both = view([layer('a'), layer('b', { map: '/maps/b.owc.json', mapTitle: 'B' }), layer('c')]);
  test('its layers and styles alone; all again where nothing is wrong in it any longer', () => {
    expect(ofMap(both, '/maps/b.owc.json')).toMatchObject({ layers: [{ key: 'b' }], styles: [{ key: 't' }] });
    expect(ofMap(both, '/maps/gone.owc.json')).toBe(both);
    expect(ofMap(both, null)).toBe(both);
  });
  test('maps by title, with how much is wrong in each', () => {
    expect(mapsOf(both)).toEqual([
      { path: '/maps/a.owc.json', title: 'A', layers: 2 },
      { path: '/maps/b.owc.json', title: 'B', layers: 1 },
    ]);
  });
});

test('a choice says which address it takes the place of', () => {
  expect(bestOf([layer('a')])).toEqual([{ key: 'a', path: '/new/a', before: '../old/a' }]);
});

describe('numbers and fields side by side', () => {
  const rowOf = (name: RegExp): string[] =>
    within(screen.getByRole('row', { name }))
      .getAllByRole('cell')
      .map((c) => c.textContent);
  test('what differs is marked by a sign, not by colour alone', () => {
    render(<Facts remembered={facts()} found={facts({ count: 18, fields: facts().fields })} needs={[]} />);
    expect(rowOf(/Records/)).toEqual(['17', '18 ≠']);
    expect(rowOf(/Vertices/)).toEqual(['240', '240']);
  });
  test('fields that agree are told in a sentence and shown on request, those that are needed named', () => {
    render(<Facts remembered={facts()} found={facts()} needs={['name']} />);
    expect(screen.queryByRole('row', { name: /name/ })).toBeNull();
    expect(screen.getByText('All 2 fields agree')).not.toBeNull();
    fireEvent.click(screen.getByRole('button', { name: 'Show the fields' }));
    expect(rowOf(/name · needed/)).toEqual(['text', 'text']);
  });
  test('fields that differ are shown at once, also one that is needed and nowhere', () => {
    render(<Facts remembered={facts()} found={facts({ fields: [['id', 'text']] })} needs={['cover']} />);
    expect(screen.getByText(/fields? of 3 differ/)).not.toBeNull();
    expect(rowOf(/^id/)).toEqual(['integer', 'text ≠']);
    expect(rowOf(/name/)).toEqual(['text', '–']);
    expect(rowOf(/cover · needed/)).toEqual(['–', '–']);
  });
  test('where nothing is found there is no column for it', () => {
    render(<Facts remembered={facts()} found={null} needs={[]} />);
    expect(screen.queryByText('found')).toBeNull();
    expect(rowOf(/Records/)).toEqual(['17']);
  });
});

describe('what is known of gone data', () => {
  const shown = (over: Partial<MendLayerView>, deletedBy: DeletionView | null = null): HTMLElement =>
    render(
      <MemoryRouter>
        <Known layer={layer('a', over)} deletedBy={deletedBy} />
      </MemoryRouter>,
    ).container;
  const origin = {
    title: 'Zones',
    publisher: 'Board',
    page: 'https://board.example',
    address: '',
    fetched: '2026-01-02',
    licence: 'CC BY 4.0',
  };
  test('nothing, where nothing is', () => expect(shown({}).textContent).toBe(''));
  test('where it came from, and the page where no file is told', () => {
    shown({ origin });
    expect(screen.getByText('Came from: Zones · Board · fetched 2026-01-02 · CC BY 4.0')).not.toBeNull();
    expect(screen.getByRole('link', { name: 'https://board.example' }).getAttribute('href')).toBe('https://board.example');
  });
  test('an address that is none of the web is told and never a link', () => {
    shown({ origin: { ...origin, page: '', address: 'javascript:alert(1)' } });
    expect(screen.queryAllByRole('link')).toEqual([]);
  });
  test('who deleted it', () => {
    shown({}, { id: '1', title: 'Delete a.shp', ms: Date.UTC(2026, 1, 3, 12) });
    expect(screen.getByText(/It was deleted on 2026-02-03 by “Delete a\.shp”/)).not.toBeNull();
  });
});

test('what remains: each reason once, with a way to the first that it holds for', () => {
  const asked: string[] = [];
  const trouble = { code: 'gone', sentence: 'Nothing is there.', fix: 'Point to it.' };
  const left = [layer('a', { trouble }), layer('b', { trouble }), layer('c')];
  render(<WhatRemains mended="2 layers mended" layers={left} onSelect={(key) => asked.push(key)} onClose={() => undefined} />);
  expect(screen.getByText('2 layers mended. 3 layers remain:')).not.toBeNull();
  expect(screen.getAllByText('Nothing is there. Point to it.')).toHaveLength(1);
  fireEvent.click(screen.getByRole('button', { name: '2 layers' }));
  fireEvent.click(screen.getByRole('button', { name: 'c' }));
  expect(asked).toEqual(['a', 'c']);
});

test('of the addresses that will be written, all but the first can be left out', () => {
  const flipped: string[] = [];
  const rewrites = ['a', 'b'].map((key) => ({ key, label: `${key} in A`, before: null, after: `../${key}` }));
  render(<RewriteList rewrites={rewrites} first="a" left={new Set()} onToggle={(key) => flipped.push(key)} />);
  expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'a in A' }).disabled).toBe(true);
  fireEvent.click(screen.getByRole('checkbox', { name: 'b in A' }));
  expect(flipped).toEqual(['b']);
  expect(screen.getAllByText('no source recorded')).toHaveLength(2);
});
