import { expect, test } from '@jest/globals';
import { attributionText, EMPTY_ORIGIN, originFindings, originOf, parseDataPackage, withOrigin } from './origin';

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
test('what is missing, and what is stated otherwise than found, is told', () => {
  const codes = (o: typeof origin | null, found: string | null): string[] => originFindings(o, found).map((f) => f.code);
  expect(codes(null, null)).toEqual(['no-origin']);
  expect(codes({ ...origin, licence: '' }, null)).toEqual(['no-licence']);
  expect(codes({ ...origin, statedCrs: 'epsg:4326' }, 'EPSG:4326')).toEqual([]);
  expect(codes({ ...origin, statedCrs: 'EPSG:3035' }, 'EPSG:4326')).toEqual(['other-crs']);
  expect(codes({ ...origin, statedCrs: 'EPSG:3035' }, null)).toEqual([]);
});
test('attributions: each once, in order, as the publisher asks or made from what is known', () => {
  const own = { ...origin, publisher: 'B', attribution: 'Contains data of B' };
  expect(attributionText([origin, own, origin, EMPTY_ORIGIN])).toBe('© Harbour Office, CC-BY-4.0; Contains data of B');
});
