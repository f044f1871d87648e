import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cpSync, existsSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { compareEditions, type Before, type EditionState, type TakeOverOrder } from '@rootmap/core';
import { TestFolder } from '../../test/test-project.js';
import type { RunOptions } from '../changes/run-change.js';
import { undoChange } from '../changes/undo-change.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { compareWithBundle, manifestHere, planTakeOver, takeOverEdition, type TakenOver } from './edition.js';
import { lookIntoBundle } from './look-into.js';
import { pack } from './pack.js';
import { planPack } from './plan-pack.js';

let t: TestFolder;
let store: DataSource;
let options: RunOptions;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  options = { journal: new SqlJournal(store), program: 'test' };
  cpSync('testdata/open/example_project', t.at('p'), { recursive: true });
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

/** Ways in which one file can stand: here, in the edition, and here and in the bundle before; and what is to be said of each. */
test.each<[string | null, string | null, string | null, string | null, EditionState]>([
  ['a', 'a', 'a', 'a', 'same'],
  ['a', 'b', 'a', 'a', 'changed'],
  ['b', 'a', 'a', 'a', 'here-changed'],
  ['b', 'c', 'a', 'a', 'both'],
  ['a', null, 'a', 'a', 'removed'],
  ['b', null, 'a', 'a', 'both'],
  [null, 'a', 'a', 'a', 'here-removed'],
  [null, 'b', 'a', 'a', 'both'],
  [null, 'b', null, null, 'added'],
  ['b', null, null, null, 'here-added'],
  // rewritten for the bundle
  ['a', 'x', 'a', 'x', 'same'],
  ['a', 'y', 'a', 'x', 'changed'],
  ['b', 'x', 'a', 'x', 'here-changed'],
  // came along in the bundle, and was never here
  [null, 'x', null, 'x', 'added'],
])('here %s, theirs %s; before %s and %s: %s', (here, theirs, wasHere, wasSent, state) => {
  const of = (hash: string | null) => new Map(hash === null ? [] : [['x', hash]]);
  expect(compareEditions(of(here), of(theirs), { here: of(wasHere), bundle: of(wasSent) })[0]).toEqual({ path: 'x', state });
});

const KELP = 'originals/survey_office/kelp_000.dbf';
const GROYNE = 'results/groyne_004.dbf';
const FAIRWAY = 'working/fairway_006.dbf';

/** The project is copied to a colleague, who changes three files, adds one and takes one away; meanwhile two are changed here. */
async function editions() {
  const here = await manifestHere(t.scope('p'));
  cpSync(t.at('p'), t.at('theirs'), { recursive: true });
  writeFileSync(t.at('theirs', KELP), 'theirs');
  writeFileSync(t.at('theirs', FAIRWAY), 'theirs');
  writeFileSync(t.at('theirs/results/new folder.txt'), 'new');
  rmSync(t.at('theirs', 'working/fairway_006.cpg'));
  writeFileSync(t.at('p', GROYNE), 'ours');
  writeFileSync(t.at('p', FAIRWAY), 'ours');
  await pack(planPack(t.scope('theirs')), t.at('newer.zip'), 'colleague', options);
  return { here, bundle: here };
}
const take = async (before: Before, order: TakeOverOrder): Promise<TakenOver> =>
  takeOverEdition(t.at('p'), t.at('newer.zip'), await planTakeOver(t.scope('p'), t.at('newer.zip'), before, order), 'me', options);
const read = (path: string): string => readFileSync(t.at('p', path), 'utf8');

describe('a newer edition of a project that is here', () => {
  test('file by file, against what both had', async () => {
    const before = await editions();
    const { rows } = await compareWithBundle(t.scope('p'), t.at('newer.zip'), before);
    expect(rows.filter((r) => r.state !== 'same')).toEqual([
      { path: KELP, state: 'changed' },
      { path: GROYNE, state: 'here-changed' },
      { path: 'results/new folder.txt', state: 'added' },
      { path: 'working/fairway_006.cpg', state: 'removed' },
      { path: FAIRWAY, state: 'both' },
    ]);
    expect((await compareWithBundle(t.scope('p'), t.at('newer.zip'), null)).rows.filter((r) => r.state === 'differs')).toHaveLength(3);
  });

  test('taken over as one change: theirs are here, ours stay, what was taken away stays unless it is asked for', async () => {
    const before = await editions();
    const order = { onConflict: 'ours', removes: false } as const;
    const taken = await take(before, order);
    expect(taken).toMatchObject({ put: 2, findings: [] });
    expect([read(KELP), read(GROYNE), read(FAIRWAY), read('results/new folder.txt')]).toEqual(['theirs', 'ours', 'ours', 'new']);
    expect(existsSync(t.at('p/working/fairway_006.cpg'))).toBe(true);
  });

  test('theirs win where that is asked for; ours are in the trash', async () => {
    const before = await editions();
    await take(before, { onConflict: 'theirs', removes: true });
    expect([read(KELP), read(GROYNE), read(FAIRWAY)]).toEqual(['theirs', 'ours', 'theirs']);
    expect(existsSync(t.at('p/working/fairway_006.cpg'))).toBe(false);
    const trash = readdirSync(t.at('p/.rootmap/trash'), { recursive: true, encoding: 'utf8' });
    expect(trash.filter((f) => f.endsWith('.dbf') || f.endsWith('.cpg')).map((f) => f.replace(/^.*[\\/]/, ''))).toEqual(
      expect.arrayContaining(['kelp_000.dbf', 'fairway_006.dbf', 'fairway_006.cpg']),
    );
  });

  test('undone, every file is as it was, by a plain walk', async () => {
    const before = await editions();
    const ours = await manifestHere(t.scope('p'));
    await take(before, { onConflict: 'theirs', removes: true });
    const [change] = await new SqlJournal(store).list({ limit: 1 });
    await undoChange(change!.id, 'me', options);
    expect(await manifestHere(t.scope('p'))).toEqual(ours);
  });

  test('of a bundle that is not valid nothing is taken', async () => {
    const before = await editions();
    const bytes = readFileSync(t.at('newer.zip'));
    bytes[bytes.indexOf(Buffer.from('new folder.txt')) + 60]! ^= 0xff;
    writeFileSync(t.at('newer.zip'), bytes);
    const ours = new Map(await manifestHere(t.scope('p')));
    const order = { onConflict: 'theirs', removes: true } as const;
    const taken = await take(before, order);
    expect(taken.findings.length).toBeGreaterThan(0);
    expect(await manifestHere(t.scope('p'))).toEqual(ours);
  });

  test('looked into before anything is unpacked: title, maps, who sent it, drives that it still names', async () => {
    const map = t.map('p/maps/far.owc.json', ['file:///Q:/far/away.shp']);
    expect(existsSync(map)).toBe(true);
    await pack(planPack(t.scope('p')), t.at('far.zip'), 'somebody', options);
    const look = await lookIntoBundle(t.at('far.zip'));
    expect(look).toMatchObject({ name: 'check', receipt: { sentBy: 'somebody' }, drives: [{ name: 'Q:/', layers: 1 }], findings: [] });
    expect(look.maps).toHaveLength(4);
    expect(look.readMe).toContain('How to open it');
  });
});
