import { describe, expect, test } from '@jest/globals';
import type Joi from 'joi';
import { SEND_ALL } from '../bundle/send-choices.js';
import * as contract from './index.js';

const at = { place: 'desk', path: 'study/a.shp' };
const naming = { rules: 'portable', limit: null, umlauts: 'ae', pattern: null };
const folder = { path: 'received', role: 'originals' };
const send = { ...SEND_ALL, added: [] };
const draft = { title: 'Beds', summary: '', crs: 'EPSG:32624', storedForm: null, view: null, layers: [] };
const editor = '00000000-0000-4000-8000-000000000000';
const hash = 'a'.repeat(64);

const noAddresses = { layers: ['x'] };

/** One that is accepted, and some that are not: each is wrong in one thing. */
const SAMPLES: Readonly<Record<string, { readonly good: object; readonly bad: readonly object[] }>> = {
  pathRequest: {
    good: at,
    bad: [{ place: 'desk' }, { ...at, place: ' ' }, { ...at, path: 7 }, { ...at, more: 1 }, { ...at, path: 'x'.repeat(4097) }],
  },
  placeRequest: {
    good: { name: 'desk', folder: '/d', driveNames: ['D:'] },
    bad: [
      { name: '', folder: '/d', driveNames: [] },
      { name: 'desk', driveNames: [] },
    ],
  },
  driveNameRequest: { good: { driveName: 'D:' }, bad: [{}, { driveName: 4 }] },
  newProjectBody: {
    good: { at, title: 'Tern colonies', folders: [folder], crs: 'EPSG:32624' },
    bad: [
      { at, folders: [folder] },
      { at, title: ' ', folders: [folder] },
      { at, title: 'x', folders: [{ ...folder, path: '../out' }] },
      { at, title: 'x', folders: [{ ...folder, role: 'boss' }] },
      { at, title: 'x', folders: [folder], crs: '32624' },
      { at, title: 'x', folders: [folder], links: [{ name: 'base' }] },
    ],
  },
  folderPlanBody: {
    good: { title: 'Mine', folders: [folder] },
    bad: [
      { title: '', folders: [folder] },
      { title: 'Mine', folders: 'all' },
    ],
  },
  adoptRequest: { good: { folders: [folder] }, bad: [{}, { folders: [folder], grown: '/x' }] },
  mendRequest: {
    good: { search: [], reach: 'near', choices: [{ key: 'k', path: '/d/a.shp', before: null }] },
    bad: [{ choices: 'all' }, { reach: 'everywhere', choices: [] }, { choices: [{ key: 'k' }] }],
  },
  pathsRequest: { good: { store: 'relative', map: null, apply: false }, bad: [{ store: 'short', map: null }, { map: null }] },
  findServiceRequest: {
    good: { address: ' maps.example/wms ', signIn: { kind: 'password', name: 'me', password: '' } },
    bad: [{}, { address: '' }, { address: 'x', signIn: { kind: 'password', name: 'me' } }, { address: 'x', signIn: { kind: 'magic' } }],
  },
  serviceLayersRequest: { good: { layers: ['https://x.example/wms?LAYERS=a'] }, bad: [noAddresses, {}] },
  treeRequest: { good: { url: 'https://x.example/wms', anew: true }, bad: [{ url: 'https://x.example', anew: 'yes' }, { anew: true }] },
  serviceSignInRequest: {
    good: { url: 'https://x.example/wms', signIn: { kind: 'key', as: 'header', name: 'X-Key', key: 'k' } },
    bad: [
      { url: 'https://x.example/wms' },
      { url: 'https://x.example/wms', signIn: { kind: 'key', as: 'cookie', name: 'a', key: 'k' } },
      { url: 'https://x.example/wms', signIn: { kind: 'key', as: 'header', name: 'a b', key: 'k' } },
    ],
  },
  hostRequest: {
    good: { host: 'gis.example:8080', allowed: true },
    bad: [
      { host: 'gis.example' },
      { host: 'http://gis.example', allowed: true },
      { host: '', allowed: true },
      { host: '*', allowed: true },
    ],
  },
  pictureQuery: {
    good: { layer: 'https://x.example/wms?LAYERS=a', crs: 'EPSG:3857', box: '0,0,1,1e3', width: 256, height: 256 },
    bad: [
      { crs: 'CRS:84', layer: 'https://x.example/wms', box: '0,0,1,1', width: 1, height: 1 },
      { layer: 'https://x.example/wms', crs: 'EPSG:3857', box: '0,0,1', width: 1, height: 1 },
      { layer: 'https://x.example/wms', crs: 'EPSG:3857', box: '0,0,1,1', width: 9999, height: 1 },
      { layer: 'https://x.example/wms', crs: 'EPSG:3857', box: '0,0,1,1&x', width: 1, height: 1 },
    ],
  },
  tileQuery: {
    good: { layer: 'https://x.example/{z}/{x}/{y}.png', z: 3, x: 1, y: 2 },
    bad: [
      { z: 30, layer: 'https://x.example', x: 0, y: 0 },
      { layer: 'https://x.example', z: 1, x: -1, y: 0 },
    ],
  },
  featuresQuery: { good: { layer: 'https://x.example/collections/a/items', box: '-1,-2,3,4' }, bad: [{ box: '-1,-2,3,4', layer: 'x' }] },
  serviceCopyRequest: {
    good: { layer: 'https://x.example/collections/a/items', degrees: [1, 2, 3, 4], into: at },
    bad: [
      { degrees: [1, 2], layer: 'https://x.example/collections/a/items', into: at },
      { layer: 'https://x.example/collections/a/items' },
    ],
  },
  fetchRequest: { good: { address: 'https://x.example/a.zip' }, bad: [{}, { address: 7 }] },
  lookEditionsRequest: { good: { addresses: [] }, bad: [{ addresses: ['x'] }, { addresses: 'all' }] },
  newerRequest: {
    good: { arrival: editor, address: 'https://x.example/a.zip' },
    bad: [{ arrival: '../x', address: 'https://x.example/a.zip' }, { arrival: editor }],
  },
  sendRequest: {
    good: send,
    bad: [
      {},
      { ...send, what: 'some' },
      { ...send, withoutRoles: ['secret'] },
      { ...send, notBefore: 'yesterday' },
      { ...send, along: 'some' },
      { ...send, arrange: { title: 'P', folders: [] } },
      { ...send, arrange: { title: 'P', folders: [{ path: '../out', role: 'maps' }] } },
      { ...send, placings: [{ from: 'received', to: '../out' }] },
      { ...send, rootCharacters: 0 },
      { ...send, more: 1 },
    ],
  },
  packRequest: { good: { out: at, asFolder: false, send }, bad: [{}, { out: at }, { out: 'a.zip', asFolder: false, send }] },
  bundleRequest: { good: { bundle: at }, bad: [{}, { bundle: 'a.zip' }] },
  editionRequest: { good: { bundle: at, key: 'k' }, bad: [{ bundle: at }, { bundle: at, key: 7 }] },
  takeOverRequest: {
    good: { bundle: at, key: 'k', onConflict: 'ours', removes: false },
    bad: [
      { bundle: at, key: 'k', onConflict: 'both', removes: false },
      { bundle: at, key: 'k', onConflict: 'ours' },
    ],
  },
  receiveRequest: { good: { bundle: at, into: at }, bad: [{ bundle: at }, { bundle: at, into: {} }] },
  exportRequest: {
    good: { dataset: 'd', format: 'csv', at, crs: null },
    bad: [
      { dataset: 'd', format: 'xls', at },
      { dataset: 'd', format: 'csv', at, crs: 'EPSG:1' },
    ],
  },
  importRequest: {
    good: { into: at, items: [{ dataset: 'd', part: 'points', table: '' }], crs: null },
    bad: [
      { into: at, items: [] },
      { into: at, items: [{ part: null }] },
      { into: at, items: [{ dataset: 'd', part: 'clouds' }] },
    ],
  },
  newGeodatabaseBody: { good: { at, crs: 'EPSG:4326' }, bad: [{ at, crs: 'wgs84' }, { crs: null }] },
  copiesRequest: {
    good: { datasets: ['d'], crs: 'EPSG:32624', into: at },
    bad: [
      { datasets: [], crs: 'EPSG:32624', into: at },
      { datasets: ['d'], into: at },
    ],
  },
  intakeRequest: {
    good: { into: at, wanted: null, safeNames: true, origin: {}, removeArchive: false },
    bad: [
      { wanted: null, origin: {} },
      { into: at, wanted: 3, origin: {} },
      { into: at, wanted: null, origin: { fetched: 'yesterday' } },
    ],
  },
  originRequest: {
    good: { datasets: ['d'], origin: { title: 'Beds', fetched: '2026-03-14' } },
    bad: [
      { datasets: [], origin: {} },
      { datasets: ['d'], origin: { title: 5 } },
    ],
  },
  keepDraftRequest: {
    good: { path: 'maps/a.owc.json', editor, base: hash, draft },
    bad: [
      { path: 'a', editor: 'me', base: hash, draft },
      { path: 'a', editor, base: 'zz', draft },
    ],
  },
  saveMapRequest: {
    good: { path: 'maps/a.owc.json', editor, base: hash, draft },
    bad: [
      { path: 'a', editor, base: hash, draft: null },
      { path: 'a', editor, base: hash, draft: { ...draft, layers: {} } },
    ],
  },
  rehearsalRequest: { good: { map: null, to: 'E:\\work' }, bad: [{ to: 5 }, { drives: [{ place: 'desk' }] }, { isCopy: 'perhaps' }] },
  classesRequest: {
    good: { dataset: 'd', field: 'depth', method: 'natural' },
    bad: [
      { dataset: 'd', field: 'depth', method: 'magic' },
      { dataset: 'd', field: 'depth', method: 'equal', classes: 0 },
    ],
  },
  layerPictureRequest: {
    good: { dataset: 'd', crs: null, drawing: { filter: '', rules: [], label: null, raster: null } },
    bad: [
      { dataset: 'd', crs: null },
      { dataset: 'd', crs: 'x', drawing: { filter: '', rules: [], label: null, raster: null } },
    ],
  },
  mapFromTableRequest: { good: { title: 'Beds', text: 'a\tb' }, bad: [{ title: 'Beds' }, { title: ' ', text: '' }] },
  digitiseRequest: {
    good: { dataset: 'd', create: null, crs: 'EPSG:32624', state: 's', newFields: [], added: [], changed: [], removed: [3] },
    bad: [
      { dataset: 'd', create: null, crs: null, state: 's' },
      { dataset: 'd', create: null, crs: 'EPSG:32624', state: 's', removed: ['x'] },
    ],
  },
  qualityCheckRequest: { good: { datasets: ['/r/a.shp'], anew: true }, bad: [{ datasets: 'all' }, { datasets: [1] }, { anew: 'maybe' }] },
  reviewRequest: {
    good: {
      dataset: '/r/a.shp',
      elements: { positional: { fitness: 'limited', words: '' } },
      accuracy: '',
      fitFor: '',
      name: 'A',
      date: '2026-03-14',
    },
    bad: [
      { dataset: '/r/a.shp', elements: {}, accuracy: '', fitFor: '', name: ' ', date: '2026-03-14' },
      { dataset: '/r/a.shp', elements: { taste: { fitness: 'fit', words: '' } }, accuracy: '', fitFor: '', name: 'A', date: '2026-03-14' },
      {
        dataset: '/r/a.shp',
        elements: { positional: { fitness: 'great', words: '' } },
        accuracy: '',
        fitFor: '',
        name: 'A',
        date: '2026-03-14',
      },
      { dataset: '/r/a.shp', elements: {}, accuracy: '', fitFor: '', name: 'A', date: '14.3.2026' },
    ],
  },
  reviewTemplate: {
    good: { title: 'T', elements: {}, accuracy: '', fitFor: '' },
    bad: [
      { title: '', elements: {}, accuracy: '', fitFor: '' },
      { title: 'T', elements: {}, accuracy: '', fitFor: '', name: 'A' },
    ],
  },
  compareEditionsRequest: { good: { dataset: '/r/a.shp', against: '/r/b.shp', key: null }, bad: [{ dataset: '/r/a.shp' }] },
  matchPointsRequest: {
    good: { dataset: '/r/a.shp', better: '/r/b.shp', key: null, within: 5 },
    bad: [
      { dataset: '/r/a.shp', better: '/r/b.shp', key: null, within: 0 },
      { dataset: '/r/a.shp', better: '/r/b.shp', key: null, within: 'near' },
    ],
  },
  passageRequest: {
    good: { datasets: ['/r/a.shp'], passage: { about: 'units', at: 0, words: 'feet', note: 'a.txt' }, isTaken: true },
    bad: [
      { datasets: [], passage: { about: 'units', at: 0, words: 'feet', note: 'a.txt' }, isTaken: true },
      { datasets: ['/r/a.shp'], passage: { about: 'taste', at: 0, words: 'feet', note: 'a.txt' }, isTaken: true },
      { datasets: ['/r/a.shp'], passage: { about: 'units', at: -1, words: 'feet', note: 'a.txt' }, isTaken: true },
      { datasets: ['/r/a.shp'], passage: { about: 'units', at: 0, words: 'feet', note: 'a.txt' } },
    ],
  },
  noteQuery: { good: { dataset: '/r/a.shp', note: '../a.txt' }, bad: [{ dataset: '/r/a.shp' }, { dataset: '/r/a.shp', note: '' }] },
  packedNoteQuery: { good: { path: 'a/b.txt' }, bad: [{}, { path: 'a', more: 1 }] },
  qualityReportQuery: { good: { format: 'pdf' }, bad: [{}, { format: 'doc' }] },
  droppedMapRequest: { good: { name: 'a.owc.json', text: '{}' }, bad: [{ name: 'a.owc.json' }, { name: '../a.owc.json', text: '{}' }] },
};

const schemaOf = (name: string): Joi.ObjectSchema => (contract as unknown as Record<string, Joi.ObjectSchema>)[name]!;

describe.each(Object.entries(SAMPLES))('%s', (name, { good, bad }) => {
  test('takes what it is for', () => expect(schemaOf(name).validate(good).error).toBeUndefined());
  test.each(bad.map((b) => [JSON.stringify(b).slice(0, 90), b] as const))('refuses %s', (_, sample) =>
    expect(schemaOf(name).validate(sample).error?.message).toMatch(/\w/),
  );
});

describe('an edit is checked by its kind', () => {
  const { editRequest } = contract;
  const good: readonly object[] = [
    { kind: 'move', moves: [{ from: at, to: at }] },
    { kind: 'trash', paths: [at] },
    { kind: 'naming', naming },
    { kind: 'role', path: 'received', role: null },
    { kind: 'folders', folders: [folder] },
    { kind: 'link', name: 'base', folder: at },
    { kind: 'link-service', name: 'charts', service: 'wms', url: 'https://x.example/wms' },
    { kind: 'unlink-service', name: 'charts' },
    { kind: 'move-service', from: 'https://x.example/wms', to: 'https://y.example/wms' },
    { kind: 'add-services', layers: [{ title: 'A', code: 'wms', href: 'https://x.example/wms?LAYERS=a' }], map: null, title: 'M' },
    { kind: 'assign-crs', dataset: at, crs: 'EPSG:32624' },
    { kind: 'tables', geodatabase: at, action: 'drop', tables: ['a'] },
    { kind: 'references', layers: [{ map: 'maps/a.owc.json', layer: 'l', act: 'relative' }] },
    { kind: 'stored-form', form: 'absolute' },
    { kind: 'protect' },
    { kind: 'quality', area: null, sheets: 'reviewed' },
    { kind: 'codes', dataset: '/r/a.shp', field: 'kind', codes: ['a', ''] },
  ];
  test.each(good.map((g) => [JSON.stringify(g).slice(0, 70), g]))('takes %s', (_, sample) =>
    expect(editRequest.validate(sample).error).toBeUndefined(),
  );
  const bad: readonly object[] = [
    {},
    { kind: 'explode' },
    { kind: 'move' },
    { kind: 'move', moves: [] },
    { kind: 'trash', paths: [at], more: true },
    { kind: 'role', path: '../out', role: null },
    { kind: 'link-service', name: 'charts', service: 'wms', url: 'https://me:pw@x.example/wms' },
    { kind: 'link-service', name: 'charts', service: 'wms', url: 'https://x.example/wms?api_key=k' },
    { kind: 'link-service', name: 'charts', service: 'ftp', url: 'https://x.example/wms' },
    { kind: 'add-services', layers: [], map: null, title: 'M' },
    { kind: 'add-services', layers: [{ title: 'A', code: 'wms', href: 'file:///a' }], map: null, title: 'M' },
    { kind: 'assign-crs', dataset: at, crs: null },
    { kind: 'tables', geodatabase: at, action: 'drop' },
    { kind: 'tables', geodatabase: at, action: 'compact', tables: ['a'] },
    { kind: 'references', layers: [{ map: 'm', layer: 'l', act: 'burn' }] },
    { kind: 'protect', paths: [at] },
    { kind: 'quality', area: null, sheets: 'all' },
    { kind: 'codes', dataset: '/r/a.shp', field: '', codes: [] },
  ];
  test.each(bad.map((b) => [JSON.stringify(b).slice(0, 70), b]))('refuses %s', (_, sample) =>
    expect(editRequest.validate(sample).error?.message).toMatch(/\w/),
  );
  test('what is left out gets its default', () =>
    expect(editRequest.validate({ kind: 'move', moves: [{ from: at, to: at }] }).value).toEqual({
      kind: 'move',
      moves: [{ from: at, to: at }],
      evenOriginals: false,
      grown: null,
    }));
});

test('every schema of a request that may be large is here, under its own name', () =>
  expect(Object.entries(contract.LARGE_REQUESTS).filter(([name, schema]) => schemaOf(name) !== schema)).toEqual([]));
