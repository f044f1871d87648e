import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, renameSync, writeFileSync } from 'node:fs';
import { openPlace } from '../places/places.js';
import { findScope } from '../project/scope.js';
import { TestFolder } from '../../test/test-project.js';
import { explainBroken } from './plan-mend.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  for (const place of ['desk/p/maps', 'stick/dives']) mkdirSync(t.at(place), { recursive: true });
  for (const name of ['point', 'polygon', 'polyline']) t.shapefile(name, `stick/dives/${name}`);
});
afterEach(() => t.remove());

const redirects = (driveNames: readonly string[]) => {
  const places = [
    openPlace({ name: 'desk', folder: t.at('desk'), driveNames: ['D:'] }),
    openPlace({ name: 'stick', folder: t.at('stick'), driveNames }),
  ];
  return explainBroken(findScope(t.at('desk/p'), { places })).view.shifts.map((s) => s.redirect);
};
const project = (links: readonly object[] = []) =>
  writeFileSync(t.at('desk/p/p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'p', name: 'p', title: 'p', links }));
const NAMES = ['point', 'polygon', 'polyline'];

test.each([
  ['F:', 'file:///F:/dives', 'F:'],
  ['a share', 'file://boat/gis/dives', '\\\\boat\\gis'],
])('a place under another name, %s, is one thing to say', (_, base, drive) => {
  project();
  t.map(
    'desk/p/maps/m.owc.json',
    NAMES.map((n) => `${base}/${n}.shp`),
    'absolute',
  );
  expect(redirects(['E:'])).toEqual([{ kind: 'drive', drive, place: 'stick' }]);
});

test('a folder that was deeper on the drive is none: no name stands for a part of a place', () => {
  project();
  t.map(
    'desk/p/maps/m.owc.json',
    NAMES.map((n) => `file:///F:/backup/${n}.shp`),
    'absolute',
  );
  expect(redirects(['E:'])).toEqual([null]);
});

test('a linked folder that moved can be told in the link', () => {
  project([{ name: 'dives', path: null, address: 'file:///E:/dives' }]);
  t.map(
    'desk/p/maps/m.owc.json',
    NAMES.map((n) => `file:///E:/dives/${n}.shp`),
    'absolute',
  );
  mkdirSync(t.at('stick/2026'));
  renameSync(t.at('stick/dives'), t.at('stick/2026/dives'));
  expect(redirects(['E:'])).toEqual([{ kind: 'link', name: 'dives', folder: { place: 'stick', segments: ['2026', 'dives'] } }]);
});
