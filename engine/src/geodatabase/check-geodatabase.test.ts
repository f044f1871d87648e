import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { copyFileSync, statSync, writeFileSync } from 'node:fs';
import { stageEmpty } from '../geopackage-write/stage-empty.js';
import { faultOf } from '../../test/geopackage-validator.js';
import { checkGeodatabase } from './check-geodatabase.js';
import { ImportWorld } from '../../test/import-world.js';

const isValid = (path: string): boolean => faultOf(path) === null;

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
});
afterEach(() => w.close());

describe('held against the standard', () => {
  const damaged = (sql: string): string => {
    const path = w.t.at('p/d.gpkg');
    copyFileSync(w.t.at('p/one.gpkg'), path);
    const db = new Database(path);
    db.unsafeMode(true);
    db.function('ST_IsEmpty', (_) => 0);
    for (const f of ['ST_MinX', 'ST_MaxX', 'ST_MinY', 'ST_MaxY']) db.function(f, (_) => 0);
    db.pragma('writable_schema = ON');
    db.exec(sql);
    db.close();
    return path;
  };
  // Requirement numbers: OGC 12-128r17; where validate_gpkg checks the same, it fails too.
  test.each([
    ['application id', 'PRAGMA application_id = 1', 2],
    ['an old edition', 'PRAGMA application_id = 1196437808', 2],
    ['a CRS row', 'PRAGMA foreign_keys = OFF; DELETE FROM gpkg_spatial_ref_sys WHERE srs_id = 0', 11],
    ['a table that is gone', 'DROP TABLE columbus', 14],
    ['a time', "UPDATE gpkg_contents SET last_change = 'yesterday'", 15],
    ['a shape', "UPDATE columbus SET geom = x'00' WHERE fid = 3", 19],
    ['a kind', "UPDATE gpkg_geometry_columns SET geometry_type_name = 'POINT'", 25],
    ['an index', 'DELETE FROM rtree_columbus_geom WHERE id = 1', 77],
    ['an extent', 'UPDATE gpkg_contents SET max_x = 0', null],
  ])('%s', async (_, sql, requirement) => {
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    expect(checkGeodatabase(w.t.at('p/one.gpkg'))).toEqual([]);
    expect(checkGeodatabase(damaged(sql)).map((f) => f.requirement)).toContain(requirement);
  });
  test('no database, and an empty one that is new', async () => {
    writeFileSync(w.t.at('p/x.gpkg'), 'no database');
    expect(checkGeodatabase(w.t.at('p/x.gpkg')).map((f) => f.requirement)).toEqual([1]);
    await stageEmpty('EPSG:32624')(w.t.at('p/empty.gpkg'));
    expect(checkGeodatabase(w.t.at('p/empty.gpkg'))).toEqual([]);
    expect(isValid(w.t.at('p/empty.gpkg'))).toBe(true);
    expect(statSync(w.t.at('p/empty.gpkg')).size).toBeGreaterThan(0);
  });
});
