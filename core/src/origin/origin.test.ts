import { expect, test } from '@jest/globals';
import {
  attributionText,
  EMPTY_ORIGIN,
  originFindings,
  originOf,
  parseDataPackage,
  withOrigin,
  withoutPassage,
  withPassage,
  type Resource,
} from './origin';

const origin = {
  ...EMPTY_ORIGIN,
  publisher: 'Harbour Office',
  address: 'https://data.example/x.zip',
  licence: 'CC-BY-4.0',
  fetched: '2026-03-14',
};

test('written and read again, it is the same; members of others stay', () => {
  const resource = withOrigin(
    { path: 'a.shp', 'other:member': [1] },
    { ...origin, isReobtainable: false, notes: 'n', statedCrs: 'EPSG:4326' },
  );
  expect(originOf(resource)).toEqual({ ...origin, isReobtainable: false, notes: 'n', statedCrs: 'EPSG:4326' });
  expect(resource).toMatchObject({ path: 'a.shp', 'other:member': [1] });
  expect(originOf(withOrigin(resource, EMPTY_ORIGIN))).toEqual(EMPTY_ORIGIN);
});
// Source: Frictionless Data Resource, "sources" and "licenses": objects with title and path; name and path.
test('the form is that of a Frictionless Data Package, and theirs is read', () => {
  const resource = withOrigin({}, origin);
  expect(resource['sources']).toEqual([{ title: 'Harbour Office', path: 'https://data.example/x.zip' }]);
  expect(resource['licenses']).toEqual([
    { name: 'CC-BY-4.0', title: 'Creative Commons Attribution 4.0', path: 'https://creativecommons.org/licenses/by/4.0/' },
  ]);
  const theirs = {
    licenses: [{ name: 'ODC-By-1.0' }],
    sources: [{ title: 'Somebody' }],
    homepage: 'https://x.example',
    resources: [{ path: 'a' }],
  };
  expect(originOf({ path: 'a' }, theirs)).toMatchObject({ publisher: 'Somebody', licence: 'ODC-By-1.0', page: 'https://x.example' });
});
test.each(['', '{', '[]', '{"resources": 1}', 'null'])('%j is no record', (json) => expect(parseDataPackage(json)).toBeNull());
test('what is missing is told', () => {
  const codes = (o: typeof origin | null): string[] => originFindings(o).map((f) => f.code);
  expect(codes(null)).toEqual(['no-origin']);
  expect(codes({ ...origin, licence: '' })).toEqual(['no-licence']);
  expect(codes(origin)).toEqual([]);
});

test('passages of notes are stated with their place, written down, read back and taken away again', () => {
  const passage = { about: 'units', at: 12, words: 'Units: feet', note: 'readme.txt' } as const;
  const limits = (words: string) => ({ about: 'limits', at: 0, words, note: 'readme.txt' }) as const;
  const stated = withPassage(withPassage(EMPTY_ORIGIN, passage), limits('Not for navigation.'));
  expect(stated).toMatchObject({ statedUnits: 'Units: feet', disclaimer: 'Not for navigation.' });
  // Limits add up; of everything else the last one holds.
  const more = withPassage(withPassage(stated, limits('No warranty.')), { ...passage, words: 'Units: metres' });
  expect(more.disclaimer).toBe('Not for navigation.\nNo warranty.');
  expect(more.statedUnits).toBe('Units: metres');
  expect(more.passages?.map((p) => p.words)).toEqual(['Not for navigation.', 'No warranty.', 'Units: metres']);
  expect(withPassage(EMPTY_ORIGIN, { about: 'licence', at: 0, words: 'It is under CC BY 4.0.', note: 'a' }).licence).toBe('CC-BY-4.0');
  const written = withOrigin({ name: 'a', path: 'a.shp' }, more);
  expect(originOf(JSON.parse(JSON.stringify(written)) as Resource)).toEqual(more);
  const back = withoutPassage(more, limits('Not for navigation.'));
  expect(back).toMatchObject({ disclaimer: 'No warranty.', statedUnits: 'Units: metres' });
  expect(originOf({ 'rootmap:passages': [{ about: 'units', at: 'x' }, 3, null, passage] }).passages).toEqual([passage]);
});

test('attributions: each once, in order, as the publisher asks or made from what is known', () => {
  const own = { ...origin, publisher: 'B', attribution: 'Contains data of B' };
  expect(attributionText([origin, own, origin, EMPTY_ORIGIN])).toBe('© Harbour Office, CC-BY-4.0; Contains data of B');
});
