import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { join } from '@rootmap/engine';

const folders = ['a', 'b'].map(() => mkdtempSync(join(tmpdir(), 'rootmap-demo-')));
const places: string[] = [];
beforeAll(() => {
  for (const f of folders) places.push(execFileSync(process.execPath, ['demo/dist/main.js', f], { encoding: 'utf8' }).trim());
});
afterAll(() => folders.forEach((f) => rmSync(f, { recursive: true, force: true })));

const study = (n: number): string => join(folders[n]!, 'places', 'desk', 'gis', 'ellisande_seagrass');
const rootmap = (...args: string[]): any => {
  try {
    return JSON.parse(
      execFileSync(process.execPath, ['cli/bin/rootmap.js', ...args, '--json'], {
        encoding: 'utf8',
        env: { ...process.env, ROOTMAP_PLACES: places[0]! },
      }),
    );
  } catch (error) {
    return JSON.parse((error as { stdout: string }).stdout); // status 1: something is not sound, as it is meant
  }
};

test('made twice, it is the same, byte for byte and time for time', () => {
  const all = (root: string): string[] =>
    readdirSync(root, { recursive: true })
      .map(String)
      .filter((f) => statSync(join(root, f)).isFile() && !f.endsWith('.gpkg'))
      .sort()
      .map(
        (f) =>
          `${f} ${createHash('sha256')
            .update(readFileSync(join(root, f)))
            .digest('hex')} ${statSync(join(root, f)).mtimeMs}`,
      );
  expect(all(study(0)).length).toBeGreaterThan(100);
  expect(all(study(0))).toEqual(all(study(1)));
});

describe('the scenario', () => {
  test('about forty datasets in several formats and three CRSs', () => {
    const { datasets } = rootmap('datasets', study(0));
    const share = rootmap('datasets', join(folders[0]!, 'places', 'share')).datasets;
    const data = [...datasets, ...share].filter((d: { kind: string }) => d.kind !== 'document');
    expect(data.length).toBeGreaterThanOrEqual(36);
    expect(new Set(data.map((d: { format: string }) => d.format)).size).toBeGreaterThanOrEqual(6);
    expect([...new Set(data.map((d: { crs: { code: string } | null }) => d.crs?.code))]).toEqual(
      expect.arrayContaining(['EPSG:32624', 'EPSG:4326', 'EPSG:3395']),
    );
    expect(data.every((d: { state: string }) => d.state === 'ok')).toBe(true);
  });
  test('seven maps: sound, folder moved, of another machine, split over three folders, on the share, put into a geodatabase and renamed, moved itself', () => {
    const { layers } = rootmap('layers', study(0));
    const of = (map: string): string[] =>
      layers
        .filter((l: { map: string }) => l.map.endsWith(`/${map}.owc.json`))
        .map((l: { state: string; reason?: string }) => l.reason ?? l.state);
    expect(of('harbour_approach')).toEqual(Array(5).fill('sound'));
    expect(of('mooring_options').filter((s) => s === 'no-file')).toHaveLength(4);
    expect(of('bed_survey')).toEqual(Array(5).fill('no-place'));
    expect(of('seagrass_change').filter((s) => s === 'no-file')).toHaveLength(5);
    expect(of('chain_scour')).toEqual(Array(4).fill('no-file'));
    expect(of('print_for_council')).toEqual(Array(2).fill('no-file'));
    expect(layers.filter((l: { reach: string }) => l.reach === 'linked')).toHaveLength(4);
  });
  test('everything that moved is found, each explanation certain', () => {
    const { shifts } = rootmap('mend', study(0));
    expect(shifts.map((s: { layers: unknown[]; verdict: string }) => [s.layers.length, s.verdict])).toEqual([
      [5, 'certain'],
      [4, 'certain'],
      [3, 'certain'],
      [3, 'certain'],
      [2, 'certain'],
      [1, 'certain'],
      [1, 'certain'],
      [1, 'certain'],
    ]);
  });
  test('disorder as folders have it: letters of one byte are read, an archive lies in an archive', () => {
    // Outside references: ogrinfo of Debian's gdal-bin, unzip.
    const share = join(folders[0]!, 'places', 'share', 'other_team');
    expect(execFileSync('ogrinfo', ['-q', '-al', join(share, 'jetties.shp')], { encoding: 'utf8' })).toContain('Quai neuf, côté mer');
    const { datasets } = rootmap('datasets', share);
    expect(JSON.stringify(datasets)).toContain('jetties.shp');
    const plans = join(folders[0]!, 'places', 'desk', 'downloads', 'harbour plans (2).zip');
    expect(execFileSync('unzip', ['-l', plans], { encoding: 'utf8' })).toMatch(/harbour plans\/berths\.zip/);
  });
  test('one raster of 4,000 × 4,000 and one table of 200,000 rows', () => {
    const relief = join(folders[0]!, 'places', 'share', 'base_library', 'relief_2019.tif');
    expect(execFileSync('gdalinfo', [relief], { encoding: 'utf8' })).toContain('Size is 4000, 4000');
    const soundings = join(study(0), 'geodatabases', 'soundings.gpkg');
    expect(execFileSync('ogrinfo', ['-so', '-q', soundings, 'soundings_2025'], { encoding: 'utf8' })).toContain('soundings_2025');
    expect(execFileSync('ogrinfo', ['-so', soundings, 'soundings_2025'], { encoding: 'utf8' })).toContain('Feature Count: 200000');
  });
  test('a project file is under 8 KiB, a map of three layers under 22 KiB', () => {
    expect(statSync(join(study(0), 'ellisande_seagrass.rootmap.json')).size).toBeLessThan(8 * 1024);
    expect(statSync(join(study(0), 'maps', 'harbour_approach.owc.json')).size).toBeLessThan(22 * 1024);
  });
});
