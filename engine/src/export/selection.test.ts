import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { ProblemError } from '@rootmap/core';
import { EVERY_RECORD, type Selection } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { openPlace, wholeDisks } from '../places/places.js';
import type { Scope } from '../project/scope.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { planExport } from './plan-export.js';
import { writeExport, type RecordFormat } from './write-export.js';

const root = 'testdata/open';
const datasets = surveyFolder(root).datasets.filter((d) => d.state === 'ok' && d.kind === 'vector');
const named = (name: string) => ({ folder: root, dataset: datasets.find((d) => d.id.endsWith(name))! });
let folder = '';
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-selection-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const bare: Scope = { places: wholeDisks([]).map(openPlace), root: null, projectFile: null, project: null, named: '/', maps: [] };
const ENDINGS = { geopackage: 'gpkg', shapefile: 'shp', geojson: 'geojson', csv: 'csv' } as const;
let n = 0;
async function taken(
  found: ReturnType<typeof named>,
  more: Partial<Selection>,
  format: RecordFormat = 'geopackage',
  crs: string | null = null,
) {
  const to = join(folder, `e${n++}`);
  mkdirSync(to);
  const request = { format, crs, selection: { ...EVERY_RECORD, ...more } };
  const plan = planExport(bare, found, request, join(to, `out.${ENDINGS[format]}`), 'test');
  if (plan.why !== null) return { plan, done: null, path: '' };
  return { plan, done: await writeExport(found, { ...request, name: 'out' }, plan.targets, () => undefined), path: plan.files[0]!.path };
}

/** Outside reference: how many, and which, ogrinfo finds. */
function theirs(path: string, sql: string, dialect: string[] = ['-dialect', 'sqlite']): string[] {
  const told = execFileSync('ogrinfo', ['-q', '-ro', path, ...dialect, '-sql', sql], { stdio: ['ignore', 'pipe', 'ignore'] }).toString();
  return [...told.matchAll(/^ {2}k \(\w+\) = (.*)$/gm)].map((m) => m[1]!).sort();
}
const keys = (path: string, field: string): string[] => theirs(path, `SELECT "${field}" AS k FROM out`);

describe('records that are selected', () => {
  const columbus = named('columbus.shp');
  const shp = join(root, columbus.dataset.group.path);

  test.each(['geopackage', 'shapefile', 'geojson', 'csv'] as const)('by a filter, as %s: those that ogrinfo finds', async (format) => {
    const placed = { ...columbus, dataset: { ...columbus.dataset, crs: named('nc.shp').dataset.crs } }; // GeoJSON wants to know
    const { plan, done, path } = await taken(placed, { filter: 'CRIME > 30 AND CP = 1' }, format);
    const wanted = theirs(shp, 'SELECT POLYID AS k FROM columbus WHERE CRIME > 30 AND CP = 1');
    expect(wanted.length).toBeGreaterThan(5);
    expect([plan.records, plan.of, done!.read, done!.written]).toEqual([wanted.length, 49, wanted.length, wanted.length]);
    if (format === 'csv') expect(readFileSync(path, 'utf8').trim().split('\n')).toHaveLength(wanted.length + 1);
    else expect(keys(path, 'POLYID').map(Number).sort()).toEqual(wanted.map(Number).sort());
  });

  // An area of five corners that cuts through shapes, one that lies inside of a single shape, and one far away.
  test.each([
    ['through shapes', [[7, 11], [9.5, 13], [8, 14.2], [6.2, 13.1], [6.4, 12]]],
    ['within one shape', [[8.8, 14.2], [8.82, 14.2], [8.82, 14.22], [8.8, 14.22]]],
    ['as a box', [[7.5, 11.5], [9, 11.5], [9, 13], [7.5, 13]]],
  ] as const)('by an area %s: those that meet it by GEOS', async (_, corners) => {
    const { plan, path } = await taken(columbus, { area: { crs: null, corners } });
    const text = `POLYGON((${[...corners, corners[0]].map((c) => c.join(' ')).join(',')}))`;
    const wanted = theirs(shp, `SELECT POLYID AS k FROM columbus WHERE ST_Intersects(geometry, GeomFromText('${text}'))`);
    expect(wanted.length).toBeGreaterThan(0);
    expect(plan.records).toBe(wanted.length);
    expect(keys(path, 'POLYID')).toEqual(wanted);
  }); // prettier-ignore

  test('by an area in another CRS, and by ids together with a filter', async () => {
    const counties = named('nc.shp');
    const corners = [[400_000, 3_900_000], [600_000, 3_900_000], [600_000, 4_000_000], [400_000, 4_000_000]] as const; // prettier-ignore
    const { plan, path } = await taken(counties, { area: { crs: 'EPSG:32617', corners } });
    const moved = join(folder, 'moved.gpkg');
    execFileSync('ogr2ogr', ['-q', '-t_srs', 'EPSG:32617', moved, join(root, counties.dataset.group.path)], { stdio: 'ignore' });
    const wanted = theirs(moved, 'SELECT NAME AS k FROM nc WHERE ST_Intersects(geom, BuildMbr(400000, 3900000, 600000, 4000000))');
    expect(keys(path, 'NAME')).toEqual(wanted);
    expect(plan.records).toBe(wanted.length);
    const some = await taken(counties, { records: [0, 1, 2, 3, 50], filter: 'BIR74 > 1000' });
    expect(keys(some.path, 'NAME')).toEqual(
      theirs(join(root, counties.dataset.group.path), 'SELECT NAME AS k FROM nc WHERE FID IN (0, 1, 2, 3, 50) AND BIR74 > 1000', []),
    );
  });

  test('in its own CRS also where its code is not known here', async () => {
    const counties = named('nc.shp');
    const { crs } = counties.dataset;
    const placed = { ...counties, dataset: { ...counties.dataset, crs: { ...crs!, code: 'EPSG:999999' } } };
    const { plan, path } = await taken(placed, { filter: 'BIR74 > 10000' });
    expect(plan.why).toBeNull();
    const shp = join(root, counties.dataset.group.path);
    expect(keys(path, 'NAME')).toEqual(theirs(shp, 'SELECT NAME AS k FROM nc WHERE BIR74 > 10000'));
  });

  test('a filter that leaves nothing, or that asks for what is not there, is told; nothing is written', async () => {
    const { plan } = await taken(columbus, { filter: 'CRIME > 1000' });
    expect([plan.why, plan.change]).toEqual([expect.stringContaining('no record is like that'), null]);
    await expect(taken(columbus, { filter: 'crimes > 1' })).rejects.toThrow(ProblemError);
    await expect(taken(columbus, { filter: 'CRIME >' })).rejects.toThrow(/cannot be used/);
    await expect(taken(columbus, { area: { crs: 'EPSG:32617', corners: [[0, 0], [1, 0], [1, 1]] } })).rejects.toThrow(/cannot be told: nobody knows/); // prettier-ignore
  });

  test('what was taken is written down with it, also where nothing was known of the data', () => {
    const to = join(folder, 'kept');
    mkdirSync(to);
    const selection = { ...EVERY_RECORD, filter: 'CRIME > 30', area: { crs: null, corners: [[6, 10], [12, 10], [12, 15], [6, 15]] as const } }; // prettier-ignore
    const { change } = planExport(bare, columbus, { format: 'geopackage', crs: null, selection }, join(to, 'part.gpkg'), 'test');
    const record = change!.steps.find((s) => s.kind === 'write');
    const text = record?.kind === 'write' ? Buffer.from(record.after).toString() : '';
    expect(text).toContain('Made from columbus.shp: where CRIME > 30, in the box 6 10 to 12 15.');
  });
});
