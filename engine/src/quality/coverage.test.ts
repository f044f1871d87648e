import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { datasetsOfFile } from '../project/find-dataset.js';
import { TestFolder } from '../../test/test-project.js';
import { checkDataset } from './check-dataset.js';

// Outside reference: coverages with gaps and overlaps that are known, counted and measured by GEOS (engine/test/matrix/coverage.py).

interface Known {
  readonly gaps: number;
  readonly gapArea: number;
  readonly overlaps: number;
  readonly overlapArea: number;
}
let t: TestFolder;
let index: Readonly<Record<string, Known>>;
beforeAll(() => {
  t = new TestFolder();
  execFileSync('/usr/bin/python3', ['engine/test/matrix/coverage.py', t.at('.')], { stdio: 'ignore' });
  index = JSON.parse(readFileSync(t.at('index.json'), 'utf8')) as typeof index;
});
afterAll(() => t.remove());

const found = async (file: string) => {
  const { checks } = await checkDataset(datasetsOfFile(file)[0]!, {
    origin: null,
    isMadeHere: false,
    projectCrs: null,
    codes: new Map(),
    area: null,
    nowMs: 0,
  });
  const of = (code: 'gaps' | 'overlaps') => checks.find((c) => c.code === code)!;
  const area = (detail: string): number =>
    Number(/several areas, (\S+) square|between areas, (\S+) square/.exec(detail)?.slice(1).find(Boolean) ?? 0);
  return { gaps: of('gaps'), overlaps: of('overlaps'), areas: [area(of('gaps').detail), area(of('overlaps')?.detail ?? '')] as const };
};

test.each(Array.from({ length: 8 }, (_, i) => `a${i}`))('%s: gaps and overlaps as GEOS counts and measures them', async (name) => {
  const known = index[name]!;
  const { gaps, overlaps, areas } = await found(t.at(`${name}.geojson`));
  expect([gaps.count, overlaps.count]).toEqual([known.gaps, known.overlaps]);
  expect(Math.abs(areas[0] - known.gapArea)).toBeLessThanOrEqual(known.gapArea * 1e-3 + 1e-6);
  expect(Math.abs(areas[1] - known.overlapArea)).toBeLessThanOrEqual(known.overlapArea * 1e-3 + 1e-6);
});

test('there is something of each among them', () => {
  const all = Object.values(index);
  expect([
    all.some((k) => k.gaps > 1),
    all.some((k) => k.overlaps > 1),
    all.some((k) => k.gaps === 0),
    all.some((k) => k.overlaps === 0),
  ]).toEqual([true, true, true, true]);
});

test('areas that stand apart are no coverage, and it is said that nothing was looked for', async () => {
  const box = (x: number) => [
    [
      [x, 0],
      [x + 1, 0],
      [x + 1, 1],
      [x, 1],
      [x, 0],
    ],
  ];
  const features = [0, 5, 10].map((x) => ({ type: 'Feature', properties: {}, geometry: { type: 'Polygon', coordinates: box(x) } }));
  writeFileSync(t.at('apart.geojson'), JSON.stringify({ type: 'FeatureCollection', features }));
  const { gaps, overlaps } = await found(t.at('apart.geojson'));
  expect([gaps.result, gaps.detail, overlaps]).toEqual(['pass', expect.stringContaining('it is no coverage'), undefined]);
});
