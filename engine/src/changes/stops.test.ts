import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type Database from 'better-sqlite3';
import type { DataSource } from 'typeorm';
import { dirname, join } from '../disk/native-path.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import type { PlannedChange } from './change.js';
import { ChangeDisk } from './disk.js';
import { recoverChanges } from './recover.js';
import { runChange, StopHere } from './run-change.js';
import { undoChange } from './undo-change.js';

let t: TestFolder;
let store: DataSource;
let journal: SqlJournal;
beforeEach(async () => {
  t = new TestFolder();
  store = await openStore(t.at('data'));
  journal = new SqlJournal(store);
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});

const root = (): string => t.at('stick', 'p');
const FILES: Readonly<Record<string, string>> = {
  'maps/a.json': 'one',
  'maps/b.json': 'two',
  'data/x.csv': 'x',
  'data/y.csv': 'y',
  'old/z.csv': 'z',
};
function lay(): void {
  rmSync(t.at('stick'), { recursive: true, force: true });
  for (const [path, text] of Object.entries(FILES)) {
    mkdirSync(dirname(join(root(), path)), { recursive: true });
    writeFileSync(join(root(), path), text);
  }
}
/** Every file below a folder but what is in the trash, walked without any code of the product; what is staged counts as a file. */
function tree(folder = root(), at = ''): Record<string, string> {
  return Object.fromEntries(
    readdirSync(folder)
      .filter((name) => !(at === '' && name === '.rootmap'))
      .flatMap((name) => {
        const path = join(folder, name);
        const below = at + name;
        return statSync(path).isDirectory() ? Object.entries(tree(path, `${below}/`)) : [[below, readFileSync(path, 'utf8')]];
      }),
  );
}
const write = (path: string, before: string | null, after: string) => ({
  kind: 'write' as const,
  path: join(root(), path),
  before: before === null ? null : Buffer.from(before),
  after: Buffer.from(after),
});
/** One of every kind of step. */
const change = (): PlannedChange => ({
  title: 'Change all',
  kind: 'move',
  root: root(),
  who: 'test',
  steps: [
    write('maps/a.json', 'one', 'ONE'),
    write('maps/new.json', null, 'new'),
    { kind: 'folder', path: join(root(), 'made') },
    { kind: 'copy', from: join(root(), 'data', 'x.csv'), path: join(root(), 'made', 'copy.csv') },
    { kind: 'install', path: join(root(), 'made', 'installed.csv') },
    { kind: 'trash', path: join(root(), 'maps', 'b.json'), hash: null },
    { kind: 'move', from: join(root(), 'old', 'z.csv'), path: join(root(), 'made', 'z.csv') },
    { kind: 'drop-folder', path: join(root(), 'old') },
    { kind: 'move', from: join(root(), 'data'), path: join(root(), 'moved') },
  ],
});
const AFTER = {
  'maps/a.json': 'ONE',
  'maps/new.json': 'new',
  'made/copy.csv': 'x',
  'made/installed.csv': 'installed',
  'made/z.csv': 'z',
  'moved/x.csv': 'x',
  'moved/y.csv': 'y',
};
const options = (disk = new ChangeDisk()) => ({
  journal,
  disk,
  program: 'test',
  stage: (staged: string) => Promise.resolve(writeFileSync(staged, 'installed')),
});
const ownerDies = () =>
  store.query('UPDATE "change" SET "owner" = ?', [JSON.stringify({ pid: 2 ** 22 + 1, startTime: '1', bootId: 'x', program: 'gone' })]);
/** What the operating system says, at every step from one on to another. */
const refusing = (from: number, code: string, to = Infinity): ChangeDisk =>
  new ChangeDisk((n, what, path) => {
    const isHarmless = ['read', 'hash'].includes(what);
    if (n >= from && n <= to && !(code !== 'EIO' && isHarmless))
      throw Object.assign(new Error(`${code}: refused`), { code, syscall: what, path });
  });
async function countSteps(): Promise<number> {
  let steps = 0;
  lay();
  await runChange(change(), options(new ChangeDisk(() => void steps++)));
  return steps;
}
const unfinished = async (): Promise<number> => (await journal.unfinished()).length;

describe('the program ends before any step, and starts again', () => {
  const WAYS: readonly (readonly [string, () => ChangeDisk, () => void, () => void])[] = [
    [
      'while the place is away',
      () => new ChangeDisk(),
      () => renameSync(t.at('stick'), t.at('pulled')),
      () => renameSync(t.at('pulled'), t.at('stick')),
    ],
    [
      'while an empty folder stands where it is mounted',
      () => new ChangeDisk(),
      () => {
        renameSync(t.at('stick'), t.at('pulled'));
        mkdirSync(root(), { recursive: true });
      },
      () => {
        rmSync(t.at('stick'), { recursive: true });
        renameSync(t.at('pulled'), t.at('stick'));
      },
    ],
    ['while it can only be read', () => refusing(0, 'EROFS'), () => undefined, () => undefined],
    ['while it is full', () => refusing(0, 'ENOSPC'), () => undefined, () => undefined],
    ['while permission is lost', () => refusing(0, 'EACCES'), () => undefined, () => undefined],
    ['while it cannot be read at all', () => refusing(0, 'EIO'), () => undefined, () => undefined],
  ];
  test.each(WAYS)(
    '%s: it waits, and is brought to its end when that is over',
    async (_, disk, leave, comeBack) => {
      const steps = await countSteps();
      expect(steps).toBeGreaterThan(30);
      const outcomes = new Set<string>();
      for (let stop = 0; stop < steps; stop++) {
        lay();
        const stopping = new ChangeDisk((n) => {
          if (n === stop) throw new StopHere();
        });
        await expect(runChange(change(), options(stopping))).rejects.toBeInstanceOf(StopHere);
        if ((await unfinished()) === 0) continue; // the journal had not begun
        await ownerDies();
        const midway = tree();
        leave();
        const [waiting] = await recoverChanges(journal, disk());
        comeBack();
        if (waiting!.outcome === 'waiting') {
          expect(waiting!.why).toMatch(/\.$/);
          expect(await unfinished()).toBe(1);
          expect((await journal.unfinished())[0]!.note).toBe(waiting!.why);
        } else expect(tree()).toEqual(midway); // nothing was left to write
        const [ended] = waiting!.outcome === 'waiting' ? await recoverChanges(journal) : [waiting];
        outcomes.add(`${waiting!.outcome} ${ended!.outcome}`);
        expect([stop, tree()]).toEqual([stop, ended!.outcome === 'finished' ? AFTER : FILES]);
        expect(await unfinished()).toBe(0);
      }
      expect(outcomes).toContain('waiting finished');
      expect(outcomes).toContain('waiting taken-back');
    },
    120_000,
  );
});

test('the disk refuses midway, once or for good: failed only where all is back, else it waits for the disk', async () => {
  const steps = await countSteps();
  const said = new Set<string>();
  for (const isOnce of [true, false])
    for (let from = 0; from < steps; from++) {
      lay();
      const failure = await runChange(change(), options(refusing(from, 'EROFS', isOnce ? from : Infinity))).then(
        () => 'done',
        (error: { problem: { code: string } }) => error.problem.code,
      );
      said.add(`${isOnce ? 'once' : 'for good'}: ${failure}`);
      expect([from, await unfinished()]).toEqual([from, failure === 'unfinished' ? 1 : 0]);
      if (failure === 'unfinished') {
        const next = { ...change(), steps: [{ kind: 'folder' as const, path: join(root(), 'next') }] };
        await expect(runChange(next, options())).rejects.toMatchObject({ problem: { code: 'locked' } });
        expect((await recoverChanges(journal))[0]!.outcome).toBe('taken-back'); // by the same process, which is alive
      }
      expect([from, tree()]).toEqual([from, failure === 'done' ? AFTER : FILES]);
      expect(await unfinished()).toBe(0);
    }
  expect([...said].sort()).toEqual(['for good: done', 'for good: unfinished', 'once: done', 'once: read-only']);
}, 60_000);

test('the place vanishes under the running program: nothing is called failed before it is back', async () => {
  const steps = await countSteps();
  const outcomes = new Set<string>();
  for (let stop = 0; stop < steps; stop++) {
    lay();
    const disk = new ChangeDisk((n) => {
      if (n === stop && existsSync(t.at('stick'))) renameSync(t.at('stick'), t.at('pulled'));
    });
    const failure = await runChange(change(), options(disk)).then(
      () => null,
      (error: { problem: { code: string } }) => error.problem.code,
    );
    if (existsSync(t.at('pulled'))) {
      if (await unfinished()) {
        expect((await recoverChanges(journal))[0]!.outcome).toBe('waiting');
        expect(failure).toBe('unfinished');
      }
      renameSync(t.at('pulled'), t.at('stick'));
    }
    const [ended] = await recoverChanges(journal);
    const state = ended?.outcome ?? (failure === null ? 'finished' : 'taken-back');
    outcomes.add(state);
    expect([stop, state, tree()]).toEqual([stop, state, state === 'finished' ? AFTER : FILES]);
    expect(await unfinished()).toBe(0);
  }
  expect(outcomes).toContain('taken-back');
}, 60_000);

describe('the disk of the journal is full', () => {
  const db = (): Database.Database => (store.driver as unknown as { databaseConnection: Database.Database }).databaseConnection;
  const fill = (): void => void db().pragma(`max_page_count = ${db().pragma('page_count', { simple: true }) as number}`);
  const free = (): void => void db().pragma('max_page_count = 1000000');

  test('at its beginning: nothing is changed, and the next one is written down for good', async () => {
    lay();
    const large = {
      ...change(),
      steps: [
        ...change().steps,
        write('large.bin', null, 'x'.repeat(100)),
        { ...write('maps/b.json', 'two', 'TWO'), before: Buffer.alloc(200_000) },
      ],
    };
    fill();
    await expect(runChange(large, options())).rejects.toMatchObject({ problem: { code: 'no-space' } });
    expect(tree()).toEqual(FILES);
    free();
    const done = await runChange(change(), options());
    expect(tree()).toEqual(AFTER);
    const other = await openStore(t.at('data')); // what another process sees
    expect((await new SqlJournal(other).get(done.id))!.state).toBe('done');
    await other.destroy();
  });

  test('at any of its states: it is done only where the journal says so, and else comes to its end later', async () => {
    for (const state of ['applying', 'done', 'taking-back', 'failed']) {
      lay();
      const setState = journal.setState.bind(journal);
      let isFull = true;
      journal.setState = (id, to, note) =>
        isFull && to === state
          ? Promise.reject(Object.assign(new Error('full'), { code: 'ENOSPC', syscall: 'write' }))
          : setState(id, to, note);
      const disk = state === 'taking-back' || state === 'failed' ? refusing(22, 'EIO') : new ChangeDisk();
      const failure = await runChange(change(), options(disk)).catch((error: { problem: { code: string } }) => error.problem.code);
      expect(['unfinished', 'no-space', 'io']).toContain(failure);
      isFull = false;
      const [ended] = await recoverChanges(journal);
      const outcome = ended?.outcome ?? 'taken-back';
      expect([state, tree()]).toEqual([state, outcome === 'finished' ? AFTER : FILES]);
      expect(await unfinished()).toBe(0);
    }
  });
});

test('names as long as a file system takes are moved, written, deleted and brought back', async () => {
  lay();
  const name = `${'あ'.repeat(83)}.csv`; // 253 bytes
  const map = `${'m'.repeat(244)}.owc.json`.slice(-250);
  writeFileSync(join(root(), name), 'x');
  writeFileSync(join(root(), map), 'before');
  const before = tree();
  const done = await runChange(
    {
      ...change(),
      steps: [
        write(map, 'before', 'after'),
        { kind: 'copy', from: join(root(), name), path: join(root(), 'maps', name) },
        { kind: 'move', from: join(root(), name), path: join(root(), 'data', name) },
      ],
    },
    options(),
  );
  expect(tree()).toMatchObject({ [`data/${name}`]: 'x', [`maps/${name}`]: 'x', [map]: 'after' });
  const deleted = await runChange({ ...change(), steps: [{ kind: 'trash', path: join(root(), map), hash: null }] }, options());
  expect(tree()).not.toHaveProperty(map);
  await undoChange(deleted.id, 'test', options());
  await undoChange(done.id, 'test', options());
  expect(tree()).toEqual(before);
});

test('a change of a folder that is away keeps no other from being recovered', async () => {
  lay();
  const other = t.at('desk');
  mkdirSync(other);
  const stopAtEnd = (): ChangeDisk =>
    new ChangeDisk((_, what) => {
      if (what === 'rename') throw new StopHere();
    });
  await expect(runChange(change(), options(stopAtEnd()))).rejects.toBeInstanceOf(StopHere);
  const onDesk = {
    ...change(),
    root: other,
    steps: [{ kind: 'write' as const, path: join(other, 'f'), before: null, after: Buffer.from('f') }],
  };
  await expect(runChange(onDesk, options(stopAtEnd()))).rejects.toBeInstanceOf(StopHere);
  await ownerDies();
  renameSync(t.at('stick'), t.at('pulled'));
  expect((await recoverChanges(journal)).map((r) => r.outcome)).toEqual(['waiting', 'finished']);
  expect(readFileSync(join(other, 'f'), 'utf8')).toBe('f');
  await runChange({ ...onDesk, steps: [{ kind: 'folder', path: join(other, 'g') }] }, options());
});
