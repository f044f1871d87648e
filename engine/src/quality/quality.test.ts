import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readFileSync, utimesSync, writeFileSync } from 'node:fs';
import type { CheckCode, QualityCheck } from '@rootmap/core';
import { runChange } from '../changes/run-change.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { openIndex } from '../survey/sqlite-index.js';
import { surveyFolder } from '../survey/list-datasets.js';
import { shun, stateOf } from '../geopackage/reading-watch.js';
import { ImportWorld } from '../../test/import-world.js';
import { checkDataset } from './check-dataset.js';
import { planChecks, planReview } from './plan-sheets.js';
import { datasetsOf, qualityRows, qualitySheet } from './quality-rows.js';

const OPEN = 'testdata/open/spdata/shapes';
const plain = { origin: null, isMadeHere: false, projectCrs: null, codes: new Map(), area: null, nowMs: Date.parse('2026-01-01') };
const checksOf = async (file: string, nth = 0): Promise<Map<CheckCode, QualityCheck>> =>
  new Map((await checkDataset(datasetsOfFile(file)[nth]!, plain)).checks.map((c) => [c.code, c]));

// Outside reference: GEOS through Debian's python3-gdal says which shapes are valid, numpy what is far from the median.
const PYTHON = `
import sys, json
import numpy
from osgeo import ogr, gdal
ogr.DontUseExceptions()
gdal.PushErrorHandler('CPLQuietErrorHandler')
out = {}
for path in sys.argv[1:]:
    source = ogr.Open(path)
    layer = source.GetLayer(0)
    names = [f.GetName() for f in layer.schema if f.GetType() in (ogr.OFTInteger, ogr.OFTInteger64, ogr.OFTReal)]
    invalid, none, same, columns, seen = 0, 0, 0, {n: [] for n in names}, set()
    for feature in layer:
        g = feature.GetGeometryRef()
        if g is None or g.IsEmpty(): none += 1
        else:
            invalid += 0 if g.IsValid() else 1
            w = bytes(g.ExportToWkb())
            same += w in seen
            seen.add(w)
        for n in names:
            if feature.IsFieldSetAndNotNull(n): columns[n].append(feature.GetField(n))
    far = {}
    for n, values in columns.items():
        v = numpy.array(values, float)
        if len(v) == 0: continue
        mad = numpy.median(numpy.abs(v - numpy.median(v)))
        if mad > 0:
            count = int((0.6745 * numpy.abs(v - numpy.median(v)) / mad > 3.5).sum())
            if count: far[n] = count
    out[path] = {'invalid': invalid, 'none': none, 'same': same, 'far': far, 'count': layer.GetFeatureCount()}
print(json.dumps(out))
`;
interface Theirs {
  readonly invalid: number;
  readonly none: number;
  readonly same: number;
  readonly far: Readonly<Record<string, number>>;
  readonly count: number;
}
const KEY = /^(id|fid|gid|oid|objectid|ogc_fid|key|code|uuid|guid|[a-z0-9]+_id|[a-z0-9]+_code)$/i;

describe('the open data, against GEOS and numpy', () => {
  const files = [...surveyFolder(OPEN).datasets, ...surveyFolder('testdata/open/sf/shape').datasets]
    .filter((d) => d.kind === 'vector' && d.group.format !== 'csv')
    .map((d) => `${existsSync(`${OPEN}/${d.group.path}`) ? OPEN : 'testdata/open/sf/shape'}/${d.group.path}`);
  const theirs = JSON.parse(execFileSync('/usr/bin/python3', ['-c', PYTHON, ...files], { encoding: 'utf8', maxBuffer: 1 << 26 })) as Record<
    string,
    Theirs
  >;
  test.each(files)('%s', async (file) => {
    const found = await checksOf(file);
    const { invalid, none, same, far, count } = theirs[file]!;
    expect({
      count: found.get('records')!.of,
      invalid: found.get('invalid-shapes')!.count,
      none: found.get('empty-shapes')!.count,
      same: found.get('same-shape')!.count,
    }).toEqual({ count, invalid, none, same });
    const told = [...(found.get('outliers')?.detail ?? '').matchAll(/[,:] (\S+) \((\d+)\)/g)].map(([, name, n]) => [name, Number(n)]);
    expect(Object.fromEntries(told)).toEqual(Object.fromEntries(Object.entries(far).filter(([name]) => !KEY.test(name))));
  });
});

describe('sheets', () => {
  let w: ImportWorld;
  beforeEach(async () => {
    w = await ImportWorld.open();
  });
  afterEach(() => w.close());
  const options = { anew: false, keeps: true, who: 'test', nowMs: Date.parse('2026-03-01T00:00:00Z'), onProgress: () => undefined };
  const all = async () => datasetsOf(w.scope(), await openIndex(w.t.at('index.sqlite')));
  const some = async (name: string) => (await all()).filter((d) => d.dataset.group.path.endsWith(name));
  const run = async (name: string) => {
    const plan = await planChecks(w.scope(), await some(name), options);
    if (plan.change) await runChange(plan.change, { journal: w.journal(), program: 'test' });
    return plan;
  };
  const row = async (name: string) =>
    (await qualityRows(w.scope(), await openIndex(w.t.at('index.sqlite')))).find((r) => r.name.endsWith(name))!;
  const review = (name: string) => ({
    dataset: w.t.at('p', name),
    elements: { positional: { fitness: 'limited' as const, words: 'Drawn from a chart' } },
    accuracy: 'about 20 m',
    fitFor: 'overview maps',
    name: 'A. Reviewer',
    date: '2026-03-02',
  });

  test('nothing is computed twice; a sheet stands beside its data and is no dataset', async () => {
    expect((await row('columbus.shp')).state).toBe('none');
    expect((await run('columbus.shp')).datasets.map((d) => d.isKnown)).toEqual([false]);
    const file = w.t.at('p/shapes/columbus.shp.quality.json');
    expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ format: 'rootmap-quality/1', sheets: [{ table: null, review: null }] });
    const again = await run('columbus.shp');
    expect([again.change, again.datasets[0]!.isKnown]).toEqual([null, true]);
    expect(await row('columbus.shp')).toMatchObject({ state: 'computed', elements: { metadata: 'fail', omission: 'pass' } });
    const { datasets, leftBehind } = surveyFolder(w.t.at('p/shapes'));
    expect([datasets.filter((d) => /quality/.test(d.id)), leftBehind]).toEqual([[], []]);
    expect(datasets.find((d) => d.id === 'columbus.shp')!.group.companions.map((c) => c.path)).toContain('columbus.shp.quality.json');
  });

  test('a review is signed with the data: another time of the same bytes is the same, other bytes are out of date', async () => {
    await run('columbus.shp');
    const found = (await some('columbus.shp'))[0]!;
    await runChange(planReview(w.scope(), found, review('shapes/columbus.shp'), 'test'), { journal: w.journal(), program: 'test' });
    expect(await row('columbus.shp')).toMatchObject({ state: 'reviewed', reviewer: { name: 'A. Reviewer' } });
    const dbf = w.t.at('p/shapes/columbus.dbf');
    utimesSync(dbf, new Date(), new Date());
    expect((await row('columbus.shp')).state).toBe('reviewed');
    const bytes = readFileSync(dbf);
    bytes[bytes.length - 20] = 0x39;
    writeFileSync(dbf, bytes);
    expect((await row('columbus.shp')).state).toBe('out-of-date');
    expect(qualitySheet(w.scope(), (await some('columbus.shp'))[0]!)).toMatchObject({
      isReviewCurrent: false,
      review: { accuracy: 'about 20 m' },
    });
  });

  test('a sheet that was edited into nonsense is told and kept; the others go on', async () => {
    writeFileSync(w.t.at('p/shapes/columbus.shp.quality.json'), '{"format":"else"}');
    const plan = await planChecks(w.scope(), await all(), options);
    expect(plan.failed.map((f) => [f.dataset, f.why])).toEqual([
      [w.t.at('p/shapes/columbus.shp'), expect.stringContaining('"rootmap-quality/1"')],
    ]);
    expect(plan.datasets.length).toBeGreaterThan(5);
    expect(plan.change!.steps.some((s) => s.path.endsWith('columbus.shp.quality.json'))).toBe(false);
    expect((await row('columbus.shp')).problem).toContain('rootmap-quality/1');
  });

  test('a geodatabase that is not opened any more is told table by table; the others go on', async () => {
    await w.bringIn('t.gpkg', ['shapes/columbus.shp', 'visits.csv']);
    const wanted = [...(await some('t.gpkg')), ...(await some('columbus.shp'))];
    const path = w.t.at('p/t.gpkg');
    shun(new Map([[path, stateOf(path)]]));
    try {
      const { failed, datasets } = await planChecks(w.scope(), wanted, options);
      expect(failed.map((f) => f.why)).toEqual([
        expect.stringContaining('kept its reader busy'),
        expect.stringContaining('kept its reader busy'),
      ]);
      expect(datasets.map((d) => d.id)).toEqual([w.t.at('p/shapes/columbus.shp')]);
    } finally {
      shun(new Map());
    }
  });

  test('tables of a geodatabase have their sheets in one file', async () => {
    await w.bringIn('t.gpkg', ['shapes/columbus.shp', 'visits.csv']);
    await run('t.gpkg');
    const { sheets } = JSON.parse(readFileSync(w.t.at('p/t.gpkg.quality.json'), 'utf8')) as { sheets: { table: string }[] };
    expect(sheets.map((s) => s.table)).toEqual(['columbus', 'visits']);
    expect((await row('t.gpkg#visits')).state).toBe('computed');
  });
});

describe('what others leave in data', () => {
  let w: ImportWorld;
  beforeEach(async () => {
    w = await ImportWorld.open();
    mkdirSync(w.t.at('p/made'));
  });
  afterEach(() => w.close());
  const csv = (text: string): string => {
    writeFileSync(w.t.at('p/made/a.csv'), text);
    return w.t.at('p/made/a.csv');
  };

  test('spaces, damaged letters, empty, constant and sparse fields, keys and records that are there twice', async () => {
    const rows = Array.from(
      { length: 40 },
      (_, i) => `${i === 7 ? 6 : i},${i === 3 ? ' reef' : 'reef'},x,,${i === 5 ? 'v' : ''},BÃ¼cht ${i}`,
    );
    const found = await checksOf(csv(`id,kind,same,none,few,name\n${[...rows, '40,reef,x,,,BÃ¼cht 0'].join('\n')}\n`));
    const told = (code: CheckCode) => [found.get(code)!.result, found.get(code)!.detail];
    expect(told('stray-spaces')).toEqual(['note', '1 value begin or end with a space: kind (1).']);
    expect(told('encoding')).toEqual(['fail', expect.stringContaining('name (41)')]);
    expect(told('empty-fields')).toEqual(['note', 'No record has a value of: none.']);
    expect(told('sparse-fields')).toEqual(['note', 'Mostly empty: few (2 % filled).']);
    expect(told('constant-fields')).toEqual(['note', 'The same in every record: same (x).']);
    expect(told('same-key')).toEqual(['note', '1 value of id was there before.']);
    expect(told('same-record')).toEqual(['note', '1 record is as one before, keys aside.']);
  });

  test('no records, one record, all shapes empty, numbers that are none: each is a sentence', async () => {
    expect((await checksOf(csv('id,kind\n'))).get('records')).toMatchObject({ result: 'fail', detail: 'It has 0 records.' });
    expect((await checksOf(csv('id,kind\n1,a\n'))).get('records')).toMatchObject({ result: 'pass', detail: 'It has 1 record.' });
    const empty = w.t.at('p/made/e.geojson');
    const feature = (geometry: unknown) => ({ type: 'Feature', properties: { n: 1 }, geometry });
    writeFileSync(
      empty,
      JSON.stringify({ type: 'FeatureCollection', features: [feature(null), feature({ type: 'LineString', coordinates: [] })] }),
    );
    expect((await checksOf(empty)).get('empty-shapes')).toMatchObject({ result: 'note', count: 2 });
  });

  test('a raster: pixels without a value, a band of one value, stripes', async () => {
    const script = `
import sys, numpy
from osgeo import gdal
ds = gdal.GetDriverByName('GTiff').Create(sys.argv[1], 40, 30, 3, gdal.GDT_Int16)
ds.SetGeoTransform([500000, 25, 0, 4870000, 0, -25])
y, x = numpy.indices((30, 40))
a = x * 3 + y * 7
a[11, :] = 5
a[:, 4] = 9
a[20:22, 10:14] = -1
ds.GetRasterBand(1).WriteArray(a); ds.GetRasterBand(1).SetNoDataValue(-1)
ds.GetRasterBand(2).WriteArray(a * 0 + 4)
ds.GetRasterBand(3).WriteArray(x + y)
`;
    const file = w.t.at('p/made/r.tif');
    execFileSync('/usr/bin/python3', ['-c', script, file], { stdio: 'ignore' });
    const found = await checksOf(file);
    expect(found.get('nodata')).toMatchObject({ result: 'note', count: 8, of: 3600 });
    expect(found.get('constant-bands')).toMatchObject({ result: 'note', detail: 'One value throughout: band 2.' });
    // Where they cross, the column was written last: so only the column has one value.
    expect(found.get('stripes')!.examples.map((e) => [e.what, e.at])).toEqual([['column 5 of band 1', [500112.5, 4869612.5]]]);
  });

  test('thin and small areas are slivers', async () => {
    cpSync(`${OPEN}/../../example_project/working`, w.t.at('p/made'), { recursive: true });
    const box = (x: number, width: number) => [
      [
        [x, 0],
        [x + width, 0],
        [x + width, 1],
        [x, 1],
        [x, 0],
      ],
    ];
    const features = [...Array.from({ length: 9 }, (_, i) => box(i * 2, 1)), box(30, 0.01)].map((coordinates) => ({
      type: 'Feature',
      properties: {},
      geometry: { type: 'Polygon', coordinates },
    }));
    writeFileSync(w.t.at('p/made/s.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
    const found = await checksOf(w.t.at('p/made/s.geojson'));
    expect(found.get('slivers')).toMatchObject({ result: 'note', count: 1, of: 10, examples: [{ record: 10, at: [30, 0] }] });
  });
});
