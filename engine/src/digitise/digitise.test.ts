import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { datasetId, writeProjectFile } from '@rootmap/core';
import type { DigitiseRequest, EditableView } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { runChange, StopHere } from '../changes/run-change.js';
import { ChangeDisk } from '../changes/disk.js';
import { recoverChanges } from '../changes/recover.js';
import { undoChange } from '../changes/undo-change.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { datasetsOfFile, findDataset } from '../project/find-dataset.js';
import { faultOf, gdal } from '../../test/geopackage-validator.js';
import { TestFolder } from '../../test/test-project.js';
import { planDigitise } from './plan-digitise.js';
import { readEditable } from './read-editable.js';
import { stageDigitised } from './stage-digitised.js';

let t: TestFolder;
let store: DataSource;
const UTM = 'EPSG:32617';
const at = (path: string) => ({ place: t.places[0]!.name, path: t.at('p', path) });

beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('p/received'), { recursive: true });
  mkdirSync(t.at('p/work'));
  writeFileSync(
    t.at('p/p.rootmap.json'),
    writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: { received: 'originals' } }),
  );
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const NOTHING: Omit<DigitiseRequest, 'dataset' | 'create' | 'crs' | 'state'> = { newFields: [], added: [], changed: [], removed: [] };
const editable = (id: string, crs: string): EditableView => readEditable(scope(), findDataset(scope(), id), crs);

async function save(request: DigitiseRequest, disk?: ChangeDisk, stopsWhenStaged = false) {
  const { change, order, dataset } = planDigitise(scope(), request, (a) => a.path, 'test');
  let records = 0;
  const stageAll = (installs: readonly { staged: string; target: string }[]): Promise<void> => {
    records = stageDigitised(
      scope(),
      order,
      Object.fromEntries(Object.entries(order.targets).map(([n, p]) => [n, installs.find((i) => i.target === p)!.staged])),
    );
    return stopsWhenStaged ? Promise.reject(new StopHere()) : Promise.resolve();
  };
  const done = await runChange(change, { journal: new SqlJournal(store), program: 'test', stageAll, ...(disk ? { disk } : {}) });
  return { done, dataset, records };
}
const state = (folder: string): Record<string, string> =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true })
      .map(String)
      .filter((f) => statSync(join(folder, f)).isFile() && !f.startsWith('.rootmap'))
      .map((f) => [f, readFileSync(join(folder, f)).toString('base64')]),
  );

/** Every record as GDAL reads it. */
const ogrinfo = (path: string, layer: string): string => gdal('ogrinfo', path, layer);

/** A folder of shapes that ogr2ogr wrote, 49 areas in UTM. */
function columbus(format: string, name: string): string {
  cpSync('testdata/open/spdata/shapes', t.at('shapes'), { recursive: true });
  gdal('ogr2ogr', '-f', format, t.at('p/work', name), t.at('shapes/columbus.shp'), '-a_srs', UTM, '-nln', 'columbus');
  return t.at('p/work', name);
}
const line = {
  type: 'LineString',
  coordinates: [
    [482000, 4871000],
    [483000, 4871500.5],
  ],
} as const;

describe('a new dataset', () => {
  const fields = [
    { name: 'depth', type: 'real' as const },
    { name: 'seen', type: 'date' as const },
    { name: 'notes', type: 'text' as const },
  ];
  const added = [
    { geometry: line, values: [12.5, '2026-03-14', 'soft ground'] },
    { geometry: line, values: [null, null, ''] },
  ];
  const create = { kind: 'LineString' as const, fields, table: 'cables' };

  // Source: GDAL reads each of them as the standards of their formats say.
  test.each([
    ['shapefile', 'cables.shp', 'cables'],
    ['geopackage', 'cables.gpkg', 'cables'],
  ] as const)('%s is read by GDAL with its shapes, values and CRS', async (format, name, layer) => {
    const { dataset, records } = await save({
      ...NOTHING,
      dataset: null,
      create: { ...create, format, at: at(`work/${name}`) },
      crs: 'EPSG:32624',
      state: '',
      added,
    });
    expect([records, dataset]).toEqual([2, t.at('p/work', name) + (format === 'geopackage' ? '#cables' : '')]);
    const told = ogrinfo(t.at('p/work', name), layer);
    expect(told).toMatch(/Feature Count: 2/);
    expect(told).toMatch(/LINESTRING \(482000 4871000,\s?483000(\.0)? 4871500.5\)/);
    expect(told).toMatch(/depth \(Real\) = 12.5/);
    expect(told).toMatch(/seen \(Date\) = 2026\/03\/14/);
    expect(told).toMatch(/UTM zone 24N/);
    if (format === 'geopackage') expect(faultOf(t.at('p/work', name))).toBeNull();
  });
  test('GeoJSON stands in degrees, as RFC 7946 asks', async () => {
    await save({
      ...NOTHING,
      dataset: null,
      create: { ...create, format: 'geojson', at: at('work/cables.geojson') },
      crs: 'EPSG:32624',
      state: '',
      added,
    });
    const [x, y] = (
      JSON.parse(readFileSync(t.at('p/work/cables.geojson'), 'utf8')) as { features: { geometry: { coordinates: number[][] } }[] }
    ).features[0]!.geometry.coordinates[0]!;
    // Source: cs2cs of PROJ.
    const [lat, lon] = execFileSync('cs2cs', ['-f', '%.9f', 'EPSG:32624', 'EPSG:4326'], { input: '482000 4871000\n' })
      .toString()
      .split(/\s+/)
      .map(Number);
    expect([x, y]).toEqual([expect.closeTo(lon!, 7), expect.closeTo(lat!, 7)]);
  });
  test('into a geodatabase that is there: its other tables stay', async () => {
    const path = columbus('GPKG', 'all.gpkg');
    const before = ogrinfo(path, 'columbus');
    await save({
      ...NOTHING,
      dataset: null,
      create: { ...create, format: 'geopackage', at: at('work/all.gpkg') },
      crs: 'EPSG:32624',
      state: '',
      added,
    });
    expect(ogrinfo(path, 'columbus')).toBe(before);
    expect(ogrinfo(path, 'cables')).toMatch(/Feature Count: 2/);
    expect(faultOf(path)).toBeNull();
  });
  test('nothing is written over, and undo takes all of it away', async () => {
    const order: DigitiseRequest = {
      ...NOTHING,
      dataset: null,
      create: { ...create, format: 'shapefile', at: at('work/new/cables.shp') },
      crs: 'EPSG:32624',
      state: '',
      added,
    };
    const before = state(t.at('p'));
    const { done } = await save(order);
    expect(readdirSync(t.at('p/work/new')).sort()).toEqual(['cables.cpg', 'cables.dbf', 'cables.prj', 'cables.shp', 'cables.shx']);
    await expect(save(order)).rejects.toThrow(/is there already/);
    await undoChange(done.id, 'test', { journal: new SqlJournal(store), program: 'test' });
    expect(state(t.at('p'))).toEqual(before);
  });
});

describe('edits', () => {
  const square = {
    type: 'Polygon',
    coordinates: [
      [
        [0, 0],
        [10, 0],
        [10, 10],
        [0, 10],
        [0, 0],
      ],
    ],
  };

  test.each([
    ['ESRI Shapefile', 'columbus.shp', ''],
    ['GPKG', 'columbus.gpkg', '#columbus'],
    ['GeoJSON', 'columbus.geojson', ''],
  ])('%s: changed, added and removed records; all others as GDAL had them', async (format, name, table) => {
    const path = columbus(format, name);
    const before = ogrinfo(path, 'columbus');
    const view = editable(path + table, UTM);
    const [first, second] = view.records;
    const at0 = view.fields.findIndex((f) => f.type === 'real');
    const values = first!.values.map((v, i) => (i === at0 ? 1234.5 : v));
    const { records } = await save({
      ...NOTHING,
      dataset: path + table,
      create: null,
      crs: UTM,
      state: view.state,
      newFields: [{ name: 'depth', type: 'real' }],
      changed: [{ id: first!.id, values: [...values, 7] }],
      removed: [second!.id],
      added: [{ geometry: square, values: view.fields.map(() => null) }],
    });
    expect(records).toBe(49);
    const after = ogrinfo(path, 'columbus');
    expect(after).toMatch(/Feature Count: 49/);
    expect(after).toContain(`${view.fields[at0]!.name} (Real) = 1234.5`);
    expect(after).toMatch(/depth \((Real|Integer)\) = 7/);
    const shapes = (text: string): string[] =>
      [...text.matchAll(/^ {2}(?:MULTI)?POLYGON .*$/gm)].map((m) =>
        m[0].replace('MULTIPOLYGON (((', 'POLYGON ((').replace(/\)\)\)$/, '))'),
      );
    expect(shapes(after).slice(0, 48)).toEqual(shapes(before).filter((_, i) => i !== 1));
    const again = editable(path + table, UTM);
    expect(again.records.slice(1, 48).map((r) => r.values.slice(0, -1))).toEqual(view.records.slice(2).map((r) => r.values));
    if (format === 'GPKG') expect(faultOf(path)).toBeNull();
  });

  test('a shape drawn in the map’s CRS comes to lie where it was drawn', async () => {
    const path = columbus('GPKG', 'columbus.gpkg');
    const view = editable(`${path}#columbus`, 'EPSG:4326');
    const ring = [
      [-81, 0.01],
      [-80.99, 0.01],
      [-80.99, 0.02],
      [-81, 0.01],
    ];
    await save({
      ...NOTHING,
      dataset: `${path}#columbus`,
      create: null,
      crs: 'EPSG:4326',
      state: view.state,
      added: [{ geometry: { type: 'Polygon', coordinates: [ring] }, values: [] }],
    });
    const now = editable(`${path}#columbus`, 'EPSG:4326').records.at(-1)!;
    (now.geometry!.coordinates as number[][][])[0]!.forEach(([x, y], i) =>
      expect(Math.hypot(x! - ring[i]![0]!, y! - ring[i]![1]!)).toBeLessThan(1e-9),
    );
  });

  test('GeoJSON: what is not edited keeps its bytes, members of others too', async () => {
    const text =
      '{"type":"FeatureCollection","theirs":[1,  2],"features":[\n {"type":"Feature","id":"x9","properties":{"a":1,"b":{"c":  2}},"geometry":{"type":"Point","coordinates":[1.50,2]}},\n {"type":"Feature","properties":{"a":2},"geometry":null}\n]}';
    writeFileSync(t.at('p/work/p.geojson'), text);
    const view = editable(t.at('p/work/p.geojson'), 'EPSG:4326');
    const a = view.fields.findIndex((f) => f.name === 'a');
    await save({
      ...NOTHING,
      dataset: t.at('p/work/p.geojson'),
      create: null,
      crs: 'EPSG:4326',
      state: view.state,
      changed: [{ id: 1, values: view.fields.map((_, i) => (i === a ? 5 : null)) }],
    });
    expect(readFileSync(t.at('p/work/p.geojson'), 'utf8')).toBe(text.replace('"a":2', '"a":5'));
  });

  test('a stop before every step, then a restart: the old files or the new ones, never a mixture', async () => {
    const path = columbus('ESRI Shapefile', 'columbus.shp');
    const view = editable(path, UTM);
    const request: DigitiseRequest = { ...NOTHING, dataset: path, create: null, crs: UTM, state: view.state, removed: [0] };
    const before = state(t.at('p/work'));
    const undo = (id: string) => undoChange(id, 'test', { journal: new SqlJournal(store), program: 'test' });
    const gone = { pid: 999_999, startTime: '1', bootId: 'x', program: 'test' };
    const outcomes = new Set<string>();
    await expect(save(request, new ChangeDisk(), true)).rejects.toBeInstanceOf(StopHere);
    await store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
    expect((await recoverChanges(new SqlJournal(store)))[0]!.outcome).toBe('taken-back');
    expect(state(t.at('p/work'))).toEqual(before);
    for (let step = 0; ; step++) {
      const disk = new ChangeDisk((n) => {
        if (n === step) throw new StopHere();
      });
      try {
        await save(request, disk);
        break;
      } catch (error) {
        if (!(error instanceof StopHere)) throw error;
      }
      await store.query('UPDATE "change" SET owner = ? WHERE state IN (?, ?)', [JSON.stringify(gone), 'preparing', 'applying']);
      const [recovered] = await recoverChanges(new SqlJournal(store));
      outcomes.add(recovered?.outcome ?? 'not begun');
      if (recovered?.outcome === 'finished') {
        expect(ogrinfo(path, 'columbus')).toMatch(/Feature Count: 48/);
        await undo(recovered.change.id);
      }
      expect(state(t.at('p/work'))).toEqual(before);
    }
    expect(outcomes).toEqual(new Set(['taken-back', 'finished']));
  });
});

describe('what is refused, in a sentence', () => {
  test('originals, a file that changed meanwhile, a value of another type, a format that is only read', async () => {
    const path = columbus('ESRI Shapefile', 'columbus.shp');
    const view = editable(path, UTM);
    const base: DigitiseRequest = { ...NOTHING, dataset: path, create: null, crs: UTM, state: view.state };
    await expect(save({ ...base, state: 'older', removed: [0] })).rejects.toThrow(/was changed by someone else/);
    const real = view.fields.findIndex((f) => f.type === 'real');
    await expect(save({ ...base, changed: [{ id: 0, values: view.fields.map((_, i) => (i === real ? 'deep' : null)) }] })).rejects.toThrow(
      /"deep" cannot stand in .* which holds numbers/,
    );
    cpSync(t.at('p/work'), t.at('p/received'), { recursive: true });
    expect(editable(t.at('p/received/columbus.shp'), UTM).isOriginal).toBe(true);
    await expect(save({ ...base, dataset: t.at('p/received/columbus.shp') })).rejects.toThrow(/holds originals/);
    gdal('ogr2ogr', '-f', 'KML', t.at('p/work/k.kml'), path);
    const kml = scope();
    const [found] = datasetsOfFile(t.at('p/work/k.kml'));
    const id = datasetId(t.at('p/work/k.kml'), found!.dataset.table);
    expect(readEditable(kml, findDataset(kml, id), UTM).why).toMatch(/read, not written/);
    expect(existsSync(path)).toBe(true);
  });
});
