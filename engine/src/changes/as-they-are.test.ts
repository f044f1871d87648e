import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { chmodSync, chownSync, existsSync, lstatSync, mkdirSync, readFileSync, statSync, symlinkSync, writeFileSync } from 'node:fs';
import type { DataSource } from 'typeorm';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import type { PlannedChange, PlannedStep } from './change.js';
import { ChangeDisk } from './disk.js';
import { runChange } from './run-change.js';
import { undoChange } from './undo-change.js';

let t: TestFolder;
let store: DataSource;
let journal: SqlJournal;
beforeEach(async () => {
  t = new TestFolder();
  mkdirSync(t.at('p'));
  store = await openStore(t.at('data'));
  journal = new SqlJournal(store);
});
afterEach(async () => {
  await store.destroy();
  t.remove();
});
const change = (...steps: PlannedStep[]): PlannedChange => ({ title: 'Change', kind: 'save', root: t.at('p'), who: 'test', steps });
const run = (plan: PlannedChange, disk = new ChangeDisk()) =>
  runChange(plan, {
    journal,
    disk,
    program: 'test',
    stage: (staged) => {
      mkdirSync(`${staged}/in`, { recursive: true });
      writeFileSync(`${staged}/in/f`, 'f');
      return Promise.resolve();
    },
  });
const write = (path: string, before: string | null, after: string): PlannedStep => ({
  kind: 'write',
  path,
  before: before === null ? null : Buffer.from(before),
  after: Buffer.from(after),
});

test('a map that is a link is written where it leads, and stays a link; undone alike', async () => {
  mkdirSync(t.at('p/shared'));
  writeFileSync(t.at('p/shared/m.json'), 'old');
  symlinkSync('shared/m.json', t.at('p/m.json'));
  const done = await run(change(write(t.at('p/m.json'), 'old', 'new')));
  expect([lstatSync(t.at('p/m.json')).isSymbolicLink(), readFileSync(t.at('p/shared/m.json'), 'utf8')]).toEqual([true, 'new']);
  await undoChange(done.id, 'test', { journal, program: 'test' });
  expect([lstatSync(t.at('p/m.json')).isSymbolicLink(), readFileSync(t.at('p/shared/m.json'), 'utf8')]).toEqual([true, 'old']);
});

test('bits and owner of a file that is written stay, whatever the process leaves out', async () => {
  writeFileSync(t.at('p/m.json'), 'old');
  chmodSync(t.at('p/m.json'), 0o666);
  const [uid, gid] = process.getuid!() === 0 ? [4321, 4322] : [process.getuid!(), process.getgid!()];
  chownSync(t.at('p/m.json'), uid, gid);
  const before = process.umask(0o077);
  try {
    const done = await run(change(write(t.at('p/m.json'), 'old', 'new')));
    const told = (): unknown[] => [statSync(t.at('p/m.json')).mode & 0o777, statSync(t.at('p/m.json')).uid, statSync(t.at('p/m.json')).gid];
    expect(told()).toEqual([0o666, uid, gid]);
    await undoChange(done.id, 'test', { journal, program: 'test' });
    expect([readFileSync(t.at('p/m.json'), 'utf8'), ...told()]).toEqual(['old', 0o666, uid, gid]);
  } finally {
    process.umask(before);
  }
});

test('a folder with a pipe in it is not copied, says so, and its root is free again', async () => {
  mkdirSync(t.at('p/from'));
  writeFileSync(t.at('p/from/a'), 'a');
  execFileSync('mkfifo', [t.at('p/from/pipe')]);
  await expect(run(change({ kind: 'copy', from: t.at('p/from'), path: t.at('p/to') }))).rejects.toMatchObject({
    problem: { code: 'not-a-file', path: t.at('p/from/pipe') },
  });
  expect(existsSync(t.at('p/to'))).toBe(false);
  await run(change({ kind: 'move', from: t.at('p/from'), path: t.at('p/moved') })); // a pipe moves along
  expect(lstatSync(t.at('p/moved/pipe')).isFIFO()).toBe(true);
}, 10_000);

test('a name that is no text in UTF-8 is told by the copy that cannot name it, and moves with its folder', async () => {
  mkdirSync(t.at('p/from'));
  writeFileSync(Buffer.concat([Buffer.from(t.at('p/from/')), Buffer.from([0x66, 0xfc])]), 'latin'); // f and ü in ISO 8859-1
  await expect(run(change({ kind: 'copy', from: t.at('p/from'), path: t.at('p/to') }))).rejects.toThrow(/no text in UTF-8/);
  await run(change({ kind: 'move', from: t.at('p/from'), path: t.at('p/moved') }));
  expect(execFileSync('ls', [t.at('p/moved')]).length).toBe(3);
});

/** What POSIX asks for of new files (fsync(2): the folder, too). Each row: a step, and what must be synced before the change is done. */
test.each<[string, (t: TestFolder) => PlannedStep, (t: TestFolder) => string[]]>([
  ['write', (t) => write(t.at('p/n'), null, 'x'), (t) => ['sync staged', `sync folder ${t.at('p')}`]],
  ['install', (t) => ({ kind: 'install', path: t.at('p/i') }), (t) => ['sync tree staged', `sync folder ${t.at('p')}`]],
  ['copy', (t) => ({ kind: 'copy', from: t.at('p/there'), path: t.at('p/c') }), (t) => ['sync staged', `sync folder ${t.at('p')}`]],
  ['folder', (t) => ({ kind: 'folder', path: t.at('p/f') }), (t) => [`sync folder ${t.at('p')}`]],
  [
    'move',
    (t) => ({ kind: 'move', from: t.at('p/there'), path: t.at('p/sub/m') }),
    (t) => [`sync folder ${t.at('p')}`, `sync folder ${t.at('p/sub')}`],
  ],
  [
    'trash',
    (t) => ({ kind: 'trash', path: t.at('p/there'), hash: null }),
    (t) => ['p', 'p/.rootmap', 'p/.rootmap/trash'].map((f) => `sync folder ${t.at(f)}`),
  ],
])('%s: its bytes and the folders that its name stands in are on the disk before it is done', async (_, step, wanted) => {
  mkdirSync(t.at('p/sub'));
  writeFileSync(t.at('p/there'), 'there');
  const calls: string[] = [];
  let isDone = false;
  const setState = journal.setState.bind(journal);
  journal.setState = (id, state, note) => {
    isDone ||= state === 'done';
    return setState(id, state, note);
  };
  await run(
    change(step(t)),
    new ChangeDisk((_n, what, path) => {
      if (isDone) calls.push('after done');
      calls.push(`${what} ${/\.rootmap-[0-9a-f]{8}-\d+$/.test(path) ? 'staged' : path}`);
    }),
  );
  expect(calls).toEqual(expect.arrayContaining(wanted(t)));
  expect(calls).not.toContain('after done');
  const renamed = calls.findIndex((c) => c.startsWith('rename'));
  if (calls.some((c) => c.endsWith(' staged'))) expect(calls.findIndex((c) => /^sync (tree )?staged/.test(c))).toBeLessThan(renamed);
});
