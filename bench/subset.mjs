// A part of a million points by a filter, on the command line: beside ogr2ogr, which writes the same records into the same format.
import { existsSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { spawnSync } from 'node:child_process';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { median, report, root } from './lib.mjs';

const POINTS = 1_000_000;
const folder = mkdtempSync(join(tmpdir(), 'rootmap-bench-'));
const source = join(folder, 'points.gpkg');
const made = spawnSync(
  '/usr/bin/python3',
  [
    '-c',
    `
import sys, random
from osgeo import ogr, osr
random.seed(5)
srs = osr.SpatialReference(); srs.ImportFromEPSG(32624)
ds = ogr.GetDriverByName('GPKG').CreateDataSource(sys.argv[1])
layer = ds.CreateLayer('points', srs, ogr.wkbPoint)
for name, kind in (('depth_m', ogr.OFTReal), ('kind', ogr.OFTString), ('site', ogr.OFTInteger)):
    layer.CreateField(ogr.FieldDefn(name, kind))
layer.StartTransaction()
for i in range(${POINTS}):
    f = ogr.Feature(layer.GetLayerDefn())
    f['depth_m'] = random.random() * 100; f['kind'] = random.choice(('sand', 'mud', 'rock')); f['site'] = i
    g = ogr.Geometry(ogr.wkbPoint); g.AddPoint_2D(400000 + random.random() * 100000, 4800000 + random.random() * 100000)
    f.SetGeometry(g); layer.CreateFeature(f)
layer.CommitTransaction()
`,
    source,
  ],
  { encoding: 'utf8' },
);
if (made.status !== 0) throw new Error(made.stderr);
spawnSync('ogr2ogr', ['-q', join(folder, 'points.shp'), source]);
mkdirSync(join(folder, 'out'));
const env = { ...process.env, ROOTMAP_DATA: join(folder, 'data') };
const filter = "depth_m > 40 AND kind = 'sand'";
const run = (command, args) => {
  const out = join(folder, 'out', 'part.gpkg');
  rmSync(out, { force: true });
  rmSync(join(folder, 'out', 'datapackage.json'), { force: true });
  const started = performance.now();
  const r = spawnSync(command, args(out), { env, cwd: root, encoding: 'utf8' });
  const ms = performance.now() - started;
  if (r.status !== 0 || !existsSync(out)) throw new Error(r.stderr);
  const told = spawnSync('ogrinfo', ['-q', '-ro', out, '-sql', 'SELECT count(*) AS n FROM part'], { encoding: 'utf8' }).stdout;
  return { ms, count: Number(/n \(Integer\) = (\d+)/.exec(told)[1]) };
};
for (const from of ['points.gpkg', 'points.shp']) {
  const ours = () => run(process.execPath, (out) => ['cli/bin/rootmap.js', 'export', join(folder, from), out, '--where', filter]);
  const theirs = () => run('ogr2ogr', (out) => ['-f', 'GPKG', '-nln', 'part', '-where', filter, out, join(folder, from)]);
  const [a, b] = [[], []];
  for (let i = 0; i < 3; i++) {
    a.push(ours());
    b.push(theirs());
  }
  if (a[0].count !== b[0].count) throw new Error(`${a[0].count} records, ogr2ogr has ${b[0].count}`);
  const [mine, other] = [median(a.map((r) => r.ms)), median(b.map((r) => r.ms))];
  console.log(`${from}: ${a[0].count} of ${POINTS} records; ${(mine / 1000).toFixed(2)} s, ogr2ogr -where ${(other / 1000).toFixed(2)} s`);
  report(`a part of a million points of ${from}, beside ogr2ogr -where`, mine / other, 0.5, ' ×');
}
rmSync(folder, { recursive: true, force: true });
