import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { copyFileSync, existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { proposeTableName, tableNameFault } from '@rootmap/core';
import { ChangeDisk } from '../changes/disk.js';
import { recoverChanges } from '../changes/recover.js';
import { StopHere } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { faultOf, gdal, ogrinfo } from '../../test/geopackage-validator.js';
import { checkGeodatabase } from './check-geodatabase.js';
import { planImport } from './plan-import.js';
import { writeImport } from './write-import.js';
import { ImportWorld } from '../../test/import-world.js';

const isValid = (path: string): boolean => faultOf(path) === null;

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
});
afterEach(() => w.close());

describe('a queue of datasets', () => {
  test('becomes tables of a new geodatabase that another program reads with the same counts and extents', async () => {
    const { receipts, plan } = await w.bringIn('new.gpkg', ['shapes/columbus.shp', 'shapes/baltim.shp', 'visits.csv']);
    const path = w.t.at('p/new.gpkg');
    expect(receipts.map((r) => [r.table, r.read, r.written, r.skipped.length, r.isEqual])).toEqual([
      ['columbus', 49, 49, 0, true],
      ['baltim', 211, 211, 0, true],
      ['visits', 2, 2, 0, true],
    ]);
    expect(plan.items[2]!.notes).toContain('the field fid is called fid_1');
    expect(isValid(path)).toBe(true);
    expect(checkGeodatabase(path)).toEqual([]);
    for (const r of receipts.slice(0, 2)) {
      const theirs = ogrinfo(path, r.table);
      expect(theirs).toContain(`Feature Count: ${r.written}`);
      const [minx, miny, maxx, maxy] = /Extent: \(([-\d.]+), ([-\d.]+)\) - \(([-\d.]+), ([-\d.]+)\)/.exec(theirs)!.slice(1).map(Number);
      [minx!, miny!, maxx!, maxy!].forEach((side, i) => expect(side).toBeCloseTo(r.extent![i]!, 4));
    }
    expect(ogrinfo(path, 'visits')).toContain('Feature Count: 2');
    expect(readdirSync(w.t.at('p')).filter((n) => /-(wal|shm|journal)$|rootmap-/.test(n))).toEqual([]);
  });

  test('a record with no place in the other CRS is skipped and told, and the others are still compared', async () => {
    const point = (y: number, n: number) => ({ type: 'Feature', properties: { n }, geometry: { type: 'Point', coordinates: [1, y] } });
    writeFileSync(
      w.t.at('p/poles.geojson'),
      JSON.stringify({ type: 'FeatureCollection', features: [point(10, 1), point(90, 2), point(20, 3)] }),
    );
    const { receipts } = await w.bringIn('new.gpkg', ['poles.geojson'], 'EPSG:3395'); // Mercator has no pole
    expect(receipts.map((r) => [r.read, r.written, r.skipped.map((s) => s.record), r.isEqual])).toEqual([[3, 2, [2], true]]);
  });

  test('one whose way into the CRS is not known is refused, and never labelled with it', async () => {
    writeFileSync(
      w.t.at('p/one.geojson'),
      JSON.stringify({ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [1, 2] } }),
    );
    const plan = planImport(w.scope(), w.find, w.t.at('p/new.gpkg'), w.items('one.geojson'), 'EPSG:999999', 'test');
    expect([plan.items[0]!.why, plan.change]).toEqual([expect.stringContaining('EPSG:999999 is not known here'), null]);
    const { receipts, failed } = await writeImport(
      w.find,
      [{ ...plan.items[0]!, crs: 'EPSG:999999' }],
      plan.path,
      w.t.at('staged'),
      () => undefined,
    );
    expect([receipts, failed]).toEqual([[], [expect.objectContaining({ why: expect.stringContaining('cannot be brought in') })]]);
    expect(existsSync(w.t.at('staged'))).toBe(false);
  });

  test('joins one that is there, whose tables stay; one undo puts the very file back', async () => {
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    const before = readFileSync(w.t.at('p/one.gpkg'));
    const { done, plan } = await w.bringIn('one.gpkg', ['shapes/columbus.shp', 'shapes/baltim.shp']);
    expect(plan.items.map((i) => i.table)).toEqual(['columbus_2', 'baltim']);
    expect(isValid(w.t.at('p/one.gpkg'))).toBe(true);
    const db = new Database(w.t.at('p/one.gpkg'), { readonly: true });
    expect(db.prepare('SELECT table_name FROM gpkg_contents ORDER BY 1').pluck().all()).toEqual(['baltim', 'columbus', 'columbus_2']);
    db.close();
    await undoChange(done.id, 'test', { journal: w.journal(), program: 'test' });
    expect(readFileSync(w.t.at('p/one.gpkg')).equals(before)).toBe(true);
  });

  test('one that was edited since stays, and is named', async () => {
    const { done } = await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    const db = new Database(w.t.at('p/one.gpkg'));
    db.exec('CREATE TABLE own (x)');
    db.close();
    const undone = await undoChange(done.id, 'test', { journal: w.journal(), program: 'test' });
    expect(undone.kept).toEqual([{ path: w.t.at('p/one.gpkg'), why: 'edited' }]);
    expect(existsSync(w.t.at('p/one.gpkg'))).toBe(true);
  });

  test('of another writer and an old edition, with tables that it lacks', async () => {
    copyFileSync('testdata/open/spdata/shapes/NY8_bna_utm18.gpkg', w.t.at('p/old.gpkg'));
    const { receipts } = await w.bringIn('old.gpkg', ['shapes/columbus.shp']);
    expect(receipts[0]!.isEqual).toBe(true);
    expect(ogrinfo(w.t.at('p/old.gpkg'), 'columbus')).toContain('Feature Count: 49');
    expect(checkGeodatabase(w.t.at('p/old.gpkg')).map((f) => f.requirement)).toContain(2);
  });

  test('names: proposed free and fine; one that is refused says why, and the rest goes on', () => {
    newGeopackage(w.t.at('p/a.gpkg'), () => undefined);
    const wanted = [
      { dataset: w.t.at('p/shapes/columbus.shp'), part: null, table: 'select' },
      { dataset: w.t.at('p/shapes/baltim.shp'), part: null, table: 'Baltim' },
      { dataset: w.t.at('p/visits.csv'), part: null, table: 'baltim' },
    ];
    const plan = planImport(w.scope(), w.find, w.t.at('p/a.gpkg'), wanted, null, 'test');
    expect(plan.items.map((i) => i.why)).toEqual(['it is a word of SQL', null, 'a table of that name is there already']);
    expect(proposeTableName('1 Beds & Banks', (n) => n === 't_1_Beds_Banks')).toBe('t_1_Beds_Banks_2');
    for (const name of ['', '1a', 'a b', 'gpkg_x', 'a'.repeat(61)]) expect(tableNameFault(name)).not.toBeNull();
    expect(tableNameFault('Å_2026')).toBeNull();
    expect(() => planImport(w.scope(), w.find, w.t.at('p/a.sqlite'), wanted, null, 'test')).toThrow('ends in .gpkg');
  });

  test('shapes of several kinds: one table for all, or one for each, and no record is lost', async () => {
    const feature = (n: number, geometry: unknown) => ({ type: 'Feature', properties: { n }, geometry });
    const features = [
      feature(1, { type: 'Point', coordinates: [1, 2] }),
      feature(2, {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [1, 1],
        ],
      }),
      feature(3, null),
      feature(4, {
        type: 'MultiLineString',
        coordinates: [
          [
            [0, 0],
            [1, 1],
          ],
          [
            [2, 2],
            [3, 3],
          ],
        ],
      }),
      feature(5, {
        type: 'Polygon',
        coordinates: [
          [
            [0, 0],
            [1, 0],
            [1, 1],
            [0, 0],
          ],
        ],
      }),
    ];
    writeFileSync(w.t.at('p/mixed.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
    const whole = planImport(w.scope(), w.find, w.t.at('p/a.gpkg'), w.items('mixed.geojson'), null, 'test').items[0]!;
    expect(whole.parts).toEqual(['points', 'lines', 'areas']);
    const wanted = whole.parts.map((part) => ({ dataset: whole.dataset, part, table: '' }));
    const plan = planImport(w.scope(), w.find, w.t.at('p/a.gpkg'), wanted, null, 'test');
    expect(plan.items.map((i) => i.table)).toEqual(['mixed_points', 'mixed_lines', 'mixed_areas']);
    const { receipts } = await writeImport(w.find, [whole, ...plan.items], plan.path, w.t.at('p/b.gpkg'), () => undefined);
    expect(receipts.map((r) => [r.table, r.written, r.nulls, r.isEqual])).toEqual([
      ['mixed', 5, 1, true],
      ['mixed_points', 2, 1, true],
      ['mixed_lines', 2, 0, true],
      ['mixed_areas', 1, 0, true],
    ]);
    expect([faultOf(w.t.at('p/b.gpkg')), checkGeodatabase(w.t.at('p/b.gpkg'))]).toEqual([null, []]);
    for (const [table, kind] of [
      ['mixed_points', 'Point'],
      ['mixed_lines', 'Multi Line String'],
      ['mixed_areas', 'Polygon'],
    ] as const)
      expect(ogrinfo(w.t.at('p/b.gpkg'), table)).toContain(`Geometry: ${kind}`);
  });

  test('areas that cross themselves come in as they are and are counted, or are made valid when asked', async () => {
    const bowTie = {
      type: 'Polygon',
      coordinates: [
        [
          [0, 0],
          [2, 2],
          [2, 0],
          [0, 2],
          [0, 0],
        ],
      ],
    };
    writeFileSync(w.t.at('p/bow.geojson'), JSON.stringify({ type: 'Feature', properties: { n: 1 }, geometry: bowTie }));
    const plan = planImport(w.scope(), w.find, w.t.at('p/a.gpkg'), w.items('bow.geojson'), null, 'test');
    const valid = (file: string): string =>
      gdal('ogrinfo', '-q', w.t.at('p', file), '-dialect', 'sqlite', '-sql', 'SELECT ST_IsValid(geom) AS v, ST_Area(geom) AS a FROM bow');
    const {
      receipts: [kept],
    } = await writeImport(w.find, plan.items, plan.path, w.t.at('p/kept.gpkg'), () => undefined);
    expect(kept).toMatchObject({ invalid: 1, fixed: 0, isExtentEqual: true, isEqual: true });
    expect(kept!.firstInvalid).toEqual([{ record: 1, why: 'its outline crosses itself at 1 1' }]);
    expect(valid('kept.gpkg')).toContain('v (Integer) = 0');
    const {
      receipts: [made],
    } = await writeImport(w.find, plan.items, plan.path, w.t.at('p/made.gpkg'), () => undefined, { makesValid: true });
    expect(made).toMatchObject({ invalid: 1, fixed: 1, written: 1, isEqual: true });
    expect(valid('made.gpkg')).toMatch(/v \(Integer\) = 1[^]*a \(Real\) = 2\b/);
    expect(faultOf(w.t.at('p/made.gpkg'))).toBeNull();
  });

  test('whatever step it stops before, the file is the old one or the new one, and valid', async () => {
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    const before = readFileSync(w.t.at('p/one.gpkg'));
    const gone = { pid: 999_999, startTime: '1', bootId: 'x', program: 'test' };
    let steps = 0;
    for (let stop = 1; ; stop++) {
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      try {
        const { done } = await w.bringIn('one.gpkg', ['visits.csv'], null, disk);
        await undoChange(done.id, 'test', { journal: w.journal(), program: 'test' });
        break;
      } catch (error) {
        expect(error).toBeInstanceOf(StopHere);
        steps++;
      }
      await w.store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
      const [recovered] = await recoverChanges(w.journal());
      expect(isValid(w.t.at('p/one.gpkg'))).toBe(true);
      if (recovered!.outcome === 'finished') await undoChange(recovered!.change.id, 'test', { journal: w.journal(), program: 'test' });
      expect([stop, readFileSync(w.t.at('p/one.gpkg')).equals(before)]).toEqual([stop, true]);
    }
    expect(steps).toBeGreaterThan(3);
  });

  test('one that changes meanwhile is left as it is, and told', async () => {
    await w.bringIn('one.gpkg', ['shapes/columbus.shp']);
    const plan = planImport(w.scope(), w.find, w.t.at('p/one.gpkg'), w.items('visits.csv'), null, 'test');
    const touch = (): void => {
      const db = new Database(plan.path);
      db.exec('CREATE TABLE other (x)');
      db.close();
    };
    let isFirst = true;
    const onProgress = (): void => {
      if (isFirst) touch();
      isFirst = false;
    };
    writeFileSync(w.t.at('p/visits.csv'), `a\n${'1\n'.repeat(5000)}`);
    await expect(writeImport(w.find, plan.items, plan.path, w.t.at('p/staged'), onProgress)).rejects.toThrow('changed');
    expect(existsSync(w.t.at('p/staged'))).toBe(false);
  });
});
