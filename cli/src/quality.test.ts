import { expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import type { QualityCheck } from '@rootmap/core';
import { useExample } from '../test/use-example.js';

const { at, rootmap } = useExample();

interface Sheets {
  readonly sheets: readonly { readonly dataset: string; readonly known: boolean; readonly checks: readonly QualityCheck[] }[];
  readonly failed: readonly unknown[];
  readonly kept: boolean;
}

test('every dataset of a folder is checked, and nothing is written unless it is kept', () => {
  const { status, json } = rootmap('quality', at('p'), '--json');
  const { sheets, failed, kept } = json() as Sheets;
  expect([status, sheets.length, failed, kept]).toEqual([1, 8, [], false]);
  const light = sheets.find((s) => s.dataset.endsWith('light_007.shp'))!;
  expect(light.checks.find((c) => c.code === 'records')).toMatchObject({ element: 'omission', result: 'pass', of: 57 });
  expect(light.checks.find((c) => c.code === 'metadata')).toMatchObject({ result: 'fail', detail: expect.stringContaining('licence') });
  expect(existsSync(at('p/originals/field/2025/light_007.shp.quality.json'))).toBe(false);
});

test('one dataset is kept, known the next time, and ends with 0 where nothing reaches the level', () => {
  const file = at('p/points.csv');
  writeFileSync(file, `id,depth\n${Array.from({ length: 20 }, (_, i) => `${i},${i % 5}`).join('\n')}\n`);
  const record = {
    resources: [
      {
        name: 'points',
        path: 'points.csv',
        title: 'Points',
        sources: [{ title: 'Office', path: 'https://data.example/points.csv' }],
        licenses: [{ name: 'CC-BY-4.0' }],
        'rootmap:publisher': 'Office',
        'rootmap:fetched': '2026-01-02',
      },
    ],
  };
  writeFileSync(at('p/datapackage.json'), JSON.stringify(record));
  const first = rootmap('quality', file, '--keep', '--json');
  expect([first.status, (first.json() as Sheets).kept]).toEqual([0, true]);
  expect(JSON.parse(readFileSync(`${file}.quality.json`, 'utf8'))).toMatchObject({ format: 'rootmap-quality/1' });
  const again = rootmap('quality', file, '--keep', '--json').json() as Sheets;
  expect([again.sheets[0]!.known, again.kept]).toEqual([true, false]);
  expect(rootmap('quality', file, '--require', 'note').status).toBe(1); // what is wanted is not all written down
  writeFileSync(file, `${readFileSync(file, 'utf8')}19,1000\n`);
  const changed = rootmap('quality', file, '--json').json() as Sheets;
  const found = changed.sheets[0]!.checks.filter((c) => ['same-key', 'outliers'].includes(c.code)).map((c) => [c.code, c.count]);
  expect([changed.sheets[0]!.known, found]).toEqual([
    false,
    [
      ['same-key', 1],
      ['outliers', 1],
    ],
  ]);
});

test('what was found goes into a page, a table or data; nothing is overwritten, and markup stays text', () => {
  const file = at('p/odd.csv');
  writeFileSync(file, 'id,<b>name</b>\n1, x\n2,"a,""b"\n');
  for (const ending of ['html', 'csv', 'json', 'pdf']) rootmap('quality', file, '--out', at(`q.${ending}`));
  expect(execFileSync('pdftotext', [at('q.pdf'), '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ')).toContain('<b>name</b> (1)');
  const page = readFileSync(at('q.html'), 'utf8');
  expect([page.includes('<b>name'), page.includes('&lt;b&gt;name&lt;/b&gt; (1)')]).toEqual([false, true]);
  // Outside reference: Python's csv module reads the table.
  const script = 'import csv, json, sys; print(json.dumps(list(csv.DictReader(open(sys.argv[1], newline="")))))';
  const rows = JSON.parse(execFileSync('/usr/bin/python3', ['-c', script, at('q.csv')], { encoding: 'utf8' })) as Record<string, string>[];
  const data = JSON.parse(readFileSync(at('q.json'), 'utf8')) as { sheets: { checks: QualityCheck[] }[] };
  expect(rows.map((r) => [r['check'], r['result'], r['detail']])).toEqual(data.sheets[0]!.checks.map((c) => [c.code, c.result, c.detail]));
  expect(rootmap('quality', file, '--out', at('q.csv'))).toMatchObject({ status: 2, err: expect.stringContaining('is there already') });
  expect(rootmap('quality', file, '--out', at('q.xls'))).toMatchObject({ status: 2 });
});

test('an edition against another: records by a key, else by shape and content', () => {
  const rows = (n: number, of: (i: number) => string): string => `id,depth\n${Array.from({ length: n }, (_, i) => of(i)).join('\n')}\n`;
  writeFileSync(
    at('p/old.csv'),
    rows(50, (i) => `${i},${i * 2}`),
  );
  // Five are gone, three are new, four have another depth.
  writeFileSync(
    at('p/new.csv'),
    rows(48, (i) => `${i + 5},${i < 4 ? 999 : (i + 5) * 2}`),
  );
  const by = (...more: string[]) => rootmap('quality', at('p/new.csv'), '--against', at('p/old.csv'), '--json', ...more);
  expect([by().status, by().json()]).toMatchObject([1, { key: 'id', same: 41, added: 3, removed: 5, changed: 4 }]);
  writeFileSync(at('p/old.csv'), readFileSync(at('p/old.csv'), 'utf8').replace('id,', 'n,'));
  writeFileSync(at('p/new.csv'), readFileSync(at('p/new.csv'), 'utf8').replace('id,', 'n,'));
  expect(by().json()).toMatchObject({ key: null, same: 41, added: 7, removed: 9, changed: 0 });
  expect(by('--key', 'n').json()).toMatchObject({ key: 'n', changed: 4 });
  expect(by('--key', 'none')).toMatchObject({ status: 2, err: expect.stringContaining('has no field none') });
  expect(rootmap('quality', at('p/old.csv'), '--against', at('p/old.csv')).status).toBe(0);
});

test('check points: RMSE and the radius of the NSSDA', () => {
  writeFileSync(
    at('p/points.txt'),
    `x y rx ry\n${Array.from({ length: 20 }, (_, i) => `${i + 2} ${i * 3 - 2} ${i} ${i * 3}`).join('\n')}\n`,
  );
  const { status, json } = rootmap('quality', '--points', at('p/points.txt'), '--json');
  expect([status, json()]).toMatchObject([
    0,
    { points: 20, rmseX: 2, rmseY: 2, within95: expect.closeTo(1.7308 * Math.sqrt(8), 3), odd: [] },
  ]);
  writeFileSync(at('p/points.txt'), 'nothing\n');
  expect(rootmap('quality', '--points', at('p/points.txt'))).toMatchObject({ status: 2, err: expect.stringContaining('no check points') });
});

test('wrong use is a sentence', () => {
  expect(rootmap('quality', at('p'), '--require', 'all')).toMatchObject({
    status: 2,
    err: expect.stringContaining('--require is note or fail'),
  });
  expect(rootmap('quality', at('p/nowhere.shp'))).toMatchObject({ status: 2 });
});

/** Squares of 10, `at` metres from each other, one of them with its corners in a wrong order. */
const cells = (at: number, broken: boolean): string =>
  JSON.stringify({
    type: 'FeatureCollection',
    crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::25832' } },
    features: Array.from({ length: 30 }, (_, i) => {
      const [x, y] = [500_000 + (i % 6) * at, 5_500_000 + Math.floor(i / 6) * at];
      const corners = [
        [x, y],
        [x + 10, y],
        [x + 10, y + 10],
        [x, y + 10],
      ];
      if (broken && i === 4) corners.reverse().splice(1, 2, corners[2]!, corners[1]!);
      return { type: 'Feature', properties: { id: i, kind: 'a' }, geometry: { type: 'Polygon', coordinates: [[...corners, corners[0]]] } };
    }),
  });
const marks = (shift: number): string =>
  JSON.stringify({
    type: 'FeatureCollection',
    crs: { type: 'name', properties: { name: 'urn:ogc:def:crs:EPSG::25832' } },
    features: Array.from({ length: 25 }, (_, i) => ({
      type: 'Feature',
      properties: { id: i },
      geometry: { type: 'Point', coordinates: [500_000 + i * 100 + shift, 5_500_000 + i * 50 - shift] },
    })),
  });

test('the whole of it: a disclaimer is read in its archive, data is checked, repaired, compared, measured and handed on; a change is told', () => {
  // The disclaimer of an archive tells its units before anything is unpacked.
  writeFileSync(at('cells.geojson'), cells(20, true));
  writeFileSync(at('terms.html'), '<p>Units: feet. Not for navigation.</p>');
  execFileSync('zip', ['-q', '-j', at('in.zip'), at('cells.geojson'), at('terms.html')]);
  const told = rootmap('notes', at('in.zip'), '--json');
  const { notes } = told.json() as { notes: { path: string; likely: { about: string; words: string }[] }[] };
  expect(notes.map((n) => [n.path, n.likely.map((l) => `${l.about}: ${l.words}`)])).toEqual([
    ['terms.html', ['units: Units: feet.', 'limits: Not for navigation.']],
  ]);
  // Its areas are checked, and repaired into a working copy.
  const check = (file: string): QualityCheck =>
    (rootmap('quality', file, '--json').json() as Sheets).sheets[0]!.checks.find((c) => c.code === 'invalid-shapes')!;
  expect(check(at('cells.geojson'))).toMatchObject({ result: 'fail', count: 1, examples: [{ record: 5 }] });
  rootmap('geodatabase', 'create', at('work.gpkg'));
  expect(rootmap('geodatabase', 'import', at('work.gpkg'), at('cells.geojson'), '--make-valid').status).toBe(0);
  expect(check(`${at('work.gpkg')}#cells`)).toMatchObject({ result: 'pass', count: 0 });
  // Another edition, and positions by a better source.
  writeFileSync(at('next.geojson'), cells(20, false));
  expect(rootmap('quality', at('next.geojson'), '--against', at('cells.geojson'), '--json').json()).toMatchObject({ same: 29, changed: 1 });
  writeFileSync(at('own.geojson'), marks(3));
  writeFileSync(at('better.geojson'), marks(0));
  const measured = rootmap('quality', at('own.geojson'), '--better', at('better.geojson'), '--within', '10', '--json');
  expect([measured.status, measured.json()]).toMatchObject([
    0,
    { points: 25, unmatched: 0, biasX: 3, biasY: -3, rmseR: expect.closeTo(Math.sqrt(18), 6) },
  ]);
  // The sheet is handed on as pages; when the data changes, it is out of date.
  rootmap('quality', at('next.geojson'), '--keep', '--out', at('sheet.pdf'));
  expect(execFileSync('pdftotext', [at('sheet.pdf'), '-'], { encoding: 'utf8' })).toContain('next.geojson');
  const state = (): string => (rootmap('quality', at('next.geojson'), '--json').json() as { sheets: { state: string }[] }).sheets[0]!.state;
  expect(state()).toBe('computed');
  writeFileSync(at('next.geojson'), cells(21, false));
  expect(state()).toBe('out-of-date');
});
