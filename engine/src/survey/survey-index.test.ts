import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { mkdirSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { TestFolder } from '../../test/test-project.js';
import { openIndex } from './sqlite-index.js';
import { surveyShare, surveyWithIndex, type Signatures, type SurveyHelper } from './survey-index.js';
import { surveyFolder } from './list-datasets.js';

let t: TestFolder;
let index: Awaited<ReturnType<typeof openIndex>>;
beforeEach(async () => {
  t = new TestFolder();
  index = await openIndex(t.at('index.sqlite'));
  for (const [i, name] of ['point', 'polygon', 'polyline', 'multipoint'].entries()) t.shapefile(name, `p/area_${i % 2}/part_${i}/${name}`);
  t.shapefile('pointz', 'p/pointz');
});
afterEach(async () => {
  await index.close();
  t.remove();
});

const ids = (datasets: readonly { id: string }[]): string[] => datasets.map((d) => d.id).sort();

const signatures = (): Signatures => new Map([...index.load(t.at('p'))].map(([folder, row]) => [folder, row.signature]));

test('with the index, the same as without it, first and again', async () => {
  const plain = ids(surveyFolder(t.at('p')).datasets);
  for (let i = 0; i < 2; i++) expect(ids((await surveyWithIndex(t.at('p'), index)).datasets)).toEqual(plain);
});

test('only what changed is read again, what is gone is forgotten', async () => {
  await surveyWithIndex(t.at('p'), index);
  const again = surveyShare(t.at('p'), signatures(), t.at('p'));
  expect(again.rows.filter((r) => r.content !== null)).toEqual([]);
  writeFileSync(t.at('p/area_0/part_0/point.prj'), 'GEOGCS["x"]');
  utimesSync(t.at('p/area_1/part_1/polygon.shp'), 1, 1);
  const changed = surveyShare(t.at('p'), signatures(), t.at('p'));
  expect(
    changed.rows
      .filter((r) => r.content !== null)
      .map((r) => r.folder)
      .sort(),
  ).toEqual(['area_0/part_0', 'area_1/part_1']);
  rmSync(t.at('p/area_1'), { recursive: true });
  const survey = await surveyWithIndex(t.at('p'), index);
  expect(ids(survey.datasets)).toEqual(['area_0/part_0/point.shp', 'area_0/part_2/polyline.shp', 'pointz.shp']);
  expect([...index.load(t.at('p')).keys()].sort()).toEqual(['', 'area_0/part_0', 'area_0/part_2']);
});

test('two shares are the whole, and nothing twice', async () => {
  const helper: SurveyHelper = (root, confinedTo, part, known) => Promise.resolve(surveyShare(root, known, confinedTo, part));
  const both = await surveyWithIndex(t.at('p'), index, { helper });
  const plain = surveyFolder(t.at('p'));
  expect(ids(both.datasets)).toEqual(ids(plain.datasets));
  expect(both.files).toBe(plain.listing.files.length);
});

test('dot folders and nested projects are not entered', async () => {
  mkdirSync(t.at('p/.hidden'));
  renameSync(t.at('p/area_0'), t.at('p/.hidden/area_0'));
  writeFileSync(t.at('p/area_1/x.rootmap.json'), '{}');
  const survey = await surveyWithIndex(t.at('p'), index);
  expect(ids(survey.datasets)).toEqual(['pointz.shp']);
  expect(survey.nested).toEqual(['area_1']);
});

test('when data was seen last is kept, to ten minutes', () => {
  const minute = 60_000;
  const note = (all: readonly string[], ms: number): void =>
    index.noteSeen(
      all.map((data) => ({ data, file: '1:2:3', folder: null })),
      ms,
    );
  note(['/a', '/b#t'], 100 * minute);
  note(['/a'], 105 * minute);
  expect(['/a', '/b#t', '/b'].map((data) => index.seen(data)?.ms)).toEqual([100 * minute, 100 * minute, undefined]);
  note(['/a'], 111 * minute);
  expect(index.seen('/a')).toEqual({ ms: 111 * minute, file: '1:2:3', folder: null });
  // Another file under the same name is told at once, or what went away would be taken for what came.
  index.noteSeen([{ data: '/a', file: '1:9:9', folder: '1:1:1' }], 112 * minute);
  expect(index.seen('/a')).toEqual({ ms: 112 * minute, file: '1:9:9', folder: '1:1:1' });
});
