import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { datasetsOfFile } from '../project/find-dataset.js';
import { TestFolder } from '../../test/test-project.js';
import { checkDataset } from './check-dataset.js';

// Outside reference: GEOS (python3-gdal) measures from each end of a line to all others.
const SCRIPT = `
import json, random, sys
from osgeo import ogr
ogr.DontUseExceptions()
out = {}
for case in range(4):
    r = random.Random(case)
    lines = []
    for i in range(12):
        y = i * 100
        lines.append([[x * 50, y + (x % 3)] for x in range(12)])
    for i in range(40):
        x, row = r.uniform(10, 540), r.randrange(11)
        low = ogr.CreateGeometryFromJson(json.dumps({'type': 'LineString', 'coordinates': lines[row]}))
        # Its foot stands on the line, a little short of it, or far from it.
        k = int(x // 50)
        (ax, ay), (bx, by) = lines[row][k], lines[row][k + 1]
        foot = [ax, ay] if r.random() < 0.4 else [x, ay + (by - ay) * (x - ax) / (bx - ax) + r.choice([1.5, 3, 30])]
        lines.append([foot, [foot[0] + r.uniform(-5, 5), row * 100 + 60]])
    shapes = [ogr.CreateGeometryFromJson(json.dumps({'type': 'LineString', 'coordinates': l})) for l in lines]
    lengths = sorted(((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2) ** 0.5 for l in lines for a, b in zip(l, l[1:]))
    tolerance = lengths[len(lengths) // 2] * 0.1
    missed = free = 0
    for n, l in enumerate(lines):
        for p in (l[0], l[-1]):
            point = ogr.Geometry(ogr.wkbPoint); point.AddPoint_2D(*p)
            d = min(point.Distance(s) for m, s in enumerate(shapes) if m != n)
            if 0 < d <= tolerance: missed += 1
            elif d > tolerance: free += 1
    out[f'l{case}'] = {'missed': missed, 'free': free, 'ends': 2 * len(lines)}
    with open(f'{sys.argv[1]}/l{case}.geojson', 'w') as f:
        json.dump({'type': 'FeatureCollection', 'features': [{'type': 'Feature', 'properties': {}, 'geometry': {'type': 'LineString', 'coordinates': l}} for l in lines]}, f)
with open(f'{sys.argv[1]}/index.json', 'w') as f: json.dump(out, f)
`;

let t: TestFolder;
let index: Readonly<Record<string, { readonly missed: number; readonly free: number; readonly ends: number }>>;
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['-c', SCRIPT, t.at('.')], { stdio: 'ignore' });
  index = JSON.parse(readFileSync(t.at('index.json'), 'utf8')) as typeof index;
});
afterAll(() => t.remove());

test.each(['l0', 'l1', 'l2', 'l3'])('%s: ends that miss another line, and free ones, as GEOS measures them', async (name) => {
  const known = index[name]!;
  const { checks } = await checkDataset(datasetsOfFile(t.at(`${name}.geojson`))[0]!, {
    origin: null,
    isMadeHere: false,
    projectCrs: null,
    codes: new Map(),
    area: null,
    nowMs: 0,
  });
  const found = checks.find((c) => c.code === 'line-ends')!;
  expect([found.count, found.of, /(\d+) ends? of/.exec(found.detail)![1]]).toEqual([known.missed, known.ends, String(known.free)]);
  expect(known.missed).toBeGreaterThan(5);
  expect(found.examples.every((e) => e.at !== null && e.record !== null)).toBe(true);
});
