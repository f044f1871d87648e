import { execFileSync } from 'node:child_process';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import Database from 'better-sqlite3';
import { noCrsTable } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { newSha256 } from '../survey/platform.js';
import { describeGeopackage } from './describe-geopackage.js';
import { fullGeopackageTable } from './full-geopackage-table.js';

let folder: string;
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-gpkg-'));
});
afterEach(() => rmSync(folder, { recursive: true }));
const at = (name: string): string => join(folder, name);

/** A copy taken while the database is open in WAL mode: what was written last stands in the -wal alone. */
function inWalMode(): void {
  copyFileSync('testdata/open/sf/gpkg/nospatial.gpkg', at('open.gpkg'));
  const db = new Database(at('open.gpkg'));
  db.pragma('journal_mode = WAL');
  db.pragma('wal_autocheckpoint = 0');
  db.exec('INSERT INTO nospatial SELECT fid + 100, a, b FROM nospatial'.replace(', a, b', columns(db)));
  for (const ending of ['', '-wal']) copyFileSync(at(`open.gpkg${ending}`), at(`x.gpkg${ending}`));
  db.close();
  for (const f of readdirSync(folder).filter((n) => n.startsWith('open'))) rmSync(at(f));
}
const columns = (db: Database.Database): string =>
  (db.pragma('table_info(nospatial)') as { name: string; pk: number }[])
    .filter((c) => !c.pk)
    .map((c) => `, "${c.name}"`)
    .join('');

test('a database in WAL mode is read with what its -wal holds, and nothing is left beside it', () => {
  inWalMode();
  expect(readFileSync(at('x.gpkg'))[18]).toBe(2);
  const before = readdirSync(folder).sort();
  const bytes = readFileSync(at('x.gpkg'));
  const tables = describeGeopackage(at('x.gpkg'), 'x.gpkg', noCrsTable);
  expect(tables.map((t) => [t.table, t.kind, t.featureCount])).toEqual([['nospatial', 'table', 2]]);
  expect(fullGeopackageTable(at('x.gpkg'), 'nospatial', tables[0]!, newSha256).hash).toMatch(/^sha256:/);
  expect(readdirSync(folder).sort()).toEqual(before);
  expect(readFileSync(at('x.gpkg')).equals(bytes)).toBe(true);
});

// Outside reference: the extent that ogr2ogr writes down, which is taken out of the file; it computes it from the shapes.
test.each(['areas', 'points', 'heights'])('a table whose extent nobody wrote down lies where its shapes are: %s', (kind) => {
  const path = at(`${kind}.gpkg`);
  const shapes = { areas: 'sids.shp', points: 'baltim.shp', heights: 'baltim.shp' }[kind]!;
  execFileSync('ogr2ogr', [path, `testdata/open/spdata/shapes/${shapes}`, '-nln', 'own', ...(kind === 'heights' ? ['-dim', 'XYZ'] : [])]);
  const db = new Database(path);
  const written = db.prepare('SELECT min_x, min_y, max_x, max_y FROM gpkg_contents').raw().get() as number[];
  db.exec('UPDATE gpkg_contents SET min_x = NULL, min_y = NULL, max_x = NULL, max_y = NULL');
  db.close();
  const [table] = describeGeopackage(path, 'own.gpkg', noCrsTable);
  expect(written.every(Number.isFinite)).toBe(true);
  expect(table!.bbox).toEqual(written);
});

test('the hash is that of schema and rows, whatever the file looks like', () => {
  const source = 'testdata/open/sf/gpkg/nc.gpkg';
  copyFileSync(source, at('a.gpkg'));
  const hash = (): string | null =>
    fullGeopackageTable(at('a.gpkg'), 'nc.gpkg', describeGeopackage(at('a.gpkg'), 'a', noCrsTable)[0]!, newSha256).hash;
  const first = hash();
  const db = new Database(at('a.gpkg'));
  db.exec('VACUUM');
  db.close();
  expect(readFileSync(at('a.gpkg')).equals(readFileSync(source))).toBe(false);
  expect(hash()).toBe(first);
  const again = new Database(at('a.gpkg'));
  for (const { name } of again.prepare("SELECT name FROM sqlite_master WHERE type = 'trigger'").all() as { name: string }[])
    again.exec(`DROP TRIGGER "${name}"`);
  again.exec(`UPDATE "nc.gpkg" SET AREA = AREA + 1 WHERE rowid = 1`);
  again.close();
  expect(hash()).not.toBe(first);
});

test('the same data as shapefile and as table has the same vertices and grid', async () => {
  const { surveyFolder } = await import('../survey/list-datasets.js');
  const { fullFingerprint } = await import('../fingerprint/full-fingerprint.js');
  const [gpkg] = surveyFolder('testdata/open/sf/gpkg').datasets.filter((d) => d.table === 'nc.gpkg');
  const [shp] = surveyFolder('testdata/open/sf/shape').datasets.filter((d) => d.id === 'nc.shp');
  const a = fullFingerprint('testdata/open/sf/gpkg', gpkg!);
  const b = fullFingerprint('testdata/open/sf/shape', shp!);
  expect([a.count, a.vertices, a.crs]).toEqual([b.count, b.vertices, b.crs]);
  expect(a.grid).toBe(b.grid);
});
