import { describe, expect, test } from '@jest/globals';
import { OccupancyGrid } from './grid.js';
import { groupFiles } from './group-files.js';
import type { FileEntry } from './dataset.js';

const files = (...paths: string[]): FileEntry[] => paths.map((path) => ({ path, bytes: 10, modifiedMs: 0 }));
const shape = (entries: readonly FileEntry[]) => {
  const { groups, leftBehind } = groupFiles(entries);
  return {
    groups: Object.fromEntries(
      groups.map((g) => [g.path, { format: g.format, with: g.companions.map((c) => c.path), borrows: g.borrowed.map((b) => b.path) }]),
    ),
    leftBehind,
  };
};

describe('grouping', () => {
  test('a shapefile takes its companions without regard to case, stems may have dots', () => {
    const r = shape(files('a.v2.shp', 'a.V2.SHX', 'a.v2.dbf', 'a.v2.shp.xml', 'a.v2.sbn', 'a.v2.foo', 'a.shp', 'a.dbf'));
    expect(r.groups['a.v2.shp']!.with).toEqual(['a.V2.SHX', 'a.v2.dbf', 'a.v2.foo', 'a.v2.sbn', 'a.v2.shp.xml']);
    expect(r.groups['a.shp']!.with).toEqual(['a.dbf']);
    expect(r.leftBehind).toEqual([]);
  });
  test('a main file is never a companion', () => {
    const r = shape(files('x.shp', 'x.shx', 'x.dbf', 'x.gpkg', 'x.geojson', 'x.csv', 'x.pdf'));
    expect(Object.keys(r.groups)).toEqual(['x.csv', 'x.geojson', 'x.gpkg', 'x.pdf', 'x.shp']);
    expect(r.groups['x.shp']!.with).toEqual(['x.dbf', 'x.shx']);
  });
  test('a side file that could serve two belongs to the first, the other reads it', () => {
    const r = shape(files('x.shp', 'x.tif', 'x.prj', 'x.tif.aux.xml', 'x.tfw', 'x.asc'));
    expect(r.groups['x.shp']).toMatchObject({ with: expect.arrayContaining(['x.prj']) });
    expect(r.groups['x.tif']!.borrows).toContain('x.prj');
    expect(r.groups['x.asc']!.borrows).toContain('x.prj');
    expect(r.groups['x.tif']!.with).toContain('x.tif.aux.xml');
  });
  test('a lone dbf is a table, one beside a shp is not, a raster value table never is', () => {
    const r = shape(files('t.dbf', 't.cpg', 's.shp', 's.dbf', 'r.tif', 'r.tif.vat.dbf'));
    expect(r.groups['t.dbf']).toMatchObject({ format: 'dbf', with: ['t.cpg'] });
    expect(r.groups['s.dbf']).toBeUndefined();
    expect(r.groups['r.tif']!.with).toEqual(['r.tif.vat.dbf']);
  });
  test('companions without their main file are left behind', () => {
    expect(shape(files('gone.shx', 'gone.prj', 'f/gone.tfw', 'note.xyz')).leftBehind).toEqual(['f/gone.tfw', 'gone.prj', 'gone.shx']);
  });
  test('an image is a dataset only beside a georeference', () => {
    const r = shape(files('photo.jpg', 'map.png', 'map.pgw', 'b.png', 'b.png.aux.xml'));
    expect(Object.keys(r.groups)).toEqual(['b.png', 'map.png']);
  });
  test('the side files of a geodatabase belong to it', () =>
    expect(shape(files('g.gpkg', 'g.gpkg-wal', 'g.gpkg-shm')).groups['g.gpkg']!.with).toEqual(['g.gpkg-shm', 'g.gpkg-wal']));
  test('maps and project files are no datasets', () =>
    expect(shape(files('m.owc.json', 'p.rootmap.json'))).toEqual({ groups: {}, leftBehind: [] }));
  test('the container of another program is one opaque row', () => {
    const names = ['a00000001', 'a00000002', 'a00000003', 'a00000004'].flatMap((s) => [
      `box.x/${s}.tab`,
      `box.x/${s}.idx`,
      `box.x/${s}.spx`,
    ]);
    const r = shape(files(...names, 'box.x/timestamps'));
    expect(r.groups['box.x']).toMatchObject({ format: 'opaque' });
    expect(Object.keys(r.groups)).toHaveLength(1);
  });
  test('spelled alike but for case, the exactly spelled one has the companion', () => {
    const r = shape(files('Roads.shp', 'roads.shp', 'roads.shx', 'Roads.shx'));
    expect(r.groups['roads.shp']!.with).toEqual(['roads.shx']);
    expect(r.groups['Roads.shp']!.with).toEqual(['Roads.shx']);
  });
});

describe('occupancy grid', () => {
  const hex = (points: [number, number][]): string | null => {
    const grid = new OccupancyGrid([0, 0, 16, 16]);
    for (const [x, y] of points) grid.add(x, y);
    return grid.toHex();
  };
  test('bit row·16 + col, row 0 south, capped at 15', () => {
    const bit = (n: number): string => (1n << BigInt(n)).toString(16).padStart(64, '0');
    expect(hex([[0, 0]])).toBe(bit(0));
    expect(hex([[1.5, 0]])).toBe(bit(1));
    expect(hex([[0, 1]])).toBe(bit(16));
    expect(hex([[16, 16]])).toBe(bit(255));
    expect(hex([[15.99, 0]])).toBe(bit(15));
  });
  test('without width or height there is none', () => expect(new OccupancyGrid([1, 1, 1, 5]).toHex()).toBeNull());
});
