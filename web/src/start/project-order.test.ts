import { expect, test } from '@jest/globals';
import type { ProjectSummary } from '@rootmap/core/contract';
import { inOrder, isOrder, matches } from './project-order';

const project = (title: string, over: Partial<ProjectSummary> = {}): ProjectSummary =>
  ({ title, place: 'desk', path: `gis/${title}`, openedMs: 0, changedMs: null, totals: null, bytes: null, ...over }) as ProjectSummary;
const totals = (adrift: number) => ({ sound: 5, 'not-asked': 0, adrift, different: 0, incomplete: 0, unreadable: 0, absent: 9 });
const list = [
  project('b', { openedMs: 1, changedMs: 4, totals: totals(2), bytes: 10 }),
  project('A', { openedMs: 3, place: 'stick' }),
  project('c', { openedMs: 2, changedMs: 8, totals: totals(7), bytes: 5 }),
];
const titles = (projects: readonly ProjectSummary[]): string => projects.map((p) => p.title).join('');

test('by what was opened last, changed last, title, place, layers to mend, size; what is not known comes last', () => {
  expect(titles(inOrder(list, 'opened'))).toBe('Acb');
  expect(titles(inOrder(list, 'changed'))).toBe('cbA');
  expect(titles(inOrder(list, 'title'))).toBe('Abc');
  expect(titles(inOrder(list, 'place'))).toBe('bcA');
  expect(titles(inOrder(list, 'broken'))).toBe('cbA');
  expect(titles(inOrder(list, 'size'))).toBe('bcA');
  expect([isOrder('size'), isOrder('sizes')]).toEqual([true, false]);
});

test('every word is looked for, in the title, the place and the path', () => {
  expect(titles(list.filter((p) => matches(p, 'STICK a')))).toBe('A');
  expect(titles(list.filter((p) => matches(p, 'gis/')))).toBe('bAc');
  expect(list.filter((p) => matches(p, 'stick b'))).toEqual([]);
  expect(titles(list.filter((p) => matches(p, '')))).toBe('bAc');
});
