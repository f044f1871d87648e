import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { writeZip } from '../../test/small-zip.js';
import { findPacked } from './packed.js';
import { explainBroken } from './plan-mend.js';

let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
});
afterEach(() => t.remove());

test('data that is still packed is found by its name, in any spelling; a broken archive is passed over', async () => {
  t.shapefile('point', 'p/data/Sea Grass');
  t.map('p/maps/m.owc.json', ['../data/sea_grass.shp', '../data/none.shp']);
  const member = readFileSync(t.at('p/data/Sea Grass.shp'));
  rmSync(t.at('p/data'), { recursive: true });
  writeFileSync(t.at('p/coast.zip'), writeZip({ 'in/Sea Grass.shp': member, 'in/readme.txt': 'x' }));
  writeFileSync(t.at('p/broken.zip'), 'no archive');
  const work = explainBroken(t.scope('p'));
  const packed = await findPacked(work);
  expect([...packed.values()]).toEqual([[{ archive: t.at('p/coast.zip'), member: 'in/Sea Grass.shp' }]]);
  expect([...packed.keys()]).toEqual([work.broken[0]!.broken.key]);
});

test('nothing is opened where everything is explained', async () => {
  t.shapefile('point', 'p/new/point');
  t.map('p/maps/m.owc.json', ['../old/point.shp']);
  writeFileSync(t.at('p/coast.zip'), writeZip({ 'point.shp': 'x' }));
  expect(await findPacked(explainBroken(t.scope('p')))).toEqual(new Map());
});
