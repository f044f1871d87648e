import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { readFeatures, wkbToGeoJson, type GeoJsonGeometry } from '@rootmap/core';
import { ImportWorld } from '../../test/import-world.js';
import { faultOf } from '../../test/geopackage-validator.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { platformBelow } from '../survey/platform.js';
import { checkGeodatabase } from './check-geodatabase.js';

// Outside reference: shapes with arcs that Debian's GDAL writes, its own chords of them, and what it reads after an import
// (engine/test/matrix/vectors.py). Kinds and their declaration: OGC 12-128r17, annexes F.1 and G.

interface Made {
  readonly name: string;
  readonly file: string;
  readonly layers: readonly { readonly records: readonly (readonly [string | null, readonly unknown[], [number, number, number[]]?])[] }[];
}
let w: ImportWorld;
let curved: readonly Made[];
beforeAll(async () => {
  w = await ImportWorld.open();
  execFileSync('/usr/bin/python3', ['engine/test/matrix/vectors.py', w.t.at('p')], { stdio: 'ignore' });
  const index = JSON.parse(readFileSync(w.t.at('p/index.json'), 'utf8')) as Made[];
  curved = index.filter((m) => m.layers.some((l) => l.records.some((r) => r.length > 2)));
}, 60_000);
afterAll(() => w.close());

type Line = readonly (readonly number[])[];
const lengthOf = (line: Line): number =>
  line.slice(1).reduce((sum, p, i) => sum + Math.hypot(p[0]! - line[i]![0]!, p[1]! - line[i]![1]!), 0);
const areaOf = (ring: Line): number =>
  Math.abs(ring.slice(1).reduce((sum, p, i) => sum + (p[0]! * ring[i]![1]! - ring[i]![0]! * p[1]!) / 2, 0));

/** Lines and rings of a shape, told apart. */
function linesOf({ type, coordinates }: GeoJsonGeometry): { lines: Line[]; areas: Line[][] } {
  if (type === 'LineString') return { lines: [coordinates as Line], areas: [] };
  if (type === 'MultiLineString') return { lines: coordinates as Line[], areas: [] };
  return { lines: [], areas: type === 'Polygon' ? [coordinates as Line[]] : (coordinates as Line[][]) };
}

test('chords are as long, as large and where GDAL has its own', () => {
  let seen = 0;
  for (const made of curved) {
    const [found] = datasetsOfFile(w.t.at('p', made.name, made.file));
    const platform = platformBelow(found!.folder);
    let i = 0;
    for (const { geometry } of readFeatures(found!.dataset, platform).features) {
      const theirs = made.layers[0]!.records[i++]?.[2];
      if (!theirs) continue;
      const { lines, areas } = linesOf(wkbToGeoJson(geometry!)!);
      const all = [...lines, ...areas.flat()];
      const within = (mine: number, other: number): void => expect(Math.abs(mine - other)).toBeLessThan(2e-3 * Math.max(1, other));
      const rings = areas.map((a) => areaOf(a[0]!) - a.slice(1).reduce((sum, hole) => sum + areaOf(hole), 0));
      within(
        lines.reduce((sum, l) => sum + lengthOf(l), 0),
        areas.length > 0 ? 0 : theirs[0],
      );
      within(
        rings.reduce((sum, a) => sum + a, 0),
        theirs[1],
      );
      const xs = all.flatMap((l) => l.map((p) => p[0]!));
      const ys = all.flatMap((l) => l.map((p) => p[1]!));
      [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)].forEach((side, k) => within(side, theirs[2][k]!));
      seen++;
    }
    platform.close();
  }
  expect(seen).toBeGreaterThan(50);
});

test('arcs stay arcs in a geodatabase of the same CRS, declared; in another they become chords, which is told before and after', async () => {
  const ones = curved.filter((m) => m.name.startsWith('gpkg_'));
  expect(ones.length).toBeGreaterThan(15);
  for (const made of ones) expect([made.name, checkGeodatabase(w.t.at('p', made.name, made.file))]).toEqual([made.name, []]);
  const sources = ones.map((m) => `${m.name}/${m.file}#data`);
  const { receipts } = await w.bringIn('arcs.gpkg', sources);
  const path = w.t.at('p/arcs.gpkg');
  expect(receipts.map((r) => [r.isEqual, r.losses])).toEqual(ones.map(() => [true, []]));
  expect([checkGeodatabase(path), faultOf(path)]).toEqual([[], null]);
  const read = `
import json, sys
from osgeo import ogr
print(json.dumps([[bytes(f.GetGeometryRef().ExportToIsoWkb(ogr.wkbNDR)).hex() if f.GetGeometryRef() else None for f in l] for l in ogr.Open(sys.argv[1])]))`;
  const layers = JSON.parse(execFileSync('/usr/bin/python3', ['-c', read, path]).toString()) as (string | null)[][];
  expect(layers).toEqual(ones.map((m) => m.layers[0]!.records.map(([shape]) => shape)));

  const moved = await w.bringIn('chords.gpkg', sources, 'EPSG:3857');
  const counts = ones.map((m) => m.layers[0]!.records.filter((r) => r.length > 2).length);
  expect(moved.plan.items.map((i) => i.losses.map((l) => [l.code, l.count]))).toEqual(counts.map((n) => [['arcs', n]]));
  expect(moved.receipts.map((r) => r.losses)).toEqual(moved.plan.items.map((i) => i.losses));
  expect([checkGeodatabase(w.t.at('p/chords.gpkg')), faultOf(w.t.at('p/chords.gpkg'))]).toEqual([[], null]);
});
