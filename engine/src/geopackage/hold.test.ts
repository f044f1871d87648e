import { afterAll, expect, test } from '@jest/globals';
import { writeFileSync } from 'node:fs';
import Database from 'better-sqlite3';
import { TestFolder } from '../../test/test-project.js';
import { holdGeopackage, openGeopackage } from './open-geopackage.js';

const t = new TestFolder();
afterAll(() => t.remove());

test('while it is held all readers share one opening; then each has its own again', () => {
  const path = t.at('a.gpkg');
  new Database(path).exec('CREATE TABLE a (n)').close();
  const release = holdGeopackage(path);
  const [one, two] = [openGeopackage(path), openGeopackage(path)];
  expect(one.db).toBe(two.db);
  one.close();
  expect(two.db.prepare('SELECT count(*) FROM a').pluck().get()).toBe(0n);
  expect(holdGeopackage(path)).not.toBe(release); // held twice: whoever was first lets it go
  release();
  expect(two.db.open).toBe(false);
  const own = openGeopackage(path);
  expect(own.db).not.toBe(one.db);
  own.close();
});

test('what is no geodatabase is told by whoever reads it, not by whoever holds it', () => {
  writeFileSync(t.at('b.gpkg'), 'nothing');
  const release = holdGeopackage(t.at('b.gpkg'));
  expect(() => openGeopackage(t.at('b.gpkg'))).toThrow('does not begin like');
  release();
});
