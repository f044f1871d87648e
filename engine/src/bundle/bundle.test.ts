import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { TestFolder } from '../../test/test-project.js';
import type { RunOptions } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { openPlace } from '../places/places.js';
import { findScope, rooted } from '../project/scope.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { copyToPlace, pack, suggestedBundle } from './pack.js';
import { planPack } from './plan-pack.js';
import { receive } from './receive.js';
import { verifyBundle } from './verify.js';
import { ZipWriter } from '../zip/zip-writer.js';

let t: TestFolder;
let store: DataSource;
let options: RunOptions;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  options = { journal: new SqlJournal(store), program: 'test' };
  cpSync('testdata/open/example_project', t.at('p'), { recursive: true });
  mkdirSync(t.at('p/documents'));
  writeFileSync(t.at('p/documents/ü 100%.txt'), 'text\n');
  utimesSync(t.at('p/documents/ü 100%.txt'), 1_700_000_001, 1_700_000_001);
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const make = (name: string) => pack(planPack(t.scope('p'), { out: t.at(name) }), t.at(name), 'test', options);

/** Python's zipfile and coreutils: independent readers of what was written. */
test('the bundle is read by other programs, checksum by checksum', async () => {
  const result = await make('out.zip');
  expect(result.payload.files).toBe(45);
  expect(result.layers.every((l) => l.state === 'sound')).toBe(true);
  execFileSync('python3', [
    '-c',
    'import sys,zipfile; z=zipfile.ZipFile(sys.argv[1]); assert z.testzip() is None; z.extractall(sys.argv[2])',
    t.at('out.zip'),
    t.at('x'),
  ]);
  for (const [tool, manifest] of [
    ['sha256sum', 'manifest-sha256.txt'],
    ['sha512sum', 'manifest-sha512.txt'],
    ['sha256sum', 'tagmanifest-sha256.txt'],
    ['sha512sum', 'tagmanifest-sha512.txt'],
  ] as const) {
    // Their names know nothing of %25: the one file that has it is checked by hand.
    const lines = readFileSync(t.at('x/check', manifest), 'utf8').replace('100%25', '100%');
    execFileSync(tool, ['--strict', '--quiet', '-c', '-'], { cwd: t.at('x/check'), input: lines });
  }
  expect(readFileSync(t.at('x/check/bag-info.txt'), 'utf8')).toMatch(/^Payload-Oxum: \d+\.45$/m);
});

test('the same project gives the same bytes', async () => {
  await make('a.zip');
  await make('b.zip');
  const hash = (f: string): string =>
    createHash('sha256')
      .update(readFileSync(t.at(f)))
      .digest('hex');
  expect(hash('a.zip')).toBe(hash('b.zip'));
});

test('received elsewhere, every file and time is as it was, and every layer sound', async () => {
  await make('out.zip');
  const arrived = await receive(t.at('out.zip'), t.at('new/root'), 'test', t.places, options);
  expect(arrived.findings).toEqual([]);
  expect(arrived.layers).toHaveLength(9);
  expect(arrived.layers.every((l) => l.state === 'sound')).toBe(true);
  const list = (root: string): string[] => readdirSync(t.at(root), { recursive: true }).map(String).sort();
  expect(list('new/root')).toEqual(list('p'));
  for (const f of list('p').filter((x) => statSync(t.at('p', x)).isFile()))
    expect(readFileSync(t.at('new/root', f)).equals(readFileSync(t.at('p', f)))).toBe(true);
  expect(statSync(t.at('new/root/documents/ü 100%.txt')).mtimeMs).toBe(1_700_000_001_000);
  await expect(receive(t.at('out.zip'), t.at('new/root'), 'test', t.places, options)).rejects.toMatchObject({
    problem: { code: 'exists' },
  });
});

test('absolute references to data inside are relative in the bundle; the map on disk stays', async () => {
  const map = t.at('p/maps/map_00.owc.json');
  const text = readFileSync(map, 'utf8').replace(
    '../originals/survey_office/kelp_000.shp',
    `file://${t.at('p/originals/survey_office/kelp_000.shp')}`,
  );
  writeFileSync(map, text);
  await make('out.zip');
  expect(readFileSync(map, 'utf8')).toBe(text);
  const arrived = await receive(t.at('out.zip'), t.at('r'), 'test', t.places, options);
  expect(arrived.layers.every((l) => l.state === 'sound' && l.stored === 'relative')).toBe(true);
});

test('a byte changed in the bundle is found, and nothing is unpacked', async () => {
  await make('out.zip');
  const bytes = readFileSync(t.at('out.zip'));
  const at = bytes.indexOf(Buffer.from('kelp_000.shp')) + 200;
  bytes[at] = bytes[at]! ^ 0xff;
  writeFileSync(t.at('bad.zip'), bytes);
  expect((await verifyBundle(t.at('bad.zip'))).valid).toBe(false);
  const arrived = await receive(t.at('bad.zip'), t.at('r'), 'test', t.places, options);
  expect(arrived.findings.length).toBeGreaterThan(0);
  expect(existsSync(t.at('r'))).toBe(false);
});

test('cancelled midway, nothing is left', async () => {
  const abort = new AbortController();
  const run = pack(planPack(t.scope('p'), { out: t.at('c.zip') }), t.at('c.zip'), 'test', options, () => abort.abort(), abort.signal);
  await expect(run).rejects.toMatchObject({ problem: { code: 'cancelled' } });
  expect(readdirSync(t.path).sort()).toEqual(['data', 'p']);
});

test('hostile entries are refused one by one, with the reason', async () => {
  const zip = await ZipWriter.create(t.at('evil.zip'));
  const body = [Buffer.from('x')];
  for (const name of [
    'bagit.txt',
    '../out.txt',
    '/etc/x',
    'C:/x',
    'data/a\\b',
    'data/x',
    'data/x',
    'data/X',
    'data/a/../../y',
    '~/x',
    'data/n\0ul',
  ])
    await zip.add(name, body, 0, true);
  await zip.finish();
  const { valid, findings } = await verifyBundle(t.at('evil.zip'));
  expect(valid).toBe(false);
  const why = findings.map((f) => f.problem);
  expect(why.filter((w) => w === 'the path leads out of the archive').length).toBeGreaterThanOrEqual(6);
  expect(why).toContain('it is there twice');
  expect(why).toContain('it differs only in case from data/x');
});

test('a file that is no zip is told in a sentence', async () => {
  writeFileSync(t.at('no.zip'), 'hello');
  await expect(verifyBundle(t.at('no.zip'))).rejects.toMatchObject({ problem: { code: 'bad-bag' } });
});

test('a copy to a place is one change, and its undo takes all of it away', async () => {
  const made = await copyToPlace(planPack(t.scope('p')), t.at('usb/sent'), 'test', options);
  expect(await verifyBundle(made.file)).toMatchObject({ valid: true, files: 45 });
  const [change] = await new SqlJournal(store).list({ limit: 1 });
  await undoChange(change!.id, 'test', options);
  expect(existsSync(t.at('usb/sent'))).toBe(false);
});

test('where the root is all of its place, the bundle is proposed in another one, or in the root itself', () => {
  const place = (name: string, folder: string) => openPlace({ name, folder: t.at(folder), driveNames: [] });
  mkdirSync(t.at('other'));
  const suggested = (...places: ReturnType<typeof place>[]) => suggestedBundle(rooted(findScope(t.at('p'), { places })));
  expect(suggested(place('p', 'p'))).toBe(t.at('p/check.zip'));
  expect(suggested(place('p', 'p'), place('other', 'other'))).toBe(t.at('other/check.zip'));
});

test('a file whose name no bag can hold stays out alone, and is told', async () => {
  writeFileSync(t.at('p/documents/a\\b.txt'), 'x');
  const result = await make('out.zip');
  expect(result.leftOut).toEqual([{ path: t.at('p/documents/a\\b.txt'), why: 'its name would lead out of the bundle on some system' }]);
  expect(result.payload.files).toBe(45);
});

test('empty folders of the plan, which no bag holds, are made again with the rest', async () => {
  const file = t.at('p/check.rootmap.json');
  writeFileSync(file, readFileSync(file, 'utf8').replace('"folders": {}', '"folders": { "exports/2026": "exports", "../out": "other" }'));
  await make('out.zip');
  await receive(t.at('out.zip'), t.at('r'), 'test', t.places, options);
  expect(readdirSync(t.at('r/exports'))).toEqual(['2026']);
  expect(existsSync(t.at('out'))).toBe(false);
});
