import { describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import Database from 'better-sqlite3';
import { cpSync, existsSync, mkdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { useExample } from '../test/use-example.js';

const { at, rootmap } = useExample();

describe('what people expect of it', () => {
  test('it says its version, and each map before its layers', () => {
    expect(rootmap('--version')).toMatchObject({ status: 0, out: 'rootmap 0.1.0\n' });
    const lines = rootmap('layers', at('p')).out.split('\n');
    const maps = lines.filter((l) => l.endsWith('.owc.json'));
    expect(maps).toEqual([
      ...new Set(
        rootmap('layers', at('p'), '--json')
          .json()
          .layers.map((l: { map: string }) => l.map),
      ),
    ]);
    expect(lines.filter((l) => l.startsWith('  '))).toHaveLength(9);
  });
  test('a CRS that is registered nowhere is refused, and nothing is made', () => {
    const made = rootmap('new', at('n'), '--title', 'N', '--crs', 'EPSG:999999');
    expect([made.status, made.err]).toEqual([2, expect.stringContaining('EPSG:999999')]);
    expect(rootmap('geodatabase', 'create', at('g.gpkg'), '--crs', 'EPSG:999999').status).toBe(2);
    expect([existsSync(at('n')), existsSync(at('g.gpkg'))]).toEqual([false, false]);
  });
  test('what is moved may be named from the folder that is moved in', () => {
    const { status } = rootmap('move', at('p'), '--from', 'working/fairway_006.shp', '--to', 'working/f6.shp', '--apply');
    expect([status, existsSync(at('p/working/f6.shp')), existsSync(at('p/working/fairway_006.shp'))]).toEqual([0, true, false]);
  });
  test('places that were added in the app hold where none is given', () => {
    mkdirSync(at('data'));
    const db = new Database(at('data', 'journal.sqlite'));
    db.exec('CREATE TABLE place (name TEXT PRIMARY KEY, n INTEGER, folder TEXT, driveNames TEXT)');
    db.prepare('INSERT INTO place VALUES (?, 0, ?, ?)').run('desk', at(), '["Q:"]');
    db.close();
    const map = at('p/maps/map_01.owc.json');
    const text = readFileSync(map, 'utf8');
    const [href] = /[^"]*fairway_006\.shp/.exec(text)!;
    writeFileSync(map, text.replaceAll(href, 'file:///Q:/p/working/fairway_006.shp'));
    const state = (...more: string[]) =>
      rootmap('layers', map, '--json', ...more)
        .json()
        .layers.filter((l: { href: string }) => l.href.startsWith('file:///Q:'))
        .map((l: { state: string }) => l.state);
    expect(state()).toEqual(['sound']);
    expect(state('--place', `other=${at('p')}`)).toEqual(['adrift']);
  });
  test('of equal copies a person names one for each layer; what is nowhere is refused and nothing is written', () => {
    rootmap('remember', at('p'));
    for (const to of ['first', 'second']) cpSync(at('p/working'), at('p', to), { recursive: true });
    rmSync(at('p/working'), { recursive: true });
    const [layer] = rootmap('mend', at('p'), '--json').json().layers;
    expect(layer).toMatchObject({ verdict: 'possible', choice: { equal: 2 }, trouble: { code: 'equal-copies' } });
    const map = readFileSync(layer.map, 'utf8');
    const named = (folder: string) =>
      rootmap('mend', layer.map, '--take', `${layer.layer}=${at('p', folder, 'fairway_006.shp')}`, '--apply');
    expect([named('nowhere').status, readFileSync(layer.map, 'utf8')]).toEqual([2, map]);
    const sound = rootmap(
      'mend',
      at('p'),
      '--take',
      `${
        rootmap('layers', at('p'), '--json')
          .json()
          .layers.find((l: { state: string }) => l.state === 'sound').layer
      }=${at('p/second/fairway_006.shp')}`,
    );
    expect([sound.status, sound.err]).toEqual([2, expect.stringContaining('is not broken')]);
    named('second');
    expect(readFileSync(layer.map, 'utf8')).toContain('../second/fairway_006.shp');
  });
  test('what is not looked into, and what a change of CRS costs, is said', () => {
    mkdirSync(at('shared'));
    cpSync(at('p'), at('shared/other'), { recursive: true });
    rmSync(at('p/working'), { recursive: true });
    const told = rootmap('mend', at('p'), '--search', at('shared'), '--json');
    expect(told.json().notSearched).toEqual([at('shared/other')]);
    expect(rootmap('mend', at('p'), '--search', at('shared')).out).toContain(`not looked into: ${at('shared/other')}`);
    const source = at('p/results/groyne_004.shp');
    const moved = rootmap('geodatabase', 'import', at('g.gpkg'), source, '--to-crs', 'EPSG:4267');
    expect(moved.out).toContain('its coordinates are computed in EPSG:4267');
    expect(moved.out.split('\n').filter((l) => l.startsWith('    ')).length).toBeGreaterThan(1);
  });
  test('a grid that lies in the data folder is used, and said', () => {
    // Outside reference: Debian's proj-data and cs2cs.
    writeFileSync(at('spots.csv'), 'east,north,name\n3500000,5600000,a\n3560123,5300000,b\n');
    const layer = '<OGRVRTDataSource><OGRVRTLayer name="spots"><SrcDataSource>spots.csv</SrcDataSource>';
    const points = '<GeometryType>wkbPoint</GeometryType><LayerSRS>EPSG:31467</LayerSRS>';
    const field = '<GeometryField encoding="PointFromColumns" x="east" y="north"/></OGRVRTLayer></OGRVRTDataSource>';
    writeFileSync(at('spots.vrt'), layer + points + field);
    execFileSync('ogr2ogr', [at('p/spots.shp'), 'spots.vrt'], { cwd: at('.') });
    const bring = (file: string) => {
      const { out } = rootmap('geodatabase', 'import', at(file), at('p/spots.shp'), '--to-crs', 'EPSG:25832');
      const read = execFileSync('ogr2ogr', [
        '-f',
        'GeoJSON',
        '/vsistdout/',
        at(file),
        '-a_srs',
        'EPSG:4326',
        '-lco',
        'COORDINATE_PRECISION=6',
      ]);
      return { out, at: JSON.parse(read.toString()).features.map((f: any) => f.geometry.coordinates) };
    };
    const without = bring('plain.gpkg');
    expect(without.out).toContain('beta2007.gsb');
    mkdirSync(at('data/grids'), { recursive: true });
    cpSync('/usr/share/proj/BETA2007.gsb', at('data/grids/BETA2007.gsb'));
    const by = bring('grid.gpkg');
    expect(by.out).toContain('By the grid BETA2007.gsb positions are right to within about');
    const theirs = execFileSync('cs2cs', ['-f', '%.6f', 'EPSG:31467', 'EPSG:25832'], { input: '5600000 3500000\n5300000 3560123\n' });
    const expected = theirs
      .toString()
      .trim()
      .split('\n')
      .map((line) => line.split(/\s+/).slice(0, 2).map(Number));
    for (const [i, [x, y]] of expected.entries()) {
      expect(Math.hypot(by.at[i][0] - x!, by.at[i][1] - y!)).toBeLessThan(0.001);
      expect(Math.hypot(without.at[i][0] - x!, without.at[i][1] - y!)).toBeGreaterThan(0.05);
    }
  });
  test('a mend that leads out of the project says so, in words and for scripts; one that stays inside does not', () => {
    mkdirSync(at('downloads'));
    renameSync(at('p/working'), at('downloads/working'));
    const candidates = (...more: string[]) =>
      rootmap('mend', at('p'), '--json', ...more)
        .json()
        .layers.flatMap((l: { candidates: { href: string; leavesProject: boolean; evidence: string[] }[] }) => l.candidates.slice(0, 1));
    const out = candidates('--search', at('downloads'));
    expect(out.length).toBeGreaterThan(0);
    for (const c of out) {
      expect([c.href.includes('downloads'), c.leavesProject]).toEqual([true, true]);
      expect(c.evidence.at(-1)).toMatch(/^It stands outside the project/);
    }
    renameSync(at('downloads/working'), at('p/worked'));
    const inside = candidates();
    expect(inside.map((c: { leavesProject: boolean }) => c.leavesProject)).toEqual(inside.map(() => false));
    expect(inside.length).toBeGreaterThan(0);
  });
});
