import { expect, test } from '@jest/globals';
import { EMPTY_ITEM, type ServiceItem } from '@rootmap/core';
import { boxWords, findOffers } from './offer-words.js';

const item = (name: string, title: string, more: Partial<ServiceItem> = {}): ServiceItem => ({ ...EMPTY_ITEM, name, title, ...more });
const items = [
  item('', 'All of it'),
  item('beds', 'Seagrass beds', {
    below: ['All of it'],
    use: 'copyable',
    publisher: 'Wardens',
    changed: '2026-02-01',
    keywords: ['protection'],
  }),
  item('bay', 'Bay', { use: 'query', publisher: 'Office', changed: '2026-03-01', description: 'All that is charted' }),
  item('old', 'Anchorages', { use: 'picture' }),
];
const titles = (...of: Parameters<typeof findOffers> extends [unknown, ...infer R] ? R : never): string[] =>
  findOffers(items, ...of).map((i) => i.title);

test('found by every word, in title, publisher, keyword or description; headings only where nothing is sought', () => {
  expect(titles('', 'all', 'server')).toEqual(['All of it', 'Seagrass beds', 'Bay', 'Anchorages']);
  expect(titles('wardens PROTECTION', 'all', 'server')).toEqual(['Seagrass beds']);
  expect(titles('charted', 'all', 'server')).toEqual(['Bay']);
  expect(titles('nothing', 'all', 'server')).toEqual([]);
});
test('narrowed by what can be done, and in order; what is not told comes last', () => {
  expect(titles('', 'picture', 'server')).toEqual(['Bay', 'Anchorages']);
  expect(titles('', 'copyable', 'server')).toEqual(['Seagrass beds']);
  expect(titles('', 'all', 'title')).toEqual(['Anchorages', 'Bay', 'Seagrass beds']);
  expect(titles('', 'all', 'publisher')).toEqual(['Bay', 'Seagrass beds', 'Anchorages']);
  expect(titles('', 'all', 'changed')).toEqual(['Bay', 'Seagrass beds', 'Anchorages']);
});
test('an extent in words', () => expect(boxWords([-39.26, -1, 0.5, 44])).toBe('39.26° W to 0.50° E, 1.00° S to 44.00° N'));
