import { describe, expect, test } from '@jest/globals';
import type { ProjectSummary } from '@rootmap/core/contract';
import { brokenOf, isOn, madeSince, pageOf, projectFor, WAYS } from './ways';

const NO = { sound: 0, different: 0, incomplete: 0, adrift: 0, absent: 0, unreadable: 0, 'not-asked': 0 };
const project = (key: string, over: Partial<ProjectSummary> = {}): ProjectSummary =>
  ({ key, title: key, present: true, openedMs: 1, maps: 1, datasets: 1, totals: NO, ...over }) as ProjectSummary;
const way = (id: string) => WAYS.find((w) => w.id === id)!;

describe('ways in', () => {
  const projects = [project('a', { openedMs: 9 }), project('b', { totals: { ...NO, adrift: 3 } }), project('c', { present: false, openedMs: 99 })]; // prettier-ignore
  test('mending is shown where most is broken, sending where somebody was last, and never on what is away', () => {
    expect(projectFor('mend', projects)?.key).toBe('b');
    expect(projectFor('send', projects)?.key).toBe('a');
    expect(projectFor('send', [])).toBeNull();
    expect(brokenOf(projects[1])).toBe(3);
  });
  test('a step is done when what it asks for is seen, not before', () => {
    const mends = way('mend').steps[1]!;
    const seen = (adrift: number) => ({ at: '/p/b/mend', projects: [project('b', { totals: { ...NO, adrift } })] });
    expect(mends.isDone!(seen(3), 'b', { broken: 3, keys: [] })).toBe(false);
    expect(mends.isDone!(seen(1), 'b', { broken: 3, keys: [] })).toBe(true);
    const begun = { broken: 0, keys: ['a'] };
    expect(madeSince({ at: '/p/a/folders', projects }, begun)).toBeNull();
    expect(madeSince({ at: '/p/n/folders', projects }, begun)).toBe('n');
    expect(way('make').steps[0]!.isDone!({ at: '/new', projects }, null, begun)).toBe(false);
  });
  test('a page is one by its path and its view', () => {
    const page = pageOf(way('make').steps[2]!, 'n');
    expect(isOn(page, '/p/n/sources', '')).toBe(true);
    expect(isOn(page, '/p/n/sources', '?view=intake')).toBe(false);
    expect(isOn('/p/n/sources?view=intake', '/p/n/sources', '?view=intake&arrivals=3')).toBe(true);
  });
});
