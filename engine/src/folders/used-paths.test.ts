import { mkdirSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { TestFolder } from '../../test/test-project.js';
import { knownProjects } from '../move/known-maps.js';
import { usesOfData } from './used-paths.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

const layer = (id: string, href: string) => ({
  type: 'Feature',
  id,
  properties: {
    title: id,
    offerings: [{ code: 'http://www.opengis.net/spec/owc/1.0/req/gpkg', contents: [{ type: 'application/geopackage+sqlite3', href }] }],
  },
});

test('each table of a geodatabase is counted for itself; who names none means the only one; a file counts as a whole', () => {
  mkdirSync(t.at('p/maps'), { recursive: true });
  writeFileSync(t.at('p/d.gpkg'), '');
  const features = [layer('a', '../d.gpkg#roads'), layer('b', '../d.gpkg#roads'), layer('c', '../d.gpkg#rivers'), layer('d', '../d.gpkg')];
  writeFileSync(t.at('p/maps/m.owc.json'), JSON.stringify({ type: 'FeatureCollection', properties: { title: 'M' }, features }));
  const uses = usesOfData(knownProjects([t.at('p')], t.places), t.places);
  const of = (table: string | null, isOnly = false): number => uses({ path: t.at('p/d.gpkg'), table }, isOnly);
  expect([of('roads'), of('rivers'), of('lakes'), of('lakes', true), of('rivers', true), of(null)]).toEqual([2, 1, 0, 1, 2, 4]);
  expect(uses({ path: t.at('p/other.gpkg'), table: null }, true)).toBe(0);
});
