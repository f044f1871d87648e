import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { writeFileSync } from 'node:fs';
import { datasetId, writeShapefile } from '@rootmap/core';
import { EVERY_RECORD } from '@rootmap/core/contract';
import { faultOf } from '../../test/geopackage-validator.js';
import { checkGeodatabase } from './check-geodatabase.js';
import { definitionOf } from '../crs/definitions.js';
import { writeExport } from '../export/write-export.js';
import { HalfWriter, type HalfHelper, type HalfOrder } from './half-writer.js';
import { planImport } from './plan-import.js';
import { writeImport } from './write-import.js';
import { ImportWorld } from '../../test/import-world.js';

let w: ImportWorld;
beforeEach(async () => {
  w = await ImportWorld.open();
});
afterEach(() => w.close());

describe('a large dataset that two threads share', () => {
  /** The second thread's work, done here: the thread itself runs in the command line's test of large imports. */
  const helper = (): HalfHelper & { close(): void } => {
    const writer = new HalfWriter();
    return {
      start: () => undefined,
      write: (order) => writer.write(order),
      index: (rows) => Promise.resolve(writer.index(rows)),
      check: (order) => Promise.resolve(writer.check(order)),
      close: () => writer.close(),
    };
  };
  const N = 60_001;
  const makeLarge = (): void => {
    const date = { year: 2026, month: 1, day: 1 };
    const shapes = Array.from({ length: N }, (_, i) => (i % 1000 === 7 ? null : [[[i, i % 977] as const]]));
    const fields = [
      { name: 'n', code: 'N', lengthBytes: 9 },
      { name: 'half', code: 'N', lengthBytes: 12, decimals: 3 },
      { name: 'text', code: 'C', lengthBytes: 12 },
    ] as const;
    const rows = Array.from({ length: N }, (_, i) => [i, i / 8, i % 3 ? `Ä "${i}"` : null]);
    for (const [e, bytes] of Object.entries(writeShapefile({ shapeType: 1, shapes, fields, rows, date })))
      writeFileSync(w.t.at(`p/large.${e}`), bytes);
  };
  const rowsOf = (path: string): unknown[] => {
    const db = new Database(path, { readonly: true });
    const rows = db.prepare('SELECT fid, hex(geom), n, half, text FROM large ORDER BY fid').raw().all();
    db.close();
    return rows;
  };

  /** What SQLite's own check (rtree.c, rtreecheck) says of the index, and its tables. */
  const indexOf = (path: string): unknown[] => {
    const db = new Database(path, { readonly: true });
    const name = 'rtree_large_geom';
    const tables = ['node', 'parent', 'rowid'].map((end) => db.prepare(`SELECT * FROM "${name}_${end}" ORDER BY 1`).raw().all());
    const said = db.prepare(`SELECT rtreecheck('${name}')`).pluck().get();
    db.close();
    return [said, ...tables];
  };

  test('gives the same table as one thread, index and all', async () => {
    makeLarge();
    const plan = planImport(w.scope(), w.find, w.t.at('p/x.gpkg'), w.items('large.shp'), null, 'test');
    const second = helper();
    const {
      receipts: [alone],
    } = await writeImport(w.find, plan.items, w.t.at('none'), w.t.at('p/alone.gpkg'), () => undefined);
    const {
      receipts: [shared],
    } = await writeImport(w.find, plan.items, w.t.at('none'), w.t.at('p/shared.gpkg'), () => undefined, { helper: second });
    second.close();
    expect(shared).toEqual(alone);
    expect(shared).toMatchObject({ read: N, written: N, nulls: 60, isEqual: true });
    expect(rowsOf(w.t.at('p/shared.gpkg'))).toEqual(rowsOf(w.t.at('p/alone.gpkg')));
    expect([faultOf(w.t.at('p/shared.gpkg')), checkGeodatabase(w.t.at('p/shared.gpkg'))]).toEqual([null, []]);
    const db = new Database(w.t.at('p/shared.gpkg'), { readonly: true });
    expect(db.prepare("SELECT rtreecheck('rtree_large_geom')").pluck().get()).toBe('ok');
    db.close();
  });

  test('a value that is written wrongly in either half is found on reading back', async () => {
    makeLarge();
    const plan = planImport(w.scope(), w.find, w.t.at('p/x.gpkg'), w.items('large.shp'), null, 'test');
    for (const fid of [3, N - 3])
      for (const column of ['n', 'half', 'text']) {
        const second = helper();
        const spoiling: HalfHelper = {
          ...second,
          check: (order) => {
            const db = new Database(order.path);
            db.exec(`UPDATE large SET ${column} = 77 WHERE fid = ${fid}`);
            db.close();
            return second.check(order);
          },
        };
        const {
          receipts: [receipt],
        } = await writeImport(w.find, plan.items, w.t.at('none'), w.t.at(`p/s${fid}${column}.gpkg`), () => undefined, {
          helper: spoiling,
        });
        second.close();
        expect([fid, column, receipt!.isEqual]).toEqual([fid, column, false]);
      }
  });

  test.each([
    ['a shapefile', null],
    ['a table whose keys have gaps', 'EPSG:32625'],
  ])('a part of %s is taken out as by one thread, in the same order', async (what, crs) => {
    makeLarge();
    writeFileSync(w.t.at('p/large.prj'), definitionOf('EPSG:32624')!.wkt);
    if (what !== 'a shapefile') {
      const plan = planImport(w.scope(), w.find, w.t.at('p/all.gpkg'), w.items('large.shp'), null, 'test');
      await writeImport(w.find, plan.items, w.t.at('none'), w.t.at('p/all.gpkg'), () => undefined);
      const db = new Database(w.t.at('p/all.gpkg'));
      db.exec('DELETE FROM large WHERE fid % 7 = 2 AND geom IS NOT NULL');
      db.close();
    }
    const found = w.find(what === 'a shapefile' ? w.t.at('p/large.shp') : datasetId(w.t.at('p/all.gpkg'), 'large'));
    const selection = { ...EVERY_RECORD, filter: 'n >= 100 AND text IS NOT NULL' };
    const wanted = { format: 'geopackage', crs, selection, name: 'large' } as const;
    const second = helper();
    let asked = 0;
    const counted = { ...second, write: (order: HalfOrder) => (asked++, second.write(order)) };
    const alone = await writeExport(found, wanted, { gpkg: w.t.at('p/alone.gpkg') }, () => undefined);
    const shared = await writeExport(found, wanted, { gpkg: w.t.at('p/shared.gpkg') }, () => undefined, counted);
    second.close();
    expect(asked).toBe(1);
    expect(shared).toEqual(alone);
    expect(rowsOf(w.t.at('p/shared.gpkg'))).toEqual(rowsOf(w.t.at('p/alone.gpkg')));
    expect(rowsOf(w.t.at('p/shared.gpkg')).length).toBeGreaterThan(25_000);
    expect([faultOf(w.t.at('p/shared.gpkg')), checkGeodatabase(w.t.at('p/shared.gpkg'))]).toEqual([null, []]);
    const index = indexOf(w.t.at('p/shared.gpkg'));
    expect(index[0]).toBe('ok');
    expect(index).toEqual(indexOf(w.t.at('p/alone.gpkg')));
  });
});
