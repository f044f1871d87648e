import { expect, test } from '@jest/globals';
import { tableFor, type Gathering } from './gather.js';

const gathering: Gathering = {
  items: [],
  tables: [{ name: 'coast_land', main: '/share/coast.gpkg', table: 'land' }],
  bytes: 0,
  modifiedMs: 0,
  losses: [],
};

test('a reference means the table that it names, and never another one because that is the only one', () => {
  const named = (href: string, main = '/share/coast.gpkg'): string | null => tableFor(gathering, main, href);
  expect(named('file:///share/coast.gpkg#land')).toBe('coast_land');
  expect(named('file:///share/coast.gpkg')).toBe('coast_land');
  expect(named('file:///share/coast.gpkg#relief')).toBeNull();
  expect(named('file:///share/other.gpkg#land', '/share/other.gpkg')).toBeNull();
});
