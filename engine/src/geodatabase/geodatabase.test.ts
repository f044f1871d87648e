import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { execFileSync } from 'node:child_process';
import { copyFileSync, cpSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { proposeTableName, tableNameFault, writeProjectFile, writeShapefile } from '@rootmap/core';
import { ChangeDisk } from '../changes/disk.js';
import { recoverChanges } from '../changes/recover.js';
import { runChange, StopHere } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { newGeopackage } from '../geopackage-write/new-geopackage.js';
import { stageEmpty } from '../geopackage-write/stage-empty.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import sharp from 'sharp';
import { createSchema } from '../geopackage-write/schema.js';
import { writeRaster } from '../geopackage-write/write-raster.js';
import { platformBelow } from '../survey/platform.js';
import { openPixels } from '../pixels/open-pixels.js';
import { findDataset } from '../project/find-dataset.js';
import { faultOf, gdal, ogrinfo } from '../../test/geopackage-validator.js';
import { TestFolder } from '../../test/test-project.js';
import { checkGeodatabase } from './check-geodatabase.js';
import { isSamePicture } from './compare-raster.js';
import { HalfWriter, type ImportHelper } from './import-half.js';
import { planImport } from './plan-import.js';
import { planUseTables } from './use-tables.js';
import { writeImport } from './write-import.js';

const isValid = (path: string): boolean => faultOf(path) === null;

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('p'));
  writeFileSync(
    t.at('p/p.rootmap.json'),
    writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: 'EPSG:32624', folders: {} }),
  );
  cpSync('testdata/open/spdata/shapes', t.at('p/shapes'), { recursive: true });
  writeFileSync(t.at('p/visits.csv'), 'site,n,day,fid\nÆ,3,2026-03-01,7\nB,,2026-03-02,8\n');
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const find = (id: string) => findDataset(scope(), id);
const journal = () => new SqlJournal(store);
const items = (...names: string[]) => names.map((n) => ({ dataset: t.at('p', n), part: null, table: '' }));
async function bringIn(path: string, names: readonly string[], crs: string | null = null, disk?: ChangeDisk) {
  const plan = planImport(scope(), find, t.at('p', path), items(...names), crs, 'test');
  const wanted = plan.items.filter((i) => i.why === null);
  let receipts: Awaited<ReturnType<typeof writeImport>> = [];
  const stage = async (staged: string): Promise<void> => {
    receipts = await writeImport(find, wanted, plan.path, staged, () => undefined);
  };
  const done = await runChange(plan.change!, { journal: journal(), program: 'test', stage, ...(disk ? { disk } : {}) });
  return { plan, receipts, done };
}

describe('a queue of datasets', () => {
  test('becomes tables of a new geodatabase that another program reads with the same counts and extents', async () => {
    const { receipts, plan } = await bringIn('new.gpkg', ['shapes/columbus.shp', 'shapes/baltim.shp', 'visits.csv']);
    const path = t.at('p/new.gpkg');
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
    expect(readdirSync(t.at('p')).filter((n) => /-(wal|shm|journal)$|rootmap-/.test(n))).toEqual([]);
  });

  test('a record with no place in the other CRS is skipped and told, and the others are still compared', async () => {
    const point = (y: number, n: number) => ({ type: 'Feature', properties: { n }, geometry: { type: 'Point', coordinates: [1, y] } });
    writeFileSync(
      t.at('p/poles.geojson'),
      JSON.stringify({ type: 'FeatureCollection', features: [point(10, 1), point(90, 2), point(20, 3)] }),
    );
    const { receipts } = await bringIn('new.gpkg', ['poles.geojson'], 'EPSG:3395'); // Mercator has no pole
    expect(receipts.map((r) => [r.read, r.written, r.skipped.map((s) => s.record), r.isEqual])).toEqual([[3, 2, [2], true]]);
  });

  test('one whose way into the CRS is not known is refused, and never labelled with it', async () => {
    writeFileSync(
      t.at('p/one.geojson'),
      JSON.stringify({ type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [1, 2] } }),
    );
    const plan = planImport(scope(), find, t.at('p/new.gpkg'), items('one.geojson'), 'EPSG:999999', 'test');
    expect([plan.items[0]!.why, plan.change]).toEqual([expect.stringContaining('EPSG:999999 is not known here'), null]);
    await expect(
      writeImport(find, [{ ...plan.items[0]!, crs: 'EPSG:999999' }], plan.path, t.at('staged'), () => undefined),
    ).rejects.toThrow('cannot be brought in');
    expect(existsSync(t.at('staged'))).toBe(false);
  });

  test('joins one that is there, whose tables stay; one undo puts the very file back', async () => {
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    const before = readFileSync(t.at('p/one.gpkg'));
    const { done, plan } = await bringIn('one.gpkg', ['shapes/columbus.shp', 'shapes/baltim.shp']);
    expect(plan.items.map((i) => i.table)).toEqual(['columbus_2', 'baltim']);
    expect(isValid(t.at('p/one.gpkg'))).toBe(true);
    const db = new Database(t.at('p/one.gpkg'), { readonly: true });
    expect(db.prepare('SELECT table_name FROM gpkg_contents ORDER BY 1').pluck().all()).toEqual(['baltim', 'columbus', 'columbus_2']);
    db.close();
    await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    expect(readFileSync(t.at('p/one.gpkg')).equals(before)).toBe(true);
  });

  test('one that was edited since stays, and is named', async () => {
    const { done } = await bringIn('one.gpkg', ['shapes/columbus.shp']);
    const db = new Database(t.at('p/one.gpkg'));
    db.exec('CREATE TABLE own (x)');
    db.close();
    const undone = await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    expect(undone.kept).toEqual([t.at('p/one.gpkg')]);
    expect(existsSync(t.at('p/one.gpkg'))).toBe(true);
  });

  test('of another writer and an old edition, with tables that it lacks', async () => {
    copyFileSync('testdata/open/spdata/shapes/NY8_bna_utm18.gpkg', t.at('p/old.gpkg'));
    const { receipts } = await bringIn('old.gpkg', ['shapes/columbus.shp']);
    expect(receipts[0]!.isEqual).toBe(true);
    expect(ogrinfo(t.at('p/old.gpkg'), 'columbus')).toContain('Feature Count: 49');
    expect(checkGeodatabase(t.at('p/old.gpkg')).map((f) => f.requirement)).toContain(2);
  });

  test('names: proposed free and fine; one that is refused says why, and the rest goes on', () => {
    newGeopackage(t.at('p/a.gpkg'), () => undefined);
    const wanted = [
      { dataset: t.at('p/shapes/columbus.shp'), part: null, table: 'select' },
      { dataset: t.at('p/shapes/baltim.shp'), part: null, table: 'Baltim' },
      { dataset: t.at('p/visits.csv'), part: null, table: 'baltim' },
    ];
    const plan = planImport(scope(), find, t.at('p/a.gpkg'), wanted, null, 'test');
    expect(plan.items.map((i) => i.why)).toEqual(['it is a word of SQL', null, 'a table of that name is there already']);
    expect(proposeTableName('1 Beds & Banks', (n) => n === 't_1_Beds_Banks')).toBe('t_1_Beds_Banks_2');
    for (const name of ['', '1a', 'a b', 'gpkg_x', 'a'.repeat(61)]) expect(tableNameFault(name)).not.toBeNull();
    expect(tableNameFault('Å_2026')).toBeNull();
    expect(() => planImport(scope(), find, t.at('p/a.sqlite'), wanted, null, 'test')).toThrow('ends in .gpkg');
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
    writeFileSync(t.at('p/mixed.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
    const whole = planImport(scope(), find, t.at('p/a.gpkg'), items('mixed.geojson'), null, 'test').items[0]!;
    expect(whole.parts).toEqual(['points', 'lines', 'areas']);
    const wanted = whole.parts.map((part) => ({ dataset: whole.dataset, part, table: '' }));
    const plan = planImport(scope(), find, t.at('p/a.gpkg'), wanted, null, 'test');
    expect(plan.items.map((i) => i.table)).toEqual(['mixed_points', 'mixed_lines', 'mixed_areas']);
    const receipts = await writeImport(find, [whole, ...plan.items], plan.path, t.at('p/b.gpkg'), () => undefined);
    expect(receipts.map((r) => [r.table, r.written, r.nulls, r.isEqual])).toEqual([
      ['mixed', 5, 1, true],
      ['mixed_points', 2, 1, true],
      ['mixed_lines', 2, 0, true],
      ['mixed_areas', 1, 0, true],
    ]);
    expect([faultOf(t.at('p/b.gpkg')), checkGeodatabase(t.at('p/b.gpkg'))]).toEqual([null, []]);
    for (const [table, kind] of [
      ['mixed_points', 'Point'],
      ['mixed_lines', 'Multi Line String'],
      ['mixed_areas', 'Polygon'],
    ] as const)
      expect(ogrinfo(t.at('p/b.gpkg'), table)).toContain(`Geometry: ${kind}`);
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
    writeFileSync(t.at('p/bow.geojson'), JSON.stringify({ type: 'Feature', properties: { n: 1 }, geometry: bowTie }));
    const plan = planImport(scope(), find, t.at('p/a.gpkg'), items('bow.geojson'), null, 'test');
    const valid = (file: string): string =>
      gdal('ogrinfo', '-q', t.at('p', file), '-dialect', 'sqlite', '-sql', 'SELECT ST_IsValid(geom) AS v, ST_Area(geom) AS a FROM bow');
    const [kept] = await writeImport(find, plan.items, plan.path, t.at('p/kept.gpkg'), () => undefined);
    expect(kept).toMatchObject({ invalid: 1, fixed: 0, isExtentEqual: true, isEqual: true });
    expect(kept!.firstInvalid).toEqual([{ record: 1, why: 'its outline crosses itself at 1 1' }]);
    expect(valid('kept.gpkg')).toContain('v (Integer) = 0');
    const [made] = await writeImport(find, plan.items, plan.path, t.at('p/made.gpkg'), () => undefined, { makesValid: true });
    expect(made).toMatchObject({ invalid: 1, fixed: 1, written: 1, isEqual: true });
    expect(valid('made.gpkg')).toMatch(/v \(Integer\) = 1[^]*a \(Real\) = 2\b/);
    expect(faultOf(t.at('p/made.gpkg'))).toBeNull();
  });

  test('whatever step it stops before, the file is the old one or the new one, and valid', async () => {
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    const before = readFileSync(t.at('p/one.gpkg'));
    const gone = { pid: 999_999, startTime: '1', bootId: 'x', program: 'test' };
    let steps = 0;
    for (let stop = 1; ; stop++) {
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      try {
        const { done } = await bringIn('one.gpkg', ['visits.csv'], null, disk);
        await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
        break;
      } catch (error) {
        expect(error).toBeInstanceOf(StopHere);
        steps++;
      }
      await store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
      const [recovered] = await recoverChanges(journal());
      expect(isValid(t.at('p/one.gpkg'))).toBe(true);
      if (recovered!.outcome === 'finished') await undoChange(recovered!.change.id, 'test', { journal: journal(), program: 'test' });
      expect([stop, readFileSync(t.at('p/one.gpkg')).equals(before)]).toEqual([stop, true]);
    }
    expect(steps).toBeGreaterThan(3);
  });

  test('one that changes meanwhile is left as it is, and told', async () => {
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    const plan = planImport(scope(), find, t.at('p/one.gpkg'), items('visits.csv'), null, 'test');
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
    writeFileSync(t.at('p/visits.csv'), `a\n${'1\n'.repeat(5000)}`);
    await expect(writeImport(find, plan.items, plan.path, t.at('p/staged'), onProgress)).rejects.toThrow('changed');
    expect(existsSync(t.at('p/staged'))).toBe(false);
  });
});

describe('rasters', () => {
  // The open data as it is, larger than a tile, in bytes, in three bands, and with a palette.
  test.each([
    ['elev', []],
    ['grain', []],
    ['elev', ['-outsize', '700', '500', '-r', 'bilinear', '-ot', 'Float32', '-a_nodata', '-1']],
    ['elev', ['-outsize', '300', '600', '-ot', 'Byte', '-scale', '-co', 'TILED=YES', '-co', 'COMPRESS=LZW']],
    ['elev', ['-b', '1', '-b', '1', '-b', '1', '-ot', 'Byte', '-scale', '-colorinterp', 'red,green,blue', '-co', 'COMPRESS=DEFLATE']],
  ] as const)('%s %j: every pixel as gdallocationinfo reads it', async (name, options) => {
    gdal('gdal_translate', '-q', ...options, `testdata/open/spdata/raster/${name}.tif`, t.at('p/r.tif'));
    const { receipts, plan } = await bringIn('r.gpkg', ['r.tif']);
    expect([plan.items[0]!.why, receipts[0]!.isEqual]).toEqual([null, true]);
    const path = t.at('p/r.gpkg');
    expect(isValid(path)).toBe(true);
    expect(checkGeodatabase(path)).toEqual([]);
    const info = JSON.parse(gdal('gdalinfo', '-json', path)) as { bands: { overviews?: unknown[] }[]; geoTransform: number[] };
    const before = JSON.parse(gdal('gdalinfo', '-json', t.at('p/r.tif'))) as {
      size: [number, number];
      geoTransform: number[];
      bands: { noDataValue?: number }[];
    };
    expect(info.bands[0]!.overviews?.length ?? 0).toBe(Math.max(0, Math.ceil(Math.log2(Math.max(...before.size) / 256))));
    const nodata = before.bands[0]!.noDataValue;
    const [left, px, , top, , py] = before.geoTransform as [number, number, number, number, number, number];
    const at = Array.from({ length: 30 }, (_, i) => [(i * 7919) % before.size[0], (i * 104729) % before.size[1]] as const);
    const points = at.map(([c, r]) => `${left + (c + 0.5) * px} ${top + (r + 0.5) * py}`).join('\n');
    const values = (file: string): number[] =>
      execFileSync('gdallocationinfo', ['-valonly', '-geoloc', '-b', '1', file], { input: points })
        .toString()
        .trim()
        .split('\n')
        .map(Number);
    const theirs = values(t.at('p/r.tif'));
    // The tables are read here as GDAL reads them, at the same places.
    const table = findDataset(scope(), `${path}#r`);
    const pixels = (await openPixels(t.at('p'), table.dataset.group, 'r', platformBelow(t.at('p'))))!;
    const own = await pixels.values(
      Int32Array.from(at, ([c]) => c),
      Int32Array.from(at, ([, r]) => r),
      1,
    );
    if (own) values(path).forEach((v, i) => expect(Number.isNaN(own[i]!) ? -9999 : own[i]!).toBeCloseTo(v, 3));
    pixels.close();
    // What was no value in the one is none in the other.
    values(path).forEach((v, i) => (v === -9999 ? expect(theirs[i]).toBe(nodata) : expect(v).toBeCloseTo(theirs[i]!, 3)));
  });
});

test.each(['coverage', 'tiles'])('a pixel that is written wrongly is found on reading back: %s', async (kind) => {
  const scaled = kind === 'tiles' ? ['-b', '1', '-b', '1', '-b', '1', '-ot', 'Byte', '-scale', '-colorinterp', 'red,green,blue'] : [];
  gdal('gdal_translate', '-q', ...scaled, 'testdata/open/spdata/raster/elev.tif', t.at('p/r.tif'));
  const { folder, dataset } = find(t.at('p/r.tif'));
  const pixels = (await openPixels(folder, dataset.group, null, platformBelow(folder)))!;
  const db = new Database(t.at('r.gpkg'));
  db.unsafeMode(true);
  createSchema(db);
  const written = await writeRaster(db, { name: 'r', crs: null, extent: dataset.bbox! }, pixels);
  expect([written.kind, await isSamePicture(db, 'r', written, pixels)]).toEqual([kind, true]);
  const tiles = db.prepare<[], { id: number; data: Buffer }>('SELECT id, tile_data AS data FROM r ORDER BY zoom_level DESC').all();
  const spoiled =
    kind === 'coverage'
      ? Buffer.from(tiles[0]!.data.map((b, i) => (i >= 8 && i < 4000 ? 7 : b)))
      : await sharp({ create: { width: 256, height: 256, channels: 3, background: '#123456' } })
          .png()
          .toBuffer();
  db.prepare('UPDATE r SET tile_data = ? WHERE id = ?').run(spoiled, tiles[0]!.id);
  expect(await isSamePicture(db, 'r', written, pixels)).toBe(false);
  db.close();
  pixels.close();
});

describe('rasters that are turned', () => {
  test('stay where they are, with the reason', () => {
    cpSync('testdata/open/sf/tif/geomatrix.tif', t.at('p/r.tif'));
    expect(planImport(scope(), find, t.at('p/r.gpkg'), items('r.tif'), null, 'test').items[0]!.why).toContain('it is turned');
  });
});

describe('maps that use the tables', () => {
  test('href, code and type are rewritten, and not a byte more; other layers stay', async () => {
    t.map('p/maps/a.owc.json', ['../shapes/columbus.shp', '../shapes/baltim.shp']);
    const before = readFileSync(t.at('p/maps/a.owc.json'), 'utf8');
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    const { steps, layers } = planUseTables(scope(), [{ from: t.at('p/shapes/columbus.shp'), to: `${t.at('p/one.gpkg')}#columbus` }]);
    expect(layers.map((l) => [l.before, l.after])).toEqual([['../shapes/columbus.shp', '../one.gpkg#columbus']]);
    const after = Buffer.from((steps[0] as { after: Uint8Array }).after).toString();
    const changed = after.split('\n').filter((line, i) => line !== before.split('\n')[i]);
    expect(after.split('\n')).toHaveLength(before.split('\n').length);
    expect(changed.map((line) => /"(\w+)":/.exec(line)![1]).sort()).toEqual(['code', 'href', 'type']);
  });
});

describe('maps that name no table', () => {
  test('say which one they mean when a second one comes, in the same change', async () => {
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    t.map('p/maps/a.owc.json', ['../one.gpkg', '../shapes/baltim.shp']);
    const before = readFileSync(t.at('p/maps/a.owc.json'), 'utf8');
    const { plan, done } = await bringIn('one.gpkg', ['shapes/baltim.shp']);
    expect(plan.named).toBe(1);
    const after = readFileSync(t.at('p/maps/a.owc.json'), 'utf8').split('\n');
    expect(after.filter((line, i) => line !== before.split('\n')[i])).toEqual([expect.stringContaining('"../one.gpkg#columbus"')]);
    await undoChange(done.id, 'test', { journal: journal(), program: 'test' });
    expect(readFileSync(t.at('p/maps/a.owc.json'), 'utf8')).toBe(before);
    expect(planImport(scope(), find, t.at('p/new.gpkg'), items('shapes/baltim.shp'), null, 'test').named).toBe(0);
  });
});

describe('held against the standard', () => {
  const damaged = (sql: string): string => {
    const path = t.at('p/d.gpkg');
    copyFileSync(t.at('p/one.gpkg'), path);
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
    await bringIn('one.gpkg', ['shapes/columbus.shp']);
    expect(checkGeodatabase(t.at('p/one.gpkg'))).toEqual([]);
    expect(checkGeodatabase(damaged(sql)).map((f) => f.requirement)).toContain(requirement);
  });
  test('no database, and an empty one that is new', async () => {
    writeFileSync(t.at('p/x.gpkg'), 'no database');
    expect(checkGeodatabase(t.at('p/x.gpkg')).map((f) => f.requirement)).toEqual([1]);
    await stageEmpty('EPSG:32624')(t.at('p/empty.gpkg'));
    expect(checkGeodatabase(t.at('p/empty.gpkg'))).toEqual([]);
    expect(isValid(t.at('p/empty.gpkg'))).toBe(true);
    expect(statSync(t.at('p/empty.gpkg')).size).toBeGreaterThan(0);
  });
});

describe('a large dataset that two threads share', () => {
  /** The second thread's work, done here: the thread itself runs in the command line's test of large imports. */
  const helper = (): ImportHelper & { close(): void } => {
    const writer = new HalfWriter();
    return {
      start: () => undefined,
      write: (order) => writer.write(order),
      check: (order) => Promise.resolve(writer.check(order)),
      close: () => writer.close(),
    };
  };
  const N = 50_001;
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
      writeFileSync(t.at(`p/large.${e}`), bytes);
  };
  const rowsOf = (path: string): unknown[] => {
    const db = new Database(path, { readonly: true });
    const rows = db.prepare('SELECT fid, hex(geom), n, half, text FROM large ORDER BY fid').raw().all();
    db.close();
    return rows;
  };

  test('gives the same table as one thread, index and all', async () => {
    makeLarge();
    const plan = planImport(scope(), find, t.at('p/x.gpkg'), items('large.shp'), null, 'test');
    const second = helper();
    const [alone] = await writeImport(find, plan.items, t.at('none'), t.at('p/alone.gpkg'), () => undefined);
    const [shared] = await writeImport(find, plan.items, t.at('none'), t.at('p/shared.gpkg'), () => undefined, { helper: second });
    second.close();
    expect(shared).toEqual(alone);
    expect(shared).toMatchObject({ read: N, written: N, nulls: 50, isEqual: true });
    expect(rowsOf(t.at('p/shared.gpkg'))).toEqual(rowsOf(t.at('p/alone.gpkg')));
    expect([faultOf(t.at('p/shared.gpkg')), checkGeodatabase(t.at('p/shared.gpkg'))]).toEqual([null, []]);
    const db = new Database(t.at('p/shared.gpkg'), { readonly: true });
    expect(db.prepare("SELECT rtreecheck('rtree_large_geom')").pluck().get()).toBe('ok');
    db.close();
  });

  test('a value that is written wrongly in either half is found on reading back', async () => {
    makeLarge();
    const plan = planImport(scope(), find, t.at('p/x.gpkg'), items('large.shp'), null, 'test');
    for (const fid of [3, N - 3])
      for (const column of ['n', 'half', 'text']) {
        const second = helper();
        const spoiling: ImportHelper = {
          ...second,
          check: (order) => {
            const db = new Database(order.path);
            db.exec(`UPDATE large SET ${column} = 77 WHERE fid = ${fid}`);
            db.close();
            return second.check(order);
          },
        };
        const [receipt] = await writeImport(find, plan.items, t.at('none'), t.at(`p/s${fid}${column}.gpkg`), () => undefined, {
          helper: spoiling,
        });
        second.close();
        expect([fid, column, receipt!.isEqual]).toEqual([fid, column, false]);
      }
  });
});
