import { mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { basename } from '../disk/native-path.js';
import { openPlace } from '../places/places.js';
import { TestFolder } from '../../test/test-project.js';
import { findMap, mapsInPlaces } from './stray-maps.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  t.map('desk/loose/a.owc.json', []);
  t.map('desk/jobs/p/maps/a.owc.json', []);
  t.map('desk/jobs/p/inner/b.owc.json', []);
  for (const project of ['desk/jobs/p/p', 'desk/jobs/p/inner/q']) writeFileSync(t.at(`${project}.rootmap.json`), '{}');
  t.map('stick/c.owc.json', []);
});
afterEach(() => t.remove());
const place = (name: string, folder = name) => openPlace({ name, folder: t.at(folder), driveNames: [] });
const seen = (...places: ReturnType<typeof place>[]) =>
  mapsInPlaces(places).maps.map((m) => [m.path.slice(t.path.length + 1), m.isInProject]);

test('every map of the places, and whether a project has it; a place inside another is looked through once', () => {
  expect(seen(place('desk'), place('jobs', 'desk/jobs'), place('stick'))).toEqual([
    ['desk/jobs/p/inner/b.owc.json', true],
    ['desk/jobs/p/maps/a.owc.json', true],
    ['desk/loose/a.owc.json', false],
    ['stick/c.owc.json', false],
  ]);
});

test('an absent place, links that loop and folders that are no places are no trouble', () => {
  symlinkSync(t.at('desk'), t.at('desk/loose/again'));
  expect(seen(place('away'), place('stick'))).toEqual([['stick/c.owc.json', false]]);
  expect(seen(place('desk')).filter(([path]) => String(path).includes('loose'))).toEqual([['desk/loose/a.owc.json', false]]);
});

test('a dropped file is found by its name and its text, with or without a byte order mark, also where several are equal', () => {
  const text = readFileSync(t.at('desk/loose/a.owc.json'), 'utf8');
  const places = [place('desk'), place('stick')];
  expect(findMap(places, 'a.owc.json', text)).toEqual([t.at('desk/loose/a.owc.json')]);
  expect(findMap(places, 'a.owc.json', `\uFEFF${text}`)).toEqual([t.at('desk/loose/a.owc.json')]);
  expect(findMap(places, 'b.owc.json', text)).toEqual([]);
  expect(findMap(places, 'a.owc.json', `${text} `)).toEqual([]);
  mkdirSync(t.at('stick/sent'));
  writeFileSync(t.at('stick/sent/a.owc.json'), text);
  expect(findMap(places, 'a.owc.json', text).map((p) => basename(p))).toEqual(['a.owc.json', 'a.owc.json']);
});
