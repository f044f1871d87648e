import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { ImportWorld } from '../../test/import-world.js';
import { writeCopy } from '../copies/write-copy.js';
import { planExport } from '../export/plan-export.js';
import { adviseCrs } from './advise-crs.js';
import { crsKey } from './definitions.js';
import { transformer } from './transformer.js';
import { layerData } from '../maps/layer-data.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { planImport } from '../geodatabase/plan-import.js';

// Outside references: ogr2ogr and ogrinfo of Debian's gdal-bin, which project the open counties into a grid of their own and back.

/** A local grid over North Carolina, as a surveyor would define one: no registry has it. */
const GRID =
  'PROJCS["Sound grid",GEOGCS["GCS_North_American_1927",DATUM["D_North_American_1927",SPHEROID["Clarke_1866",6378206.4,294.9786982]],PRIMEM["Greenwich",0.0],UNIT["Degree",0.0174532925199433]],PROJECTION["Transverse_Mercator"],PARAMETER["False_Easting",50000.0],PARAMETER["False_Northing",20000.0],PARAMETER["Central_Meridian",-79.25],PARAMETER["Scale_Factor",1.000012],PARAMETER["Latitude_Of_Origin",33.5],UNIT["Foot_US",0.3048006096012192]]';

let w: ImportWorld;
beforeAll(async () => {
  w = await ImportWorld.open();
  writeFileSync(w.t.at('grid.prj'), GRID);
  execFileSync('ogr2ogr', ['-t_srs', w.t.at('grid.prj'), '-s_srs', 'EPSG:4267', w.t.at('p/grid.shp'), w.t.at('p/shapes/sids.shp')]);
  writeFileSync(w.t.at('p/grid.prj'), GRID);
});
afterAll(() => w.close());

const positions = (c: unknown): [number, number][] =>
  !Array.isArray(c) ? [] : typeof c[0] === 'number' ? [[c[0], c[1] as number]] : (c as unknown[]).flatMap(positions);
/** All positions of a layer in degrees of NAD27, as ogr2ogr reads and computes them. */
const degrees = (...args: readonly string[]): [number, number][] =>
  (
    JSON.parse(
      execFileSync(
        'ogr2ogr',
        ['-f', 'GeoJSON', '/vsistdout/', '-t_srs', 'EPSG:4267', '-lco', 'RFC7946=NO', '-lco', 'COORDINATE_PRECISION=10', ...args],
        {
          maxBuffer: 1 << 28,
          stdio: ['ignore', 'pipe', 'ignore'],
        },
      ).toString(),
    ) as { features: { geometry: { coordinates: unknown } }[] }
  ).features.flatMap((f) => positions(f.geometry.coordinates));
/** A millimetre on the ground. */
const NEAR = 1e-8;
const farthest = (a: readonly [number, number][], b: readonly [number, number][]): number => {
  expect(a).toHaveLength(b.length);
  return Math.max(...a.map((p, i) => Math.max(Math.abs(p[0] - b[i]![0]), Math.abs(p[1] - b[i]![1]))));
};
/** East and north by PROJ's `cs2cs`, from degrees of the geographic CRS below. */
function project(proj: string, lon: number, lat: number): [number, number] {
  const below = proj.split(' ').filter((word) => /^\+(datum|ellps)/.test(word));
  const args = ['-f', '%.6f', '+proj=longlat', ...below, '+to', ...proj.split(' ')];
  const [x, y] = execFileSync('cs2cs', args, { input: `${lon} ${lat}\n` })
    .toString()
    .trim()
    .split(/\s+/);
  return [Number(x), Number(y)];
}
const found = () => w.find(w.t.at('p/grid.shp'));

test('it has no code and no finding: where it lies is computed from its text', () => {
  const dataset = surveyFolder(w.t.at('p')).datasets.find((d) => d.group.path === 'grid.shp')!;
  expect(dataset.crs).toEqual({ code: null, name: 'Sound grid', wkt: GRID, base: 'EPSG:4267' });
  expect(dataset.findings.filter((f) => f.code === 'unknown-crs')).toEqual([]);
  const { crs, isPlaced, degrees: box } = layerData('id', dataset);
  expect([crs, isPlaced]).toEqual([null, true]);
  const at = degrees(w.t.at('p/grid.shp'));
  // The box of its extent on WGS 84: around the data, whose sides are turned against it, and not much more.
  const [west, north] = [Math.min(...at.map((p) => p[0])), Math.max(...at.map((p) => p[1]))];
  expect([west - box![0] > 0, west - box![0] < 0.2, box![3] - north > -0.01, box![3] - north < 0.2]).toEqual([true, true, true, true]);
  const advice = adviseCrs([{ crs, degrees: box, isRaster: false, name: 'grid' }]);
  expect(advice.proposed!.why).toMatch(/^No code is registered for the CRS of grid\. /);
  expect(advice.proposed!.lengthPerMille).toBeLessThan(1);
});

test('a copy in a registered CRS is where ogr2ogr puts it', () => {
  const path = w.t.at('copy.gpkg');
  const written = writeCopy(found(), 'EPSG:4267', path, 'copy', () => undefined);
  expect(written.written).toBe(100);
  expect(farthest(degrees(path), degrees(w.t.at('p/grid.shp')))).toBeLessThan(NEAR);
});

test('brought in, it stays in its CRS, whose definition goes along; or becomes another', async () => {
  const [item] = planImport(w.scope(), w.find, w.t.at('p/new.gpkg'), w.items('grid.shp'), null, 'test').items;
  expect(item).toMatchObject({ crs: null, why: null });
  expect(item!.notes.join()).toContain('its CRS, Sound grid, has no code that is registered; its definition goes along');
  const kept = await w.bringIn('kept.gpkg', ['grid.shp']);
  expect(kept.receipts[0]).toMatchObject({ isEqual: true });
  expect(execFileSync('ogrinfo', ['-so', '-al', w.t.at('p/kept.gpkg')]).toString()).toContain('Sound grid');
  expect(farthest(degrees(w.t.at('p/kept.gpkg')), degrees(w.t.at('p/grid.shp')))).toBeLessThan(NEAR);
  const table = surveyFolder(w.t.at('p')).datasets.find((d) => d.group.path === 'kept.gpkg')!;
  expect(table.crs).toMatchObject({ code: null, base: 'EPSG:4267' });
  await w.bringIn('moved.gpkg', ['grid.shp'], 'EPSG:32024'); // State plane of Oklahoma: the same datum
  expect(farthest(degrees(w.t.at('p/moved.gpkg')), degrees(w.t.at('p/grid.shp')))).toBeLessThan(NEAR);
});

test('an export keeps the text, and one as GeoJSON says how exact it is', () => {
  const shape = planExport(w.scope(), found(), { format: 'shapefile', crs: null }, w.t.at('p/out/grid.shp'), 'test');
  expect(shape).toMatchObject({ why: null, crs: null });
  expect(Object.keys(shape.targets)).toContain('prj');
  const json = planExport(w.scope(), found(), { format: 'geojson', crs: null }, w.t.at('p/out/grid.geojson'), 'test');
  expect(json.losses.map((l) => l.what).join()).toMatch(/different datums/);
});

test.each([
  ['tmerc', '+proj=tmerc +lat_0=33.5 +lon_0=-79.25 +k=1.000012 +x_0=50000 +y_0=20000 +datum=NAD83 +units=m'],
  ['US feet', '+proj=tmerc +lat_0=33.5 +lon_0=-79.25 +k=1.000012 +x_0=50000 +y_0=20000 +datum=NAD83 +units=us-ft'],
  ['conic', '+proj=lcc +lat_1=34 +lat_2=36 +lat_0=33 +lon_0=-79 +x_0=1000 +y_0=2000 +datum=NAD27'],
  ['one parallel', '+proj=lcc +lat_1=35 +lat_0=35 +lon_0=-79 +k_0=0.9999 +x_0=1000 +y_0=2000 +datum=WGS84'],
  ['albers', '+proj=aea +lat_1=34 +lat_2=36 +lat_0=33 +lon_0=-79 +x_0=1000 +y_0=2000 +ellps=GRS80 +datum=NAD83'],
  ['azimuthal', '+proj=laea +lat_0=35 +lon_0=-79 +x_0=1000 +y_0=2000 +datum=WGS84'],
  ['polar', '+proj=stere +lat_0=90 +lat_ts=72 +lon_0=-40 +x_0=1000 +y_0=2000 +datum=WGS84'],
  ['oblique', '+proj=sterea +lat_0=35 +lon_0=-79 +k=0.9999 +x_0=1000 +y_0=2000 +datum=WGS84'],
])('keys of a GeoTIFF that tell a projection one by one: %s', (name, proj) => {
  const file = `${name.replace(' ', '_')}.tif`;
  const [x, y] = project(proj, -79.1, 35.2);
  const corners = [x, y + 1000, x + 1000, y].map(String);
  execFileSync('gdal_create', ['-q', '-outsize', '10', '10', '-a_srs', proj, '-a_ullr', ...corners, w.t.at('p', file)]);
  const { crs } = surveyFolder(w.t.at('p')).datasets.find((d) => d.group.path === file)!;
  expect(crs?.code ?? null).toBeNull();
  const to = transformer(crs!.base!, crsKey(crs)!)!(-79.1, 35.2)!;
  expect(Math.hypot(to[0] - x, to[1] - y)).toBeLessThan(0.001);
});

test('heights in a text of two parts are left out of where it lies, and kept in its name', () => {
  const both = `COMPD_CS["Sound grid and heights",${GRID},VERT_CS["NAVD88 height",VERT_DATUM["North American Vertical Datum 1988",2005],UNIT["metre",1]]]`;
  for (const name of readdirSync(w.t.at('p')).filter((n) => n.startsWith('grid.')))
    writeFileSync(w.t.at('p', name.replace('grid', 'high')), name.endsWith('.prj') ? both : readFileSync(w.t.at('p', name)));
  const dataset = surveyFolder(w.t.at('p')).datasets.find((d) => d.group.path === 'high.shp')!;
  expect(dataset.crs).toMatchObject({ code: null, base: 'EPSG:4267', otherName: 'Sound grid and heights' });
});
