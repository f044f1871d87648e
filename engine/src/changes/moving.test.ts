import { chmodSync, lstatSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { join } from '../disk/native-path.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import type { PlannedChange, PlannedStep } from './change.js';
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

const options = (disk = new ChangeDisk()) => ({ journal, disk, program: 'test' });
const ownerDies = () =>
  store.query('UPDATE "change" SET "owner" = ?', [
    JSON.stringify({ pid: 2 ** 22 + 1, startTime: '1', bootId: 'another', program: 'gone' }),
  ]);

/** Every file below p with its content and bits, without the trash. */
function tree(): Record<string, string> {
  const found: Record<string, string> = {};
  const visit = (folder: string, shown: string): void => {
    for (const name of readdirSync(folder)) {
      if (name === '.rootmap') continue;
      const path = join(folder, name);
      const stat = lstatSync(path);
      if (stat.isDirectory()) {
        found[`${shown}${name}/`] = '';
        visit(path, `${shown}${name}/`);
      } else found[shown + name] = `${readFileSync(path, 'utf8')} ${(stat.mode & 0o777).toString(8)}`;
    }
  };
  visit(t.at('p'), '');
  return found;
}

function lay(): void {
  rmSync(t.at('p'), { recursive: true, force: true });
  mkdirSync(t.at('p/old/sub'), { recursive: true });
  mkdirSync(t.at('p/away'), { recursive: true });
  for (const [name, text] of [
    ['map.json', 'old map'],
    ['old/a.txt', 'A'],
    ['old/b.txt', 'B'],
    ['old/sub/c.txt', 'C'],
    ['old/gone.txt', 'G'],
    ['away/deep.txt', 'D'],
  ] as const)
    writeFileSync(t.at('p', name), text);
}

/** A map rewritten and moved with its folder, a chain of names (b → c after a → b would not do), a copy, a trash, protected bits. */
const STEPS = (): PlannedStep[] => [
  { kind: 'write', path: t.at('p/map.json'), before: Buffer.from('old map'), after: Buffer.from('new map') },
  { kind: 'write', path: t.at('p/note.txt'), before: null, after: Buffer.from('note') },
  { kind: 'folder', path: t.at('p/new') },
  { kind: 'folder', path: t.at('p/new/maps') },
  { kind: 'copy', from: t.at('p/away'), path: t.at('p/new/copied') },
  { kind: 'move', from: t.at('p/old/b.txt'), path: t.at('p/old/spare.txt') },
  { kind: 'move', from: t.at('p/old/a.txt'), path: t.at('p/old/b.txt') },
  { kind: 'move', from: t.at('p/old/spare.txt'), path: t.at('p/old/a.txt') },
  { kind: 'trash', path: t.at('p/old/gone.txt'), hash: null },
  { kind: 'move', from: t.at('p/old'), path: t.at('p/new/data') },
  { kind: 'move', from: t.at('p/map.json'), path: t.at('p/new/maps/map.json') },
  { kind: 'mode', path: t.at('p/new/data/sub/c.txt'), mode: 0o444 },
];
const change = (): PlannedChange => ({ title: 'Tidy up', kind: 'move', root: t.at('p'), who: 'test', steps: STEPS() });
const AFTER = {
  'note.txt': 'note 644',
  'away/': '',
  'away/deep.txt': 'D 644',
  'new/': '',
  'new/maps/': '',
  'new/maps/map.json': 'new map 644',
  'new/copied/': '',
  'new/copied/deep.txt': 'D 644',
  'new/data/': '',
  'new/data/a.txt': 'B 644',
  'new/data/b.txt': 'A 644',
  'new/data/sub/': '',
  'new/data/sub/c.txt': 'C 444',
};

test('moves, copies, folders, bits and a trash are one change, and one undo takes all of it back', async () => {
  lay();
  const before = tree();
  const times = statSync(t.at('p/away/deep.txt')).mtimeMs;
  const done = await runChange(change(), options());
  expect(tree()).toEqual(AFTER);
  expect(statSync(t.at('p/new/copied/deep.txt')).mtimeMs).toBeCloseTo(times, -1);
  const undone = await undoChange(done.id, 'test', options());
  expect(undone.kept).toEqual([]);
  expect(tree()).toEqual(before);
});

test('undo brings edited files back to their place as they are now, and keeps an edited copy', async () => {
  lay();
  const done = await runChange(change(), options());
  writeFileSync(t.at('p/new/data/a.txt'), 'edited B');
  writeFileSync(t.at('p/new/copied/deep.txt'), 'edited D');
  writeFileSync(t.at('p/new/maps/map.json'), 'edited map');
  const undone = await undoChange(done.id, 'test', options());
  expect(undone.kept).toEqual([
    { path: t.at('p/new/copied'), why: 'edited' },
    { path: t.at('p/new'), why: 'not-empty' },
    { path: t.at('p/new/maps/map.json'), why: 'edited' },
  ]);
  const now = tree();
  expect(now['old/b.txt']).toBe('edited B 644');
  expect(now['old/a.txt']).toBe('A 644');
  expect(now['map.json']).toBe('edited map 644');
  expect(now['new/copied/deep.txt']).toBe('edited D 644');
});

describe('stopped before any step', () => {
  test('start-up leaves the tree old or new, as a whole', async () => {
    lay();
    const before = tree();
    let steps = 0;
    await runChange(change(), options(new ChangeDisk(() => void steps++)));
    const outcomes = new Set<string>();
    for (let stop = 0; stop < steps; stop++) {
      lay();
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      await expect(runChange(change(), options(disk))).rejects.toBeInstanceOf(StopHere);
      await ownerDies();
      const [recovered] = await recoverChanges(journal);
      outcomes.add(recovered!.outcome);
      expect([stop, tree()]).toEqual([stop, recovered!.outcome === 'finished' ? AFTER : before]);
      expect(recovered!.left).toEqual([]);
    }
    expect(outcomes).toEqual(new Set(['taken-back', 'finished']));
  }, 120_000);

  test('a failure whose taking back is stopped is taken back at the next start', async () => {
    lay();
    const before = tree();
    let failing = -1;
    const count = new ChangeDisk((n, what) => {
      if (what === 'set mode') failing = n;
    });
    await runChange(change(), options(count));
    let reached = 0;
    for (let stop = failing + 1; stop < failing + 60; stop++) {
      lay();
      const disk = new ChangeDisk((n, what, path) => {
        if (n === failing) throw Object.assign(new Error('EIO'), { code: 'EIO', syscall: what, path });
        if (n === stop) throw new StopHere();
      });
      const error = await runChange(change(), options(disk)).catch((e: unknown) => e);
      if (!(error instanceof StopHere)) break; // the taking back was over before
      reached++;
      await ownerDies();
      const [recovered] = await recoverChanges(journal);
      expect(recovered!.outcome).toBe('taken-back');
      expect([stop, tree()]).toEqual([stop, before]);
    }
    expect(reached).toBeGreaterThan(10);
  }, 120_000);
});

test.each(['ENOSPC', 'EACCES', 'EIO', 'EBUSY'])(
  '%s at every step: a sentence, and everything as it was',
  async (code) => {
    lay();
    const before = tree();
    let steps = 0;
    await runChange(change(), options(new ChangeDisk(() => void steps++)));
    for (let at = 0; at < steps; at++) {
      lay();
      let failed = false;
      const disk = new ChangeDisk((n, what, path) => {
        if (n !== at || failed) return;
        failed = true;
        throw Object.assign(new Error(code), { code, syscall: what, path });
      });
      await expect(runChange(change(), options(disk))).rejects.toMatchObject({ problem: { code: expect.any(String) as unknown } });
      expect([at, tree()]).toEqual([at, before]);
    }
  },
  120_000,
);

describe('what is in the way', () => {
  test('a target that exists is not overwritten, and nothing has moved', async () => {
    lay();
    writeFileSync(t.at('p/taken.txt'), 'mine');
    const before = tree();
    const steps: PlannedStep[] = [
      { kind: 'move', from: t.at('p/old/a.txt'), path: t.at('p/free.txt') },
      { kind: 'move', from: t.at('p/old/b.txt'), path: t.at('p/taken.txt') },
    ];
    await expect(runChange({ ...change(), steps }, options())).rejects.toMatchObject({ problem: { code: 'exists' } });
    expect(tree()).toEqual(before);
  });
  test('a source that someone replaced meanwhile is left alone', async () => {
    lay();
    const steps: PlannedStep[] = [{ kind: 'move', from: t.at('p/old/a.txt'), path: t.at('p/free.txt') }];
    const disk = new ChangeDisk((_n, what) => {
      if (what !== 'rename') return;
      throw Object.assign(new Error('EBUSY'), { code: 'EBUSY', syscall: 'rename' });
    });
    await expect(runChange({ ...change(), steps }, options(disk))).rejects.toMatchObject({ problem: { code: 'busy' } });
    expect(readFileSync(t.at('p/old/a.txt'), 'utf8')).toBe('A');
  });
  test('cancelled while it copies: nothing is left of it', async () => {
    lay();
    const before = tree();
    const cancel = new AbortController();
    const run = runChange(change(), { ...options(), signal: cancel.signal, onCopied: () => cancel.abort() });
    await expect(run).rejects.toMatchObject({ problem: { code: 'cancelled' } });
    expect(tree()).toEqual(before);
  });
  test('a change that writes in two roots locks both', async () => {
    lay();
    let second: unknown;
    const disk = new ChangeDisk((_n, what) => {
      if (what !== 'rename' || second) return;
      second = runChange({ ...change(), root: t.at('q'), steps: [] }, options()).catch((e: unknown) => e);
    });
    await runChange({ ...change(), otherRoots: [t.at('q')] }, options(disk));
    expect(await second).toMatchObject({ problem: { code: 'locked' } });
  });
});

test('protected bits do not hinder the undo', async () => {
  lay();
  chmodSync(t.at('p/old/a.txt'), 0o600);
  const steps: PlannedStep[] = [{ kind: 'mode', path: t.at('p/old/a.txt'), mode: 0o444 }];
  const done = await runChange({ ...change(), steps }, options());
  expect(statSync(t.at('p/old/a.txt')).mode & 0o777).toBe(0o444);
  await undoChange(done.id, 'test', options());
  expect(statSync(t.at('p/old/a.txt')).mode & 0o777).toBe(0o600);
});
