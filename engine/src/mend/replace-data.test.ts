import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { writeShapefile } from '@rootmap/core';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { fullFingerprint } from '../fingerprint/full-fingerprint.js';
import { layerKey } from '../project/layer-row.js';
import { readMaps } from '../project/read-maps.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import { lookAtReplacement, planReplace } from './replace-data.js';

const STYLE = '<StyledLayerDescriptor><Rule><PropertyName>cover_pct</PropertyName></Rule></StyledLayerDescriptor>';
let t: TestFolder;
beforeEach(() => {
  t = new TestFolder();
  points('p/data/beds', ['cover_pct', 'name']);
  points('p/data/beds_2026', ['COVER', 'Name', 'depth']);
  writeFileSync(t.at('p/p.rootmap.json'), JSON.stringify({ format: 'rootmap-project/1', id: 'p', name: 'p', title: 'p' }));
  mkdirSync(t.at('p/maps'));
  writeFileSync(t.at('p/maps/beds.sld'), STYLE);
  for (const name of ['a', 'b']) writeFileSync(t.at(`p/maps/${name}.owc.json`), mapText(name));
});
afterEach(() => t.remove());

function points(to: string, names: readonly string[]): void {
  mkdirSync(t.at('p/data'), { recursive: true });
  const parts = writeShapefile({
    shapeType: 1,
    shapes: [[[[1, 2]]], [[[3, 4 + names.length]]]],
    fields: names.map((name) => ({ name, code: 'C', lengthBytes: 12 })),
    rows: [names.map((n) => n), names.map((n) => n)],
    date: { year: 2026, month: 1, day: 2 },
  });
  for (const [ending, bytes] of Object.entries(parts)) writeFileSync(t.at(`${to}.${ending}`), bytes);
}

/** Two layers on the beds, the second styled by a file; one on nothing. */
const mapText = (id: string): string =>
  JSON.stringify(
    {
      type: 'FeatureCollection',
      id,
      properties: { title: id },
      features: [
        {
          type: 'Feature',
          id: 'plain',
          properties: {
            title: 'Plain',
            offerings: [
              { code: 'urn:x-rootmap:offering:shapefile', contents: [{ type: 'application/x-shapefile', href: '../data/beds.shp' }] },
            ],
            rootmap: { filter: "cover_pct > '1'", label: '{name}' },
          },
        },
        {
          type: 'Feature',
          id: 'styled',
          properties: {
            title: 'Styled',
            offerings: [
              {
                code: 'urn:x-rootmap:offering:shapefile',
                contents: [{ type: 'application/x-shapefile', href: '../data/beds.shp' }],
                styles: [{ name: 's', content: { href: 'beds.sld' } }],
              },
            ],
          },
        },
        {
          type: 'Feature',
          id: 'gone',
          properties: { title: 'Gone', offerings: [{ code: 'x', contents: [{ href: '../data/gone.shp' }] }] },
        },
      ],
    },
    null,
    1,
  );

const read = ({ folder, dataset }: Parameters<typeof lookAtReplacement>[3] extends (f: infer F) => unknown ? F : never) =>
  fullFingerprint(folder, dataset);
const keyOf = (map: string, layer: string): string => {
  const seen = readMaps(t.scope('p')).maps.find((m) => m.path.endsWith(`${map}.owc.json`))!;
  return layerKey(
    seen,
    seen.layers.find((l) => l.layer.id === layer)!,
  );
};
const NEW = () => ({ path: t.at('p/data/beds_2026.shp'), table: null });
const FIELDS = new Map([
  ['cover_pct', 'COVER'],
  ['name', 'Name'],
]);
const text = (path: string): string => readFileSync(t.at(path), 'utf8');

test('told before: what uses which field, what takes its place, who drew the same data', () => {
  const found = lookAtReplacement(t.scope('p'), keyOf('a', 'plain'), NEW(), read);
  expect(found.data!.fields.map((f) => f.name)).toEqual(['COVER', 'Name', 'depth']);
  expect([...found.proposed]).toEqual([
    ['cover_pct', null],
    ['name', 'Name'],
  ]);
  expect(found.layers.map((l) => [l.map.file.title, l.seen.layer.id, [...l.uses]])).toEqual([
    [
      'a',
      'plain',
      [
        ['cover_pct', ['filter']],
        ['name', ['label']],
      ],
    ],
    ['a', 'styled', [['cover_pct', ['style']]]],
    [
      'b',
      'plain',
      [
        ['cover_pct', ['filter']],
        ['name', ['label']],
      ],
    ],
    ['b', 'styled', [['cover_pct', ['style']]]],
  ]);
});

test('written: addresses, fields, what is remembered; a style file stays and gets a copy; every layer is sound; undone', async () => {
  const before = ['a', 'b'].map((m) => text(`p/maps/${m}.owc.json`));
  const layers = [keyOf('a', 'plain'), keyOf('a', 'styled'), keyOf('b', 'styled')];
  const change = planReplace(t.scope('p'), { layers, to: NEW(), fields: FIELDS }, 'test', read);
  expect(change.title).toBe('Use beds_2026.shp instead in 3 layers');
  const store = await openStore(t.at('data'));
  const options = { journal: new SqlJournal(store), program: 'test' };
  const done = await runChange(change, options);
  const [a, b] = readMaps(t.scope('p')).maps;
  expect(a!.layers.map((l) => l.judgement.state)).toEqual(['sound', 'sound', 'adrift']);
  expect(a!.layers[0]!.layer).toMatchObject({ reference: { href: '../data/beds_2026.shp' }, needs: ['COVER', 'Name'] });
  expect(text('p/maps/a.owc.json')).toContain(`COVER > '1'`);
  expect(a!.layers[1]!.layer.others[0]!.href).toBe('beds_beds2026.sld');
  expect(b!.layers[0]!.layer.reference!.href).toBe('../data/beds.shp');
  expect(b!.layers[1]!.layer.others[0]!.href).toBe('beds_beds2026.sld');
  expect(text('p/maps/beds_beds2026.sld')).toBe(STYLE.replace('cover_pct', 'COVER'));
  expect(text('p/maps/beds.sld')).toBe(STYLE);
  await undoChange(done.id, 'test', options);
  expect(['a', 'b'].map((m) => text(`p/maps/${m}.owc.json`))).toEqual(before);
  await store.destroy();
});

test('data that stands under its name and is not what is remembered can be meant: it is remembered from then on', async () => {
  const remembered = fingerprintIn('beds_2026');
  const old = text('p/maps/a.owc.json').replace(
    `"filter": "cover_pct > '1'"`,
    `"filter": "", "fingerprint": ${JSON.stringify(remembered)}`,
  );
  writeFileSync(t.at('p/maps/a.owc.json'), old);
  expect(readMaps(t.scope('p')).maps[0]!.layers[0]!.judgement.state).toBe('different');
  const change = planReplace(
    t.scope('p'),
    { layers: [keyOf('a', 'plain')], to: { path: null, table: null }, fields: new Map() },
    'test',
    read,
  );
  const store = await openStore(t.at('data'));
  await runChange(change, { journal: new SqlJournal(store), program: 'test' });
  expect(readMaps(t.scope('p')).maps[0]!.layers[0]!.judgement.state).toBe('sound');
  await store.destroy();
});
function fingerprintIn(name: string) {
  const { data } = lookAtReplacement(t.scope('p'), keyOf('a', 'plain'), { path: t.at(`p/data/${name}.shp`), table: null }, read);
  return data!.target.fingerprint;
}

test('a field that has no place in the new data, data that is not there, and layers that draw other data by now are refused', () => {
  const plan = (layers: string[], fields: Map<string, string>) => planReplace(t.scope('p'), { layers, to: NEW(), fields }, 'test', read);
  expect(() => plan([keyOf('a', 'plain')], new Map([['cover_pct', 'depth']]))).toThrow(
    /label of "Plain" uses the field name, and the new data has no field name/,
  );
  expect(() => plan([keyOf('a', 'plain')], new Map([...FIELDS, ['cover_pct', 'nothing']]))).toThrow(/no field nothing/);
  expect(() => plan([keyOf('a', 'plain'), keyOf('a', 'gone')], FIELDS)).toThrow(/draws other data by now/);
  rmSync(t.at('p/data/beds_2026.shp'));
  expect(() => plan([keyOf('a', 'plain')], FIELDS)).toThrow();
});

test('a table of several in a geodatabase: its own is meant where it stands, another is chosen first', () => {
  for (const [i, name] of ['beds', 'beds_2026'].entries())
    execFileSync('ogr2ogr', [...(i ? ['-update'] : []), '-f', 'GPKG', t.at('p/data/all.gpkg'), t.at(`p/data/${name}.shp`), '-nln', name]);
  writeFileSync(t.at('p/maps/a.owc.json'), mapText('a').replaceAll('../data/beds.shp', '../data/all.gpkg#beds'));
  const own = lookAtReplacement(t.scope('p'), keyOf('a', 'plain'), { path: null, table: null }, read);
  expect([own.tables, own.data!.target.table]).toEqual([[], 'beds']);
  const asked = lookAtReplacement(t.scope('p'), keyOf('a', 'plain'), { path: t.at('p/data/all.gpkg'), table: null }, read);
  expect([[...asked.tables].sort(), asked.data]).toEqual([['beds', 'beds_2026'], null]);
  const order = { layers: [keyOf('a', 'plain')], to: { path: t.at('p/data/all.gpkg'), table: 'beds_2026' }, fields: FIELDS };
  const [write] = planReplace(t.scope('p'), order, 'test', read).steps;
  const text = write!.kind === 'write' ? Buffer.from(write!.after).toString('utf8') : '';
  expect(text).toContain('../data/all.gpkg#beds_2026');
});
