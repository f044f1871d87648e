import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import type { ChangeRecord, StepRecord, WriteStep } from '../changes/change.js';
import { thisProcess } from '../changes/owner.js';
import { TestFolder } from '../../test/test-project.js';
import { openStore } from './open-store.js';
import { SqlJournal } from './sql-journal.js';

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

const step = (n: number, before: Uint8Array | null = null): WriteStep => ({
  n,
  kind: 'write',
  path: `/root/${n}`,
  temp: '',
  before,
  beforeHash: null,
  beforeStamp: null,
  afterHash: '',
});
const change = (id: string, steps: readonly StepRecord[], over: Partial<ChangeRecord> = {}): ChangeRecord => ({
  id,
  title: id,
  kind: 'mend',
  root: '/root',
  who: 'test',
  createdMs: 1,
  state: 'preparing',
  owner: thisProcess('test'),
  note: null,
  undoes: null,
  roots: [{ path: '/root', identity: null }],
  steps,
  ...over,
});

test('a change of many steps and many bytes is kept whole, though in several commits', async () => {
  const steps = Array.from({ length: 173 }, (_, n) => step(n, Buffer.alloc(n % 7 === 0 ? 400_000 : 10, n)));
  await journal.begin(change('a', steps));
  const kept = (await journal.get('a'))!.steps;
  expect(kept.map((s) => s.n)).toEqual(steps.map((s) => s.n));
  expect(kept.every((s, n) => s.kind === 'write' && Buffer.from(s.before!).equals(steps[n]!.before!))).toBe(true);
});

test('each kind of step comes back as it was written down, and with what was learnt of it', async () => {
  const steps: readonly StepRecord[] = [
    {
      kind: 'write',
      n: 0,
      path: '/root/w',
      temp: '/root/.w',
      before: Buffer.from('old'),
      beforeHash: 'aa',
      beforeStamp: '66:3:1:2',
      afterHash: 'bb',
    },
    { kind: 'write', n: 1, path: '/root/new', temp: '/root/.n', before: null, beforeHash: null, beforeStamp: null, afterHash: 'cc' },
    { kind: 'install', n: 2, path: '/root/i', temp: '/root/.i', stamp: null, tree: null },
    { kind: 'copy', n: 3, path: '/root/c', temp: '/root/.c', source: '/other/c', treeHash: null },
    { kind: 'trash', n: 4, path: '/root/t', temp: '/root/.rootmap/trash/x/4/t', hash: null },
    { kind: 'folder', n: 5, path: '/root/f' },
    { kind: 'drop-folder', n: 6, path: '/root/d' },
    { kind: 'move', n: 7, path: '/root/m', source: '/root/from', identity: '66:1', tree: { 'deep/': '1:2' } },
    { kind: 'mode', n: 8, path: '/root/o', before: 0o644, after: 0o444 },
    { kind: 'mode', n: 9, path: '/root/p', before: null, after: 0o644 },
  ];
  await journal.begin(change('all', steps));
  expect((await journal.get('all'))!.steps).toEqual(steps);
  const learnt = steps.map((s): StepRecord => {
    if (s.kind === 'install') return { ...s, stamp: '66:2:3', tree: { 'in/': '66:4', 'in/a.txt': '66:5:1:9' } };
    if (s.kind === 'copy') return { ...s, treeHash: 'dd' };
    return s.kind === 'move' ? { ...s, identity: '66:9' } : s;
  });
  for (const s of learnt) await journal.keepStep('all', s);
  expect((await journal.get('all'))!.steps).toEqual(learnt);
});

test('where writing it down fails, nothing of it is left, and its root is free', async () => {
  const steps = [...Array.from({ length: 60 }, (_, n) => step(n)), step(3)]; // a number twice
  await expect(journal.begin(change('a', steps))).rejects.toMatchObject({ code: 'SQLITE_CONSTRAINT_PRIMARYKEY' });
  expect(await journal.get('a')).toBeNull();
  await journal.begin(change('b', [step(0)]));
  await expect(journal.begin(change('c', [step(0)]))).rejects.toMatchObject({ problem: { code: 'locked' } });
  expect(await journal.get('c')).toBeNull();
});

test('who deleted something: the latest change that is done, and none that was undone', async () => {
  const trash = (path: string): StepRecord[] => [{ n: 0, kind: 'trash', path, temp: '', hash: null }];
  await journal.begin(change('first', trash('/root/data'), { createdMs: 1 }));
  await journal.setState('first', 'done');
  await journal.begin(change('second', trash('/root/data'), { createdMs: 2 }));
  await journal.setState('second', 'done');
  await journal.begin(change('third', trash('/root/other'), { createdMs: 3 }));
  await journal.setState('third', 'undone');
  const found = await journal.deletionsOf(['/root/data', '/root/other', '/root', ...Array.from({ length: 1200 }, (_, n) => `/x/${n}`)]);
  expect([...found]).toEqual([['/root/data', { id: 'second', title: 'second', createdMs: 2 }]]);
});
