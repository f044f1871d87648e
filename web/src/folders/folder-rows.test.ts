import { describe, expect, test } from '@jest/globals';
import { DEFAULT_NAMING } from '@rootmap/core';
import type { FoldersView, ThingView } from '@rootmap/core/contract';
import { isOwn, linkRows, rangeOf, rowsOf, treeOf, withinLink, withoutInner } from './folder-rows';
import { inRoot, moveInto, moveTo, trash } from './moves';
import { leftBehind, sumsBy, unusedData } from './space-sums';

const thing = (path: string, over: Partial<ThingView> = {}): ThingView => ({
  path,
  kind: 'dataset',
  format: 'shapefile',
  bytes: 10,
  modifiedMs: 0,
  files: [path.slice(path.lastIndexOf('/') + 1)],
  usedBy: 1,
  ...over,
});
const view = (over: Partial<FoldersView> = {}): FoldersView => ({
  folders: [
    { path: '', bytes: 100, files: 9 },
    { path: 'data', bytes: 60, files: 5 },
    { path: 'data/10', bytes: 10, files: 1 },
    { path: 'data/9', bytes: 10, files: 1 },
    { path: 'maps', bytes: 0, files: 0 },
  ],
  things: [
    thing('data/b.shp'),
    thing('data/A.shp', { usedBy: 0, bytes: 30 }),
    thing('data/9/x.shp'),
    thing('data/10/y.shp'),
    thing('notes.txt', { kind: 'document', format: 'txt' }),
  ],
  nested: ['inner'],
  skipped: [],
  findings: [{ path: 'data/A.shp', rule: 'space', message: 'm', proposed: 'a.shp' }],
  roles: { data: 'originals', maps: 'maps' },
  naming: DEFAULT_NAMING,
  isProject: true,
  readOnly: false,
  status: 'open',
  title: 'T',
  trashBytes: 0,
  rootLength: 10,
  tampered: [],
  unprotected: 0,
  ...over,
});
const shown = (open: string[], words = '') =>
  rowsOf(treeOf(view()), 'root', new Set(open), words).map((r) => `${'.'.repeat(r.depth)}${r.name}`);

describe('rows of the tree', () => {
  test('only open folders show what is in them; numbers are sorted as numbers, without regard to case', () => {
    expect(shown([])).toEqual(['root', '.data', '.inner', '.maps', '.notes.txt']);
    expect(shown(['data'])).toEqual(['root', '.data', '..9', '..10', '..A.shp', '..b.shp', '.inner', '.maps', '.notes.txt']);
  });
  test('words show what has them all, with the folders above', () => {
    expect(shown([], '9 X')).toEqual(['root', '.data', '..9', '...x.shp']);
    expect(shown([], 'nothing')).toEqual(['root']);
  });
  test('a role comes from the folder or from above it; findings and nested projects are marked', () => {
    const rows = rowsOf(treeOf(view()), 'root', new Set(['data']), '');
    const of = (path: string) => rows.find((r) => r.path === path)!;
    expect(of('data')).toMatchObject({ role: 'originals', isPlanned: true, isNested: false });
    expect(of('data/9')).toMatchObject({ role: 'originals', isPlanned: false });
    expect(of('inner')).toMatchObject({ isNested: true, hasMore: false });
    expect(of('data/A.shp').findings).toHaveLength(1);
  });
  test('a range goes both ways; what is in a selected folder goes with it', () => {
    const rows = rowsOf(treeOf(view()), 'root', new Set(['data']), '');
    expect(rangeOf(rows, 'data/A.shp', 'data/9')).toEqual(['data/9', 'data/10', 'data/A.shp']);
    expect(rangeOf(rows, 'gone', 'data/9')).toEqual(['data/9']);
    expect(withoutInner(['data', 'data/9/x.shp', 'database', ''])).toEqual(['data', 'database']);
  });
});

describe('a linked folder', () => {
  const content = {
    folders: [
      { path: '', bytes: 20, files: 2 },
      { path: 'coast', bytes: 10, files: 1 },
    ],
    things: [thing('coast/shore.shp'), thing('readme.txt', { kind: 'document', format: 'txt' })],
    skipped: [],
  };
  test('before it is opened it may hold anything; open, it shows what stands in it', () => {
    expect(linkRows('base', undefined, new Set(), '')).toMatchObject([{ path: 'link:base', name: 'base', depth: 0, hasMore: true }]);
    const rows = linkRows('base', content, new Set(['link:base', 'link:base/coast']), '');
    expect(rows.map((r) => [r.depth, r.name, withinLink(r)])).toEqual([
      [0, 'base', ''],
      [1, 'coast', 'coast'],
      [2, 'shore.shp', 'coast/shore.shp'],
      [1, 'readme.txt', 'readme.txt'],
    ]);
    expect(rows.map((r) => isOwn(r.path))).toEqual([false, false, false, false]);
    expect(isOwn('data/b.shp')).toBe(true);
  });
  test('words look in it too', () => {
    expect(linkRows('base', content, new Set(), 'shore').map((r) => r.name)).toEqual(['base', 'coast', 'shore.shp']);
  });
});

describe('moves', () => {
  const root = { place: 'desk', path: 'gis/p' };
  test('a path from the root becomes one of the place, also where the root is the place itself', () => {
    expect(inRoot(root, 'a/b')).toEqual({ place: 'desk', path: 'gis/p/a/b' });
    expect(inRoot({ place: 'desk', path: '' }, 'a')).toEqual({ place: 'desk', path: 'a' });
  });
  test('what is there already does not move; what is in a moved folder is not named again', () => {
    expect(moveInto(root, ['data/b.shp'], 'data')).toBeNull();
    expect(moveInto(root, ['data', 'data/b.shp'], 'maps')?.moves).toEqual([{ from: inRoot(root, 'data'), to: inRoot(root, 'maps/data') }]);
    expect(moveTo(root, ['data/b.shp'], { place: 'share', path: '' })?.moves[0]!.to).toEqual({ place: 'share', path: 'b.shp' });
    expect(trash(root, ['data', 'data/b.shp'])).toMatchObject({ paths: [inRoot(root, 'data')] });
  });
});

describe('sums', () => {
  test('by folder, by kind, by role: each adds up to all', () => {
    const all = view().things.reduce((sum, t) => sum + t.bytes, 0);
    for (const by of ['folder', 'kind', 'role'] as const) expect(sumsBy(view(), by).reduce((sum, s) => sum + s.bytes, 0)).toBe(all);
    expect(sumsBy(view(), 'folder')[0]).toEqual({ name: 'data', bytes: 60 });
    expect(sumsBy(view(), 'role').map((s) => s.name)).toEqual(['originals', 'no role']);
    expect(sumsBy(view({ trashBytes: 500 }), 'kind')[0]).toEqual({ name: 'trash', bytes: 500 });
  });
  test('beyond a dozen the rest is added up', () => {
    const things = Array.from({ length: 30 }, (_, i) => thing(`f${i}/x.shp`));
    const sums = sumsBy(view({ things }), 'folder');
    expect([sums.length, sums.at(-1)]).toEqual([12, { name: '19 others', bytes: 190 }]);
  });
  test('unused is data that no layer draws on; a document is no data', () => {
    expect(unusedData(view()).map((t) => t.path)).toEqual(['data/A.shp']);
    expect(leftBehind(view({ things: [thing('x.shx', { kind: 'left-behind' })] }))).toHaveLength(1);
  });
});
