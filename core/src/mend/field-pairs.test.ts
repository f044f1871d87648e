import { expect, test } from '@jest/globals';
import { likelyField } from './field-pairs.js';

const fields = (...names: string[]) => names.map((name) => ({ name, type: 'text' as const }));

test.each([
  ['name', ['Name', 'name'], 'name'],
  ['bed_name', ['BED NAME', 'other'], 'BED NAME'],
  ['größe', ['groesse', 'Grösse'], null],
  ['seagrass_cover_percent', ['seagrass_c', 'seagrass'], 'seagrass_c'],
  ['seagrass_c', ['seagrass_cover', 'depth'], 'seagrass_cover'],
  ['seagrass_c', ['seagrass_cover', 'seagrass_count'], null],
  ['id', ['identity'], null],
  ['depth', [], null],
])('%s among %j is %s', (name, names, expected) => {
  expect(likelyField(name, fields(...names))).toBe(expected);
});
