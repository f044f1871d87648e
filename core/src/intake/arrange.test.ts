import { describe, expect, test } from '@jest/globals';
import { DEFAULT_NAMING } from '../naming/rules';
import { arrange, isLitter, wrapperOf, type ArrangeOptions } from './arrange';

const of = (paths: readonly string[], over: Partial<ArrangeOptions> = {}): string[] =>
  arrange(
    paths.map((path) => ({ path, bytes: 1, modifiedMs: 0 })),
    { archive: 'islets', taken: [], naming: null, ...over },
  ).map((a) => a.to);

test('one folder around everything is left out, however deep; two are not', () => {
  expect(wrapperOf(['a/b/x.shp', 'a/b/c/y.shp'])).toBe('a/b/');
  expect(wrapperOf(['a/x.shp', 'b/y.shp'])).toBe('');
  expect(wrapperOf(['x.shp'])).toBe('');
  expect(of(['islets/islets.shp', 'islets/islets.dbf'])).toEqual(['islets.shp', 'islets.dbf']);
});
test('what systems leave in archives is litter', () => {
  expect(['__MACOSX/._a.shp', 'x/.DS_Store', 'Thumbs.db', 'a/._b', 'a.shp'].map(isLitter)).toEqual([true, true, true, true, false]);
});
describe('nothing is written over', () => {
  test('equally named notes of several archives, in other letters too', () => {
    expect(of(['README.txt', 'a.shp'], { taken: ['readme.txt'] })).toEqual(['README_islets.txt', 'a.shp']);
    expect(of(['readme.txt'], { taken: ['readme.txt', 'readme_islets.txt'] })).toEqual(['readme_islets_2.txt']);
  });
  test('a dataset keeps its companions together under the new name', () => {
    expect(of(['a.shp', 'a.dbf', 'a.shp.xml'], { taken: ['a.dbf'] })).toEqual(['a_islets.shp', 'a_islets.dbf', 'a_islets.shp.xml']);
  });
  test('two datasets whose safe names are the same', () => {
    const to = of(['a b.shp', 'a-b.shp'], { naming: DEFAULT_NAMING });
    expect(new Set(to).size).toBe(2);
    expect(to.every((p) => /^a_b[a-z0-9_]*\.shp$/.test(p))).toBe(true);
  });
});
test('safe names, also of folders; the inside of another program’s container keeps its own', () => {
  expect(of(['süd west/a b.shp', 'süd west/a b.dbf', 'x.txt'], { naming: DEFAULT_NAMING })).toEqual([
    'sued_west/a_b.shp',
    'sued_west/a_b.dbf',
    'x.txt',
  ]);
});
