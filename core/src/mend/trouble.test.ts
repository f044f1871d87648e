import { expect, test } from '@jest/globals';
import type { Judgement } from '../map/judge-layer.js';
import type { EvidenceKind, Proposal, Target, Verdict } from './types.js';
import { tellTrouble } from './trouble.js';

const judged = (over: Partial<Judgement>): Judgement => ({
  state: 'adrift',
  reason: 'no-file',
  stored: 'relative',
  reach: 'inside',
  resolved: null,
  location: null,
  foreign: null,
  table: null,
  found: null,
  spelled: null,
  ...over,
});
const proposal = (verdict: Verdict, ...kinds: EvidenceKind[][]): Proposal => ({
  layer: 'l',
  verdict,
  shift: null,
  choice: kinds.length > 1 ? { equal: kinds.length, reasons: [], against: [] } : null,
  candidates: kinds.map((k) => ({ target: {} as Target, score: 50, fit: 50, standing: null, kinds: new Set(k), evidence: [] })),
});
const none = proposal('none');

test('a file that is named first keeps its letters', () => {
  const told = (detail: string) => tellTrouble(judged({ state: 'incomplete', detail }), none, []).sentence;
  expect([told('beds.shx is missing'), told('its index is missing')]).toEqual([
    'Of its data: beds.shx is missing.',
    'Its index is missing.',
  ]);
});

test.each<[string, Judgement, Proposal | null, readonly string[], string, RegExp]>([
  ['its place is away', judged({ state: 'absent' }), none, [], 'place-absent', /nothing is to be mended/],
  [
    'its place is away, a copy is near',
    judged({ state: 'absent' }),
    proposal('none', ['hash']),
    [],
    'place-absent',
    /copy .* can be chosen/,
  ],
  [
    'the index of a shapefile is lost',
    judged({ state: 'incomplete', detail: 'beds.shx is missing' }),
    none,
    [],
    'companion-lost',
    /made anew/,
  ],
  [
    'the table of a shapefile is lost',
    judged({ state: 'incomplete', detail: 'beds.dbf is missing' }),
    none,
    [],
    'companion-lost',
    /every value/,
  ],
  ['damaged', judged({ state: 'unreadable', reason: 'damaged', detail: 'the file ends at byte 100' }), none, [], 'damaged', /backup/],
  [
    'damaged, a twin is near',
    judged({ state: 'unreadable', reason: 'damaged' }),
    proposal('likely', ['hash']),
    [],
    'damaged',
    /copy that is offered/,
  ],
  ['may not be read', judged({ state: 'unreadable', reason: 'permission' }), none, [], 'not-allowed', /right to read/],
  [
    'other data stands there',
    judged({ state: 'different', reason: 'other-geometry', detail: 'Point became Polygon' }),
    none,
    [],
    'other-data',
    /map its fields/,
  ],
  ['spelled otherwise', judged({ state: 'sound', reason: 'spelling' }), proposal('certain', ['spelling']), [], 'spelling', /spelled/],
  ['no source recorded, recognised', judged({ reason: 'no-reference' }), proposal('certain', ['hash']), [], 'no-source', /written/],
  ['no source recorded, nothing known', judged({ reason: 'no-reference' }), none, [], 'no-source', /Point/],
  ['no address', judged({ reason: 'bad-address' }), none, [], 'bad-address', /Point/],
  ['a drive of no place', judged({ reason: 'no-place' }), none, [], 'unknown-drive', /Places/],
  [
    'a drive of no place, found',
    judged({ reason: 'no-place' }),
    proposal('certain', ['name', 'hash']),
    [],
    'unknown-drive',
    /written anew/,
  ],
  ['the table is gone', judged({ reason: 'no-table', detail: 'tables there: a' }), none, [], 'table-gone', /Point/],
  ['no table named', judged({ reason: 'table-not-named', detail: 'a, b' }), none, [], 'table-not-named', /table/],
  ['equal copies', judged({}), proposal('possible', ['hash'], ['hash']), [], 'equal-copies', /Choose/],
  ['moved', judged({}), proposal('certain', ['name', 'hash']), [], 'moved', /written anew/],
  ['still packed', judged({}), none, ['received/coast.zip'], 'still-packed', /Unpack/],
  ['gone', judged({}), none, [], 'gone', /Point/],
])('%s', (_, j, p, archives, code, fix) => {
  const trouble = tellTrouble(j, p, archives);
  expect(trouble.code).toBe(code);
  expect(trouble.fix).toMatch(fix);
  for (const sentence of [trouble.sentence, trouble.fix]) expect(sentence).toMatch(/^[A-Z0-9].*[.]$/s);
});

test('what is packed is named by its archive', () => {
  expect(tellTrouble(judged({}), none, ['received/coast.zip', 'old.tar']).sentence).toBe(
    'Data of its name is still packed, inside received/coast.zip, old.tar.',
  );
});

test('what is only something like it does not hide that the data is still packed; what explains it does', () => {
  const j = judged({});
  const weak = tellTrouble(j, proposal('possible', ['name']), ['desk: winter.zip']);
  expect(weak.code).toBe('still-packed');
  expect(weak.fix).toMatch(/only something like it/);
  expect(tellTrouble(j, proposal('likely', ['hash']), ['desk: winter.zip']).code).toBe('moved');
});

test('a table that fits is told before the loss', () => {
  const j = judged({ state: 'incomplete', detail: 'beds.shp has lost .dbf' });
  expect(tellTrouble(j, none, [], 1).fix).toMatch(/^A table that fits it stands elsewhere/);
  expect(tellTrouble(j, none, [], 2).fix).toMatch(/^2 tables that fit it stand elsewhere/);
});

test.each([
  ['folder', 'folder-moved', /folder on its way/],
  ['map-moved', 'map-moved', /The map was moved and its data was not/],
  ['renamed', 'renamed', /another name/],
  ['converted', 'converted', /put into a geodatabase/],
] as const)('what happened to all that a shift of kind %s explains is said of each', (kind, code, told) => {
  const trouble = tellTrouble(judged({}), proposal('certain', ['hash']), [], 0, kind);
  expect([trouble.code, trouble.sentence]).toEqual([code, expect.stringMatching(told)]);
});

test('what is likely is not told as if it were written already', () => {
  expect(tellTrouble(judged({}), proposal('certain', ['hash']), []).fix).toBe('Its address is written anew.');
  expect(tellTrouble(judged({}), proposal('likely', ['name']), []).fix).toMatch(/^It is not certain: compare it/);
});
