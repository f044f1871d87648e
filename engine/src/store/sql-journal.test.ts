import { afterEach, beforeEach, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import type { ChangeRecord, StepRecord } from '../changes/change.js';
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

const step = (n: number, over: Partial<StepRecord> = {}): StepRecord => ({
  n,
  kind: 'write',
  path: `/root/${n}`,
  temp: '',
  source: null,
  before: null,
  beforeHash: null,
  afterHash: null,
  ...over,
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
  const steps = Array.from({ length: 173 }, (_, n) => step(n, { before: Buffer.alloc(n % 7 === 0 ? 400_000 : 10, n) }));
  await journal.begin(change('a', steps));
  const kept = (await journal.get('a'))!.steps;
  expect(kept.map((s) => s.n)).toEqual(steps.map((s) => s.n));
  expect(kept.every((s, n) => Buffer.from(s.before!).equals(steps[n]!.before!))).toBe(true);
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
  const trash = (path: string) => [step(0, { kind: 'trash', path })];
  await journal.begin(change('first', trash('/root/data'), { createdMs: 1 }));
  await journal.setState('first', 'done');
  await journal.begin(change('second', trash('/root/data'), { createdMs: 2 }));
  await journal.setState('second', 'done');
  await journal.begin(change('third', trash('/root/other'), { createdMs: 3 }));
  await journal.setState('third', 'undone');
  const found = await journal.deletionsOf(['/root/data', '/root/other', '/root', ...Array.from({ length: 1200 }, (_, n) => `/x/${n}`)]);
  expect([...found]).toEqual([['/root/data', { id: 'second', title: 'second', createdMs: 2 }]]);
});
