import { afterAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { accuracyWords, compareRecords, positionalAccuracy, ProblemError } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import { datasetsOfFile } from '../project/find-dataset.js';
import { matchPoints } from './match-points.js';

const t = new TestFolder();
afterAll(() => t.remove());
const found = (path: string) => datasetsOfFile(t.at(path))[0]!;

/** Points in UTM 32N; some stand alone, some so close that nobody knows which is which. Outside reference: NumPy and a plain search. */
const PYTHON = `
import json, sys, random
import numpy
r = random.Random(7)
own = [[500000 + r.uniform(0, 3000), 5500000 + r.uniform(0, 3000)] for _ in range(400)]
other = [[x + r.gauss(2, 3), y + r.gauss(-1, 3)] for x, y in own[:300]] + [[500000 + r.uniform(0, 3000), 5500000 + r.uniform(0, 3000)] for _ in range(60)]
def write(name, points):
    with open(f'{sys.argv[1]}/{name}.geojson', 'w') as f:
        json.dump({'type': 'FeatureCollection', 'crs': {'type': 'name', 'properties': {'name': 'urn:ogc:def:crs:EPSG::25832'}},
          'features': [{'type': 'Feature', 'properties': {'id': i, 'name': None if i == 5 else f'n{i // 2 if i < 4 else i}'}, 'geometry': {'type': 'Point', 'coordinates': p}} for i, p in enumerate(points)]}, f)
write('own', own); write('other', other)
a, b = numpy.array(own), numpy.array(other)
d = numpy.sqrt(((a[:, None, :] - b[None, :, :]) ** 2).sum(2))
near = d <= 25
pairs, unmatched, ambiguous = [], 0, 0
for i in range(len(a)):
    js = numpy.nonzero(near[i])[0]
    if len(js) == 0: unmatched += 1
    elif len(js) > 1 or near[:, js[0]].sum() > 1: ambiguous += 1
    else: pairs.append((i, int(js[0])))
e = numpy.array([a[i] - b[j] for i, j in pairs])
print(json.dumps({'pairs': len(pairs), 'unmatched': unmatched, 'ambiguous': ambiguous, 'rmse': numpy.sqrt((e ** 2).mean(0)).tolist(), 'bias': e.mean(0).tolist()}))
`;

test('points that are each the only like of the other are paired, as a plain search finds them', () => {
  const theirs = JSON.parse(execFileSync('/usr/bin/python3', ['-c', PYTHON, t.at('.')], { encoding: 'utf8' })) as {
    pairs: number;
    unmatched: number;
    ambiguous: number;
    rmse: [number, number];
    bias: [number, number];
  };
  expect(theirs.ambiguous).toBeGreaterThan(5);
  const { pairs, unmatched, ambiguous, left } = matchPoints(found('own.geojson'), found('other.geojson'), { key: null, within: 25 });
  expect([pairs.length, unmatched, ambiguous, left]).toEqual([theirs.pairs, theirs.unmatched, theirs.ambiguous, 0]);
  const { rmseX, rmseY, biasX, biasY } = positionalAccuracy(pairs);
  [rmseX - theirs.rmse[0], rmseY - theirs.rmse[1], biasX - theirs.bias[0], biasY - theirs.bias[1]].forEach((d) =>
    expect(d).toBeCloseTo(0, 6),
  );
  // The same source in another CRS: the same pairs.
  execFileSync('ogr2ogr', ['-t_srs', 'EPSG:4326', t.at('degrees.gpkg'), t.at('other.geojson'), '-nln', 'other']);
  const other = matchPoints(found('own.geojson'), found('degrees.gpkg'), { key: null, within: 25 });
  expect(other.pairs.length).toBe(theirs.pairs);
  expect(positionalAccuracy(other.pairs).rmseX).toBeCloseTo(rmseX, 3);
});

test('by a key: one to one; doubled and missing keys are told', () => {
  const { pairs, unmatched, ambiguous } = matchPoints(found('own.geojson'), found('other.geojson'), { key: 'name', within: 1 });
  // Of 400, the first four share two names, one has none, and forty are not in the other.
  expect([pairs.length, unmatched, ambiguous]).toEqual([355, 41, 4]);
});

test('what cannot be matched is a sentence', () => {
  const why = (act: () => unknown): string => {
    try {
      act();
    } catch (error) {
      if (error instanceof ProblemError) return error.message;
    }
    return 'nothing';
  };
  const line = {
    type: 'Feature',
    properties: {},
    geometry: {
      type: 'LineString',
      coordinates: [
        [0, 0],
        [1, 1],
      ],
    },
  };
  writeFileSync(t.at('line.geojson'), JSON.stringify({ type: 'FeatureCollection', features: [line] }));
  expect(why(() => matchPoints(found('own.geojson'), found('line.geojson'), { key: null, within: 1 }))).toMatch('has no points');
  expect(why(() => matchPoints(found('own.geojson'), found('other.geojson'), { key: 'none', within: 1 }))).toMatch('has no field none');
  expect(accuracyWords(positionalAccuracy([{ x: 1, y: 1, referenceX: 0, referenceY: 0 }]), 'm')).toMatch(
    '1 check point, fewer than the 20',
  );
});

test('where records are that became something else is told for a map', () => {
  const side = (rows: readonly (readonly [id: number, x: number])[]) => ({
    fields: [{ name: 'id', type: 'integer' as const }],
    records: () => rows.map(([id, x]) => ({ geometry: point(x), values: [id] })),
    metres: 1,
    isDegrees: false,
  });
  const { places, before, after } = compareRecords(
    side([
      [1, 0],
      [2, 5],
      [3, 9],
    ]),
    side([
      [1, 0],
      [2, 6],
      [4, 20],
    ]),
    'id',
  );
  expect(places).toEqual({ added: [[20, 0]], removed: [[9, 0]], changed: [[6, 0]] });
  expect([before.extent, after.extent]).toEqual([
    [0, 0, 9, 0],
    [0, 0, 20, 0],
  ]);
});

/** A point at y 0 as well-known binary. */
function point(x: number): Uint8Array {
  const bytes = Buffer.alloc(21);
  bytes[0] = 1;
  bytes.writeUInt32LE(1, 1);
  bytes.writeDoubleLE(x, 5);
  return bytes;
}
