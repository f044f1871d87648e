import { existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { EMPTY_ORIGIN, writeProjectFile, type Origin } from '@rootmap/core';
import type { DataSource } from 'typeorm';
import { TestFolder } from '../../test/test-project.js';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { stageEdition } from './stage-edition.js';
import { planTakeEdition } from './take-edition.js';

let t: TestFolder;
let store: DataSource;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('stick/p/received'), { recursive: true });
  mkdirSync(t.at('came'));
  const project = { id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: { received: 'originals' } };
  writeFileSync(t.at('stick/p/p.rootmap.json'), writeProjectFile(project));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const ADDRESS = 'https://x.example/a.zip';
const origin: Origin = { ...EMPTY_ORIGIN, address: ADDRESS, publisher: 'Office' };
const scope = () => rooted(findScope(t.at('stick/p'), { places: t.places, root: t.at('stick/p') }));
const edition = { etag: '"2"', modified: null, bytes: 9, sha256: 'x', records: null, updated: null };
const plan = (...files: string[]) =>
  planTakeEdition(
    scope(),
    files.map((f) => ({ id: t.at('stick/p', f), origin, usedBy: 1 })),
    t.at('came'),
    { fetched: '2026-11-30', edition },
    'test',
  );
const geojson = (fields: object, n = 1): string =>
  JSON.stringify({
    type: 'FeatureCollection',
    features: Array.from({ length: n }, (_, i) => ({
      type: 'Feature',
      properties: fields,
      geometry: { type: 'Point', coordinates: [i, 1] },
    })),
  });

describe('a newer edition takes the place of the old one', () => {
  test('under the name that it has here, with what changed told; its record tells the new files', async () => {
    writeFileSync(t.at('stick/p/received/reef_survey.geojson'), geojson({ a: 1, b: 'x' }));
    writeFileSync(
      t.at('stick/p/received/datapackage.json'),
      JSON.stringify({ resources: [{ name: 'r', path: 'reef_survey.geojson', bytes: 5, 'own:note': 'stays' }] }),
    );
    writeFileSync(t.at('came/Reef Survey.geojson'), geojson({ b: 2, c: 3 }, 3));
    const { change, copies, datasets } = await plan('received/reef_survey.geojson');
    expect(datasets).toMatchObject([
      {
        name: 'reef_survey.geojson',
        before: { records: 1 },
        now: { records: 3 },
        fields: { added: ['c'], gone: ['a'], changed: ['b'] },
        isSame: false,
      },
    ]);
    const done = await runChange(change!, { journal: new SqlJournal(store), program: 'test', stageAll: stageEdition(copies) });
    expect(JSON.parse(readFileSync(t.at('stick/p/received/reef_survey.geojson'), 'utf8')).features).toHaveLength(3);
    const record = JSON.parse(readFileSync(t.at('stick/p/received/datapackage.json'), 'utf8')).resources[0];
    const [sum] = execFileSync('sha256sum', [t.at('stick/p/received/reef_survey.geojson')], { encoding: 'utf8' }).split(' ');
    expect(record).toMatchObject({
      'own:note': 'stays',
      'rootmap:fetched': '2026-11-30',
      'rootmap:edition': edition,
      'rootmap:files': [{ path: 'reef_survey.geojson', hash: `sha256:${sum}` }],
    });
    expect(record.bytes).toBeUndefined();
    await undoChange(done.id, 'test', { journal: new SqlJournal(store), program: 'test' });
    expect(readFileSync(t.at('stick/p/received/reef_survey.geojson'), 'utf8')).toBe(geojson({ a: 1, b: 'x' }));
  });

  test('companions that went go, new ones come under the old stem', async () => {
    t.shapefile('point', 'stick/p/received/buoys');
    writeFileSync(t.at('stick/p/received/buoys.qix'), 'an index of the old one');
    t.shapefile('polygon', 'came/BUOYS');
    writeFileSync(t.at('came/BUOYS.cpg'), 'UTF-8');
    const { change, copies } = await plan('received/buoys.shp');
    await runChange(change!, { journal: new SqlJournal(store), program: 'test', stageAll: stageEdition(copies) });
    const files = readdirSync(t.at('stick/p/received')).filter((f) => f !== 'datapackage.json');
    expect(files).not.toContain('buoys.qix');
    expect(files).toContain('buoys.cpg');
    expect(files.every((f) => f.startsWith('buoys.'))).toBe(true);
    expect(readFileSync(t.at('stick/p/received/buoys.shp')).equals(readFileSync(t.at('came/BUOYS.shp')))).toBe(true);
  });

  test('of several each by its name; what is the same and what did not come stay untouched', async () => {
    for (const [name, n] of [
      ['a', 1],
      ['b', 2],
      ['c', 3],
    ] as const)
      writeFileSync(t.at(`stick/p/received/${name}.geojson`), geojson({ v: 1 }, n));
    writeFileSync(t.at('came/a.geojson'), geojson({ v: 1 }, 9));
    writeFileSync(t.at('came/b.geojson'), geojson({ v: 1 }, 2));
    const { change, copies, datasets } = await plan('received/a.geojson', 'received/b.geojson', 'received/c.geojson');
    expect(datasets.map((d) => [d.isSame, d.now?.records ?? null])).toEqual([
      [false, 9],
      [true, 2],
      [false, null],
    ]);
    expect(copies.map((c) => c.to)).toEqual([t.at('stick/p/received/a.geojson')]);
    expect(change!.steps.filter((s) => s.kind === 'trash')).toHaveLength(1);
  });

  test('nothing that is the same makes a change; another format is no newer edition', async () => {
    writeFileSync(t.at('stick/p/received/a.geojson'), geojson({ v: 1 }));
    writeFileSync(t.at('came/a.geojson'), geojson({ v: 1 }));
    expect((await plan('received/a.geojson')).change).toBeNull();
    writeFileSync(t.at('stick/p/received/t.csv'), 'a\n1\n');
    const other = await plan('received/t.csv');
    expect([other.change, other.datasets[0]!.now]).toEqual([null, null]);
    expect(existsSync(t.at('stick/p/received/t.csv'))).toBe(true);
  });
});
