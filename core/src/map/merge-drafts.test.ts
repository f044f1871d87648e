import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { DraftLayer, MapDraft, NamedView } from './map-draft.js';
import { mergeDrafts } from './merge-drafts.js';

const layer = (id: string, title = id): DraftLayer => ({
  id,
  title,
  folder: null,
  active: true,
  opacity: 1,
  minScale: null,
  maxScale: null,
  filter: '',
  label: null,
  look: null,
  source: null,
});
const draft = (ids: string, over: Partial<MapDraft> = {}): MapDraft => ({
  title: 'Map',
  summary: '',
  crs: null,
  storedForm: null,
  view: null,
  views: [],
  layers: [...ids].map((id) => layer(id)),
  ...over,
});
const ids = (d: MapDraft): string => d.layers.map((l) => l.id).join('');
const retitled = (d: MapDraft, id: string, title: string): MapDraft => ({
  ...d,
  layers: d.layers.map((l) => (l.id === id ? { ...l, title } : l)),
});

describe('two drafts from one', () => {
  const base = draft('abcd');
  test('each layer is as whoever changed it has it', () => {
    const { draft: merged, conflicts } = mergeDrafts(base, retitled(base, 'a', 'A mine'), retitled(base, 'c', 'C theirs'));
    expect(merged.layers.map((l) => l.title)).toEqual(['A mine', 'b', 'C theirs', 'd']);
    expect(conflicts).toEqual([]);
  });
  test('what one adds or takes away is added and taken away, at its place', () => {
    const { draft: merged, conflicts } = mergeDrafts(base, draft('axbd'), draft('abcyd'));
    expect([ids(merged), conflicts]).toEqual(['axbyd', []]);
  });
  test('named views of both are there, and of one name mine', () => {
    const view = (name: string, scale = 1): NamedView => ({ name, at: [0, 0], scale });
    const having = (...views: NamedView[]): MapDraft => ({ ...base, views });
    const begun = having(view('a'), view('b'), view('c'));
    const mine = having(view('a', 2), view('b'), view('m'));
    const theirs = having(view('a', 3), view('c'), view('t'));
    expect(mergeDrafts(begun, mine, theirs).draft.views).toEqual([view('a', 2), view('m'), view('t')]);
  });
  test('an order that one changed holds', () => {
    expect(ids(mergeDrafts(base, draft('dabc'), draft('abcde')).draft)).toBe('deabc');
    expect(ids(mergeDrafts(base, draft('abxcd'), draft('dcba')).draft)).toBe('dcbxa');
  });
  test('what both changed is told, and is as the person says', () => {
    const [mine, theirs] = [retitled(base, 'b', 'mine'), { ...retitled(base, 'b', 'theirs'), title: 'Theirs' }];
    const asked = mergeDrafts(base, { ...mine, title: 'Mine' }, theirs);
    expect(asked.conflicts.map((c) => [c.kind, c.id])).toEqual([
      ['fact', 'title'],
      ['layer', 'b'],
    ]);
    expect([asked.draft.title, asked.draft.layers[1]!.title]).toEqual(['Mine', 'mine']);
    const taken = mergeDrafts(base, { ...mine, title: 'Mine' }, theirs, new Set(['b']));
    expect([taken.draft.title, taken.draft.layers[1]!.title]).toEqual(['Mine', 'theirs']);
  });
  test('one that the other took away is asked about; taken away by both, or changed alike, it is not', () => {
    const gone = mergeDrafts(base, draft('acd'), retitled(base, 'b', 'theirs'));
    expect(gone.conflicts).toMatchObject([{ kind: 'layer', id: 'b', mine: null, theirs: { title: 'theirs' } }]);
    expect([ids(gone.draft), ids(mergeDrafts(base, draft('acd'), retitled(base, 'b', 'x'), new Set(['b'])).draft)]).toEqual([
      'acd',
      'abcd',
    ]);
    expect(mergeDrafts(base, draft('acd'), draft('acd')).conflicts).toEqual([]);
    expect(mergeDrafts(base, retitled(base, 'a', 'x'), retitled(base, 'a', 'x')).conflicts).toEqual([]);
  });
  test('both put them in another order: asked', () => {
    const both = mergeDrafts(base, draft('bacd'), draft('abdc'));
    expect([both.conflicts.map((c) => c.kind), ids(both.draft)]).toEqual([['order'], 'bacd']);
    expect(ids(mergeDrafts(base, draft('bacd'), draft('abdc'), new Set(['order'])).draft)).toBe('abdc');
  });
});

// Laws of a three-way merge: nobody's change alone is lost, and what nobody changed stays.
test('alone, a change is taken as it is, whoever made it', () => {
  const edits = fc.record({
    ids: fc.shuffledSubarray(['a', 'b', 'c', 'd', 'x', 'y'], { minLength: 1 }),
    titles: fc.dictionary(fc.constantFrom('a', 'b', 'c'), fc.string()),
    title: fc.string(),
  });
  fc.assert(
    fc.property(edits, (e) => {
      const base = draft('abcd');
      const changed: MapDraft = { ...base, title: e.title, layers: e.ids.map((id) => layer(id, e.titles[id] ?? id)) };
      expect(mergeDrafts(base, changed, base)).toEqual({ draft: changed, conflicts: [] });
      expect(mergeDrafts(base, base, changed)).toEqual({ draft: changed, conflicts: [] });
      expect(mergeDrafts(base, changed, changed)).toEqual({ draft: changed, conflicts: [] });
    }),
  );
});
