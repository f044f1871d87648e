import { afterAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import type { QualityCheck } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import type { RootedScope } from '../project/scope.js';
import { reachesInto } from './area-of-interest.js';
import { checkDataset } from './check-dataset.js';
import { expectedCodes } from './expected-codes.js';

const t = new TestFolder();
afterAll(() => t.remove());
const scopeAt = (root: string): RootedScope => ({ places: t.places, root, projectFile: null, project: null, named: root, maps: [] });
const plain = { origin: null, isMadeHere: true, projectCrs: null, codes: new Map<string, readonly string[]>(), area: null, nowMs: 0 };
const found = (path: string, nth = 0) => datasetsOfFile(t.at(path))[nth]!;
const python = (script: string, ...args: string[]): string =>
  execFileSync('/usr/bin/python3', ['-c', script, ...args], { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] });

/** Squares of 10 on a grid of 100, each turned by its number. */
const squares = (n: number): object => ({
  type: 'FeatureCollection',
  features: Array.from({ length: n }, (_, i) => {
    const [x, y] = [(i % 20) * 0.1, Math.floor(i / 20) * 0.1];
    const ring = [0, 1, 2, 3, 0].map((k) => [x + 0.04 * Math.cos(i + (k * Math.PI) / 2), y + 0.04 * Math.sin(i + (k * Math.PI) / 2)]);
    return {
      type: 'Feature',
      properties: { n: i, kind: i % 5 === 0 ? 'reef' : i % 7 === 0 ? '<b>rock</b>' : 'sand' },
      geometry: { type: 'Polygon', coordinates: [ring] },
    };
  }),
});

test('shapes outside the area of interest are those that GEOS finds outside, also in another CRS', async () => {
  writeFileSync(t.at('cells.geojson'), JSON.stringify(squares(300)));
  const ring = [
    [0.31, 0.22],
    [1.43, 0.17],
    [1.2, 1.13],
    [0.7, 0.6],
    [0.31, 0.22],
  ];
  writeFileSync(
    t.at('area.geojson'),
    JSON.stringify({
      type: 'FeatureCollection',
      features: [{ type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: [ring] } }],
    }),
  );
  execFileSync('ogr2ogr', ['-t_srs', 'EPSG:3857', t.at('area.gpkg'), t.at('area.geojson'), '-nln', 'area']);
  const outside = JSON.parse(
    python(
      'import sys,json\nfrom osgeo import ogr\nda,dc=ogr.Open(sys.argv[1]),ogr.Open(sys.argv[2])\nfa=da.GetLayer(0).GetNextFeature();a=fa.GetGeometryRef().Clone()\nprint(json.dumps([f["n"]+1 for f in dc.GetLayer(0) if not f.GetGeometryRef().Intersects(a)]))',
      t.at('area.geojson'),
      t.at('cells.geojson'),
    ),
  ) as number[];
  expect(outside.length).toBeGreaterThan(150);
  for (const area of [found('area.geojson'), found('area.gpkg')]) {
    const { checks } = await checkDataset(found('cells.geojson'), { ...plain, area });
    const check = checks.find((c) => c.code === 'outside-area')!;
    expect([check.count, check.result, check.examples.map((e) => e.record)]).toEqual([outside.length, 'note', outside.slice(0, 20)]);
  }
  expect(reachesInto(found('area.gpkg'), { ...found('cells.geojson').dataset, crs: null })).toBeNull();
});

const codesOf = (checks: readonly QualityCheck[]): QualityCheck => checks.find((c) => c.code === 'codes')!;

test('codes not in a list: those of a Table Schema beside the data, and markup stays text', async () => {
  mkdirSync(t.at('codes'));
  writeFileSync(t.at('codes/cells.geojson'), JSON.stringify(squares(100)));
  const schema = { fields: [{ name: 'kind', constraints: { enum: ['sand', 'reef'] } }] };
  writeFileSync(t.at('codes/datapackage.json'), JSON.stringify({ resources: [{ name: 'cells', path: 'cells.geojson', schema }] }));
  const data = found('codes/cells.geojson');
  const codes = expectedCodes(scopeAt(t.at('codes')), data);
  expect([...codes]).toEqual([['kind', ['sand', 'reef']]]);
  const check = codesOf((await checkDataset(data, { ...plain, codes })).checks);
  const strange = Array.from({ length: 100 }, (_, i) => i).filter((i) => i % 5 !== 0 && i % 7 === 0);
  expect([check.count, check.result, check.examples[0]]).toEqual([
    strange.length,
    'fail',
    { record: strange[0]! + 1, at: null, what: 'kind: <b>rock</b>' },
  ]);
});

test('codes that a geodatabase lists by itself, as GDAL writes them, are found and held against', async () => {
  python(
    `import sys
from osgeo import ogr, gdal
ds = gdal.GetDriverByName('GPKG').Create(sys.argv[1], 0, 0, 0, gdal.GDT_Unknown)
ds.AddFieldDomain(ogr.CreateCodedFieldDomain('kinds', '', ogr.OFTString, ogr.OFSTNone, {'sand': 'Sand', 'reef': 'Reef'}))
l = ds.CreateLayer('cells', geom_type=ogr.wkbNone)
f = ogr.FieldDefn('kind', ogr.OFTString); f.SetDomainName('kinds'); l.CreateField(f)
for k in ['sand', 'reef', 'mud', None, 'mud']:
    x = ogr.Feature(l.GetLayerDefn())
    if k: x['kind'] = k
    l.CreateFeature(x)
`,
    t.at('listed.gpkg'),
  );
  const data = found('listed.gpkg');
  const codes = expectedCodes(scopeAt(t.path), data);
  expect([...codes.get('kind')!].sort()).toEqual(['reef', 'sand']);
  expect(codesOf((await checkDataset(data, { ...plain, codes })).checks).count).toBe(2);
});

test('histograms of a field are those that NumPy makes, with as many steps as its quantiles give', async () => {
  const values = Array.from({ length: 5000 }, (_, i) => Math.round(Math.sin(i * 12.9898) * 43758.5453 * 1000) % 997);
  writeFileSync(t.at('v.csv'), `v\n${values.join('\n')}\n`);
  const { fields } = await checkDataset(found('v.csv'), plain);
  const { from, to, counts } = fields[0]!.histogram!;
  const theirs = python(
    `import sys,json,numpy
v=numpy.loadtxt(sys.argv[1],skiprows=1)
iqr=numpy.subtract(*numpy.quantile(v,[.75,.25],method='averaged_inverted_cdf'))
steps=int(min(40,max(5,numpy.ceil((v.max()-v.min())/(2*iqr/numpy.cbrt(len(v)))))))
print(json.dumps([float(v.min()),float(v.max()),numpy.histogram(v,bins=steps)[0].tolist()]))`,
    t.at('v.csv'),
  );
  expect([from, to, counts]).toEqual(JSON.parse(theirs));
  expect(fields[0]).toMatchObject({ name: 'v', filled: 5000, of: 5000 });
});
