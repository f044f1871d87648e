import { expect, test } from '@jest/globals';
import { besideName, fileName } from './file-name.js';

// CWE-22: `...shp` has the stem `..`, and joined to a folder that would be the folder above.
test.each(['', '.', '..', '...', 'a/b', 'a\\b', '../x', 'a\u0000', 'a\n', 'あ'.repeat(84)])('%j is no stem', (stem) =>
  expect(() => fileName(stem, '.shp')).toThrow(/cannot be a name/),
);
test.each([
  ['...shp', '.dbf'],
  ['..shp', '.dbf'],
])('%s has nothing beside it', (name, ending) => expect(() => besideName(name, ending)).toThrow(/cannot be a name/));
test('beside a file stands what has its stem', () => {
  expect(besideName('buoys.shp', '.dbf')).toBe('buoys.dbf');
  expect(besideName('..a.shp', '.dbf')).toBe('..a.dbf');
  expect(besideName('m.owc.json', '.pdf')).toBe('m.pdf');
  expect(fileName('あ'.repeat(83), '.shp')).toHaveLength(87);
});
