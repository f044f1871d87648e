import { afterEach, beforeEach, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { mkdirSync, readdirSync } from 'node:fs';
import type { Extent } from '@rootmap/core';
import { surveyFolder } from '../survey/list-datasets.js';
import { gdal } from '../../test/geopackage-validator.js';
import { TestFolder } from '../../test/test-project.js';
import { ContainerStore } from './container-store.js';
import type { ShapeStore } from './shape-store.js';
import { buildVectorStore, VectorStore } from './vector-store.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  for (const folder of ['p', 'a', 'b']) mkdirSync(t.at(folder));
});
afterEach(() => t.remove());

const found = () => ({ folder: t.at('p'), dataset: surveyFolder(t.at('p')).datasets[0]! });
const both = (): [ShapeStore, ShapeStore] => {
  buildVectorStore(found(), null, t.at('a'), () => undefined);
  return [VectorStore.open(t.at('a')), ContainerStore.make(found(), t.at('b'))!];
};
const idsIn = (store: ShapeStore, extent: Extent): number[] =>
  [...store.within(extent)].map((n) => store.shape(n).id).sort((a, b) => a - b);

// Written by ogr2ogr, whose R-tree is the module's own; the same shapes by a pass over all records are the reference.
test.each(['spdata/shapes/wheat.shp', 'spdata/shapes/baltim.shp', 'sf/shape/nc.shp', 'sf/shape/storms_xyz.shp'])(
  '%s in a container: the same shapes are found and drawn as after a pass over all of them',
  (name) => {
    gdal('ogr2ogr', '-f', 'GPKG', t.at('p/one.gpkg'), `testdata/open/${name}`, '-nln', 'one');
    const [whole, inPlace] = both();
    expect(inPlace.head.count).toBe(whole.head.count);
    const [minx, miny, maxx, maxy] = whole.head.extent;
    inPlace.head.extent.forEach((side, i) => expect(Math.abs(side - whole.head.extent[i]!)).toBeLessThan((maxx - minx) * 1e-4));
    let seed = 7;
    const next = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    for (let k = 0; k < 100; k++) {
      const [x, y, w] = [minx + next() * (maxx - minx), miny + next() * (maxy - miny), (next() * (maxx - minx)) / 4];
      const window: Extent = [x, y, x + w, y + w];
      const [mine, theirs] = [idsIn(inPlace, window), idsIn(whole, window)];
      expect(mine).toEqual(expect.arrayContaining(theirs)); // none is missed; one at the very edge may be found, too
      expect(mine.length - theirs.length).toBeLessThan(3);
    }
    const byId = (store: ShapeStore) => new Map(Array.from({ length: store.head.count }, (_, n) => [store.shape(n).id, store.shape(n)]));
    expect(byId(inPlace)).toEqual(byId(whole));
    whole.close();
    inPlace.close();
    expect(readdirSync(t.at('p'))).toEqual(['one.gpkg']);
  },
);

test('an index that does not have every shape is not drawn from, nor is a file that is another one by now', () => {
  gdal('ogr2ogr', '-f', 'GPKG', t.at('p/one.gpkg'), 'testdata/open/sf/shape/nc.shp');
  ContainerStore.make(found(), t.at('b'))!.close();
  const db = new Database(t.at('p/one.gpkg'));
  db.exec('DELETE FROM rtree_nc_geom WHERE id = 5');
  db.close();
  expect(ContainerStore.open(t.at('b'))).toBeNull();
  expect(ContainerStore.make(found(), t.at('b'))).toBeNull();
});
