import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cpSync, existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { EMPTY_ORIGIN, withOrigin, writeProjectFile } from '@rootmap/core';
import type { EditRequest, ReferenceEdit } from '@rootmap/core/contract';
import { runChange } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { ledFrom } from '../../test/resolve.js';
import { TestFolder } from '../../test/test-project.js';
import { planEdit } from './plan-edit.js';

let t: TestFolder;
let store: DataSource;
const MAP = 'maps/m.owc.json';
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  mkdirSync(t.at('p/received'), { recursive: true });
  writeFileSync(
    t.at('p/p.rootmap.json'),
    writeProjectFile({ id: 'one', name: 'p', title: 'P', created: '2026-01-01T00:00:00Z', crs: null, folders: { received: 'originals' } }),
  );
  t.shapefile('point', 'p/received/own');
  t.shapefile('point', 'elsewhere/Shared Data/gauges');
  cpSync('testdata/open/shape-types/point.shp', t.at('elsewhere/Shared Data/twin.shp'));
  for (const e of ['shx', 'dbf']) cpSync(`testdata/open/shape-types/point.${e}`, t.at(`elsewhere/Shared Data/twin.${e}`));
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const scope = () => rooted(findScope(t.at('p'), { places: t.places, root: t.at('p') }));
const plan = (edit: EditRequest) =>
  planEdit(scope(), edit, { roots: [t.at('p')], who: 'test', isQuick: true, missed: [], resolve: t.resolve });
const run = () => ({ journal: new SqlJournal(store), program: 'test' });
const hrefs = (): string[] =>
  (
    JSON.parse(readFileSync(t.at('p', MAP), 'utf8')) as { features: { properties: { offerings: { contents: { href: string }[] }[] } }[] }
  ).features.map((f) => f.properties.offerings[0]!.contents[0]!.href);
const acts = (...all: readonly (readonly [number, ReferenceEdit['act']])[]): EditRequest => ({
  kind: 'references',
  layers: all.map(([n, act]) => ({ map: MAP, layer: `l${n}`, act })),
});
const allThere = (): boolean => ledFrom(t.at('p')).every((l) => l.isThere);

describe('references of chosen layers', () => {
  test('relative and absolute for some; others keep their bytes; undo puts every byte back', async () => {
    t.map(`p/${MAP}`, [`file://${t.at('p/received/own.shp')}`, '../received/own.shp', `file://${t.at('p/received/own.shp')}`]);
    const before = readFileSync(t.at('p', MAP), 'utf8');
    const { change, preview } = await plan(acts([0, 'relative'], [1, 'absolute']));
    expect(preview).toMatchObject({ referenceCount: 2, maps: 1, kept: [] });
    const done = await runChange(change!, run());
    expect(hrefs()).toEqual(['../received/own.shp', `file://${t.at('p/received/own.shp')}`, `file://${t.at('p/received/own.shp')}`]);
    expect(allThere()).toBe(true);
    await undoChange(done.id, 'test', run());
    expect(readFileSync(t.at('p', MAP), 'utf8')).toBe(before);
  });
  test('what cannot be done is told with the reason and stays', async () => {
    t.map(`p/${MAP}`, ['https://charts.example/wms', 'E:/gone/x.shp', '../received/own.shp']);
    const { change, preview } = await plan(acts([0, 'relative'], [1, 'relative'], [2, 'bring-in']));
    expect(change).toBeNull();
    expect(preview.kept.map((k) => k.why)).toEqual([
      'it is a service: it has an address of its own',
      'no place is known as E:',
      'it is inside already',
    ]);
  });
  test('other spelling is written as it stands on disk', async () => {
    t.map(`p/${MAP}`, ['../Received/OWN.shp']);
    const { change } = await plan(acts([0, 'respell']));
    await runChange(change!, run());
    expect(hrefs()).toEqual(['../received/own.shp']);
  });
});

describe('bringing in', () => {
  test('data with companions and origin, once for all layers that use it; what stays outside stays as it was', async () => {
    const outside = t.at('elsewhere/Shared Data/gauges.shp');
    const origin = { ...EMPTY_ORIGIN, publisher: 'Harbour office', licence: 'CC-BY-4.0', fetched: '2026-03-14' };
    writeFileSync(
      t.at('elsewhere/Shared Data/datapackage.json'),
      JSON.stringify({ resources: [withOrigin({ name: 'gauges', path: 'gauges.shp' }, origin)] }),
    );
    t.map(`p/${MAP}`, [
      `file://${encodeURI(outside)}`,
      `file://${encodeURI(outside)}`,
      `file://${encodeURI(t.at('elsewhere/Shared Data/twin.shp'))}`,
    ]);
    const { change, preview } = await plan(acts([0, 'bring-in'], [1, 'bring-in']));
    expect(preview.files).toBe(3);
    const done = await runChange(change!, run());
    expect(hrefs().slice(0, 2)).toEqual(['../received/Shared_Data/gauges.shp', '../received/Shared_Data/gauges.shp']);
    expect(hrefs()[2]).toContain('elsewhere');
    expect(allThere()).toBe(true);
    for (const e of ['shp', 'shx', 'dbf']) {
      expect(readFileSync(t.at(`p/received/Shared_Data/gauges.${e}`))).toEqual(readFileSync(t.at(`elsewhere/Shared Data/gauges.${e}`)));
      expect(statSync(t.at(`p/received/Shared_Data/gauges.${e}`)).mode & 0o222).toBe(0); // among the originals
    }
    const record = JSON.parse(readFileSync(t.at('p/received/Shared_Data/datapackage.json'), 'utf8')) as {
      resources: Record<string, unknown>[];
    };
    expect(record.resources[0]).toMatchObject({
      path: 'gauges.shp',
      'rootmap:publisher': 'Harbour office',
      'rootmap:fetched': '2026-03-14',
    });
    await undoChange(done.id, 'test', run());
    expect(existsSync(t.at('p/received/Shared_Data'))).toBe(false);
  });
  test('a dataset that no layer uses yet; one of its name is there already', async () => {
    t.map(`p/${MAP}`, ['../received/own.shp']);
    t.shapefile('point', 'p/received/Shared_Data/gauges');
    const { change, preview } = await plan({ kind: 'bring-in', datasets: [t.at('elsewhere/Shared Data/gauges.shp')] });
    await runChange(change!, run());
    expect(preview.moved.map((m) => m.to).sort()).toEqual(['dbf', 'shp', 'shx'].map((e) => `received/Shared_Data/gauges_2.${e}`));
    expect(existsSync(t.at('p/received/Shared_Data/gauges_2.dbf'))).toBe(true);
    const note = JSON.parse(readFileSync(t.at('p/received/Shared_Data/datapackage.json'), 'utf8')) as {
      resources: Record<string, string>[];
    };
    expect(note.resources[0]!['rootmap:notes']).toMatch(/^Copied from .*gauges\.shp$/);
  });
  test('what is not there, or outside every place, is refused', async () => {
    await expect(plan({ kind: 'bring-in', datasets: [t.at('elsewhere/none.shp')] })).rejects.toThrow(/There is nothing at/);
  });
});
