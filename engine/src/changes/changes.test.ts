import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { ProblemError } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { choicesOf } from '../mend/choose.js';
import { explainBroken, planMend } from '../mend/plan-mend.js';
import { readMaps } from '../project/read-maps.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import { TestFolder } from '../../test/test-project.js';
import type { PlannedChange } from './change.js';
import { ChangeDisk } from './disk.js';
import { recoverChanges } from './recover.js';
import { runChange, StopHere } from './run-change.js';
import { planUndoing, undoChange } from './undo-change.js';

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

const MAPS = 20;
/** A project of 20 maps whose data folder was renamed; the change that mends them all. */
function brokenProject(): { change: PlannedChange; before: Map<string, string>; after: Map<string, string> } {
  t.shapefile('point', 'p/old/point');
  t.shapefile('polygon', 'p/old/polygon');
  t.shapefile('point', 'p/old/buoys');
  for (let i = 0; i < MAPS; i++) t.map(`p/maps/m${i}.owc.json`, ['../old/point.shp', '../old/polygon.shp', '../old/buoys.shp']);
  renameSync(t.at('p/old'), t.at('p/new'));
  const work = explainBroken(t.scope('p'));
  const change = planMend(work, choicesOf(work, 'certain'), 'test')!;
  const before = contents();
  const after = new Map([...before].map(([f, text]) => [f, text.replaceAll('"../old/', '"../new/')]));
  return { change, before, after };
}
const contents = (): Map<string, string> =>
  new Map(
    readdirSync(t.at('p/maps'))
      .sort()
      .map((f) => [f, readFileSync(t.at('p/maps', f), 'utf8')]),
  );
const options = (disk = new ChangeDisk()) => ({ journal, disk, program: 'test' });
/** As if the process had ended: its changes belong to nobody any more. */
const ownerDies = () =>
  store.query('UPDATE "change" SET "owner" = ?', [
    JSON.stringify({ pid: 2 ** 22 + 1, startTime: '1', bootId: 'another', program: 'gone' }),
  ]);

test('a mend of 20 maps is one change; one undo puts every byte back', async () => {
  const { change, before, after } = brokenProject();
  expect(change.title).toBe('Mend 60 layers in 20 maps');
  const done = await runChange(change, options());
  expect(contents()).toEqual(after);
  expect(
    readMaps(t.scope('p'))
      .maps.flatMap((m) => m.layers)
      .every((l) => l.judgement.state === 'sound'),
  ).toBe(true);
  const undone = await undoChange(done.id, 'test', options());
  expect(undone.kept).toEqual([]);
  expect(contents()).toEqual(before);
  expect((await journal.get(done.id))!.state).toBe('undone');
});

describe('stopped before any step', () => {
  test('start-up leaves every file old or new, all of them alike, and no litter', async () => {
    const { change, before, after } = brokenProject();
    let steps = 0;
    await runChange(change, options(new ChangeDisk(() => void steps++)));
    for (const [f, text] of before) writeFileSync(t.at('p/maps', f), text);
    expect(steps).toBeGreaterThan(MAPS * 5);
    const outcomes = new Set<string>();
    for (let stop = 0; stop < steps; stop++) {
      const disk = new ChangeDisk((n) => {
        if (n === stop) throw new StopHere();
      });
      await expect(runChange(change, options(disk))).rejects.toBeInstanceOf(StopHere);
      await ownerDies();
      const recovered = await recoverChanges(journal);
      expect(recovered).toHaveLength(1);
      outcomes.add(recovered[0]!.outcome);
      expect(contents()).toEqual(recovered[0]!.outcome === 'finished' ? after : before);
      for (const [f, text] of before) writeFileSync(t.at('p/maps', f), text);
    }
    expect(outcomes).toEqual(new Set(['taken-back', 'finished']));
  }, 300_000);

  test('a recovery that is itself stopped is taken up again', async () => {
    const { change, before, after } = brokenProject();
    const at = MAPS * 5;
    await expect(
      runChange(
        change,
        options(
          new ChangeDisk((n) => {
            if (n === at) throw new StopHere();
          }),
        ),
      ),
    ).rejects.toBeInstanceOf(StopHere);
    await ownerDies();
    for (let stop = 0; stop < 40; stop += 7)
      await recoverChanges(
        journal,
        new ChangeDisk((n) => {
          if (n === stop) throw new StopHere();
        }),
      ).catch(() => undefined);
    await recoverChanges(journal);
    const now = contents();
    expect([before, after]).toContainEqual(now);
  });
});

describe('failures of the disk at every step', () => {
  test.each(['ENOSPC', 'EACCES', 'EIO', 'EBUSY'])(
    '%s: a sentence, and every file as it was',
    async (code) => {
      const { change, before } = brokenProject();
      let steps = 0;
      const small: PlannedChange = { ...change, steps: change.steps.slice(0, 3) };
      const done = await runChange(small, options(new ChangeDisk(() => void steps++)));
      await undoChange(done.id, 'test', options());
      for (let at = 0; at < steps; at++) {
        let failed = false;
        const disk = new ChangeDisk((n, what, path) => {
          if (n !== at || failed) return;
          failed = true;
          throw Object.assign(new Error(code), { code, syscall: what, path });
        });
        const error = await runChange(small, options(disk)).then(
          () => null,
          (e: unknown) => e,
        );
        expect(error).toBeInstanceOf(ProblemError);
        expect((error as ProblemError).message).toMatch(/\.$/);
        expect(contents()).toEqual(before);
      }
      expect(await journal.unfinished()).toEqual([]);
    },
    120_000,
  );
});

describe('others at work', () => {
  test('a file changed since it was read is not overwritten, and nothing else is', async () => {
    const { change, before } = brokenProject();
    writeFileSync(t.at('p/maps/m7.owc.json'), '{"edited":true}');
    await expect(runChange(change, options())).rejects.toMatchObject({ problem: { code: 'changed-meanwhile' } });
    expect(contents()).toEqual(new Map(before).set('m7.owc.json', '{"edited":true}'));
  });
  test('changed between the preparing and the rename: the same', async () => {
    const { change, before } = brokenProject();
    const disk = new ChangeDisk((_, what, path) => {
      if (what === 'rename' && path.endsWith('m5.owc.json')) throw Object.assign(new Error('EIO'), { code: 'EIO', syscall: 'rename' });
    });
    await expect(runChange(change, options(disk))).rejects.toMatchObject({ problem: { code: 'io' } });
    expect(contents()).toEqual(before);
  });
  test('a root that is being changed is locked, and the lock is told', async () => {
    const { change } = brokenProject();
    let second: unknown;
    const disk = new ChangeDisk((_n, what) => {
      if (what !== 'rename' || second) return;
      second = runChange(change, options()).catch((e: unknown) => e);
    });
    await runChange(change, options(disk));
    expect(await second).toMatchObject({ problem: { code: 'locked' } });
  });
  test('what is still being done is never undone, and never recovered while its process lives', async () => {
    const { change } = brokenProject();
    const seen: unknown[] = [];
    let id = '';
    let asked = false;
    const disk = new ChangeDisk((_n, what) => {
      if (what !== 'rename' || asked) return;
      asked = true;
      seen.push(
        recoverChanges(journal),
        journal.unfinished().then(async ([running]) => {
          id = running!.id;
          return undoChange(id, 'test', options()).catch((e: unknown) => e);
        }),
      );
    });
    await runChange(change, options(disk));
    const [recovered, undone] = await Promise.all(seen);
    expect(recovered).toEqual([]);
    expect((undone as { problem?: unknown }).problem ?? undone).toMatchObject({ code: 'cannot-undo' });
  });
  test('undo leaves what was edited since, names it, and undoes the rest', async () => {
    const { change, before, after } = brokenProject();
    const done = await runChange(change, options());
    writeFileSync(t.at('p/maps/m3.owc.json'), 'edited');
    const undone = await undoChange(done.id, 'test', options());
    expect(undone.kept).toEqual([{ path: t.at('p/maps/m3.owc.json'), why: 'edited' }]);
    expect(contents()).toEqual(new Map(before).set('m3.owc.json', 'edited'));
    expect(after.get('m3.owc.json')).not.toBe('edited');
    await expect(undoChange(done.id, 'test', options())).rejects.toMatchObject({ problem: { code: 'cannot-undo' } });
  });
});

test('a new file that is undone goes to the trash, not away', async () => {
  mkdirSync(t.at('q'));
  const path = t.at('q/new.txt');
  const done = await runChange(
    { title: 'New', kind: 'new', root: t.at('q'), who: 'test', steps: [{ kind: 'write', path, before: null, after: Buffer.from('x') }] },
    options(),
  );
  await undoChange(done.id, 'test', options());
  expect(existsSync(path)).toBe(false);
  const kept = readdirSync(t.at('q/.rootmap/trash'), { recursive: true }).map(String);
  expect(kept.some((f) => f.endsWith('new.txt'))).toBe(true);
  await expect(
    runChange(
      {
        title: 'Again',
        kind: 'new',
        root: t.at('q'),
        who: 'test',
        steps: [{ kind: 'write', path: join(t.at('q'), '.rootmap'), before: null, after: Buffer.from('') }],
      },
      options(),
    ),
  ).rejects.toBeInstanceOf(ProblemError);
});

describe('a folder that was installed as a whole', () => {
  const made = async () => {
    mkdirSync(t.at('p'));
    return runChange(
      { title: 'Bring in', kind: 'intake', root: t.at('p'), who: 'test', steps: [{ kind: 'install', path: t.at('p/in') }] },
      {
        ...options(),
        stage: async (temp) => {
          await mkdir(join(temp, 'deep', 'empty'), { recursive: true });
          for (const name of ['a.csv', 'b.csv', 'deep/c.csv', 'deep/d.csv']) await writeFile(join(temp, name), name);
        },
      },
    );
  };
  const there = (): string[] =>
    existsSync(t.at('p/in'))
      ? readdirSync(t.at('p/in'), { recursive: true })
          .map((f) => String(f).replaceAll('\\', '/'))
          .sort()
      : [];

  test('goes as a whole where it is as it was', async () => {
    const change = await made();
    const plan = await planUndoing(change.id, journal);
    expect(plan.parts[0]!.back).toEqual([{ path: t.at('p/in'), what: 'removed' }]);
    await undoChange(change.id, 'test', options());
    expect(there()).toEqual([]);
  });

  test('what was put there, edited and taken away since stays, and is told; the rest goes, and comes back', async () => {
    const change = await made();
    writeFileSync(t.at('p/in/deep/notes.txt'), 'mine');
    writeFileSync(t.at('p/in/a.csv'), 'other');
    rmSync(t.at('p/in/b.csv'));
    const { parts, digest } = await planUndoing(change.id, journal);
    expect(parts[0]!.back.map((b) => b.path).sort()).toEqual(['p/in/deep/c.csv', 'p/in/deep/d.csv', 'p/in/deep/empty'].map((p) => t.at(p)));
    expect(new Map(parts[0]!.kept.map((k) => [k.path, k.why]))).toEqual(
      new Map([
        [t.at('p/in/a.csv'), 'edited'],
        [t.at('p/in/b.csv'), 'gone'],
        [t.at('p/in/deep'), 'not-empty'],
        [t.at('p/in'), 'not-empty'],
      ]),
    );
    const undone = await undoChange(change.id, 'test', options(), { shown: digest });
    expect(there()).toEqual(['a.csv', 'deep', 'deep/notes.txt']);
    await undoChange(undone.change!.id, 'test', options());
    expect(there()).toEqual(['a.csv', 'deep', 'deep/c.csv', 'deep/d.csv', 'deep/empty', 'deep/notes.txt']);
  });

  test('done again, it is held against what it was then: what was put there since stays', async () => {
    const change = await made();
    const all = there();
    let undone = await undoChange(change.id, 'test', options());
    let redone = await undoChange(undone.change!.id, 'test', options());
    expect(there()).toEqual(all);
    undone = await undoChange(redone.change!.id, 'test', options());
    expect(there()).toEqual([]); // nothing came in: as a whole
    redone = await undoChange(undone.change!.id, 'test', options());
    writeFileSync(t.at('p/in/deep/notes.txt'), 'mine');
    writeFileSync(t.at('p/in/a.csv'), 'other');
    undone = await undoChange(redone.change!.id, 'test', options());
    expect(there()).toEqual(['a.csv', 'deep', 'deep/notes.txt']);
    await undoChange(undone.change!.id, 'test', options());
    expect(there()).toEqual([...all, 'deep/notes.txt'].sort());
    expect(readFileSync(t.at('p/in/a.csv'), 'utf8')).toBe('other');
  });
});

test('a file that a change made and protected is taken away by its undo, and nothing is said to stay', async () => {
  mkdirSync(t.at('q'));
  const path = t.at('q/x.prj');
  const steps: PlannedChange['steps'] = [
    { kind: 'write', path, before: null, after: Buffer.from('x') },
    { kind: 'mode', path, mode: 0o444 },
  ];
  const done = await runChange({ title: 'New', kind: 'new', root: t.at('q'), who: 'test', steps }, options());
  const undone = await undoChange(done.id, 'test', options());
  expect(undone.kept).toEqual([]);
  expect(existsSync(path)).toBe(false);
});

describe('later changes', () => {
  const write = (name: string, before: string | null, after: string): PlannedChange => ({
    title: `Write ${name}: ${after}`,
    kind: 'save',
    root: t.at('p'),
    who: 'test',
    steps: [{ kind: 'write', path: t.at('p', name), before: before === null ? null : Buffer.from(before), after: Buffer.from(after) }],
  });
  const text = (name: string): string => readFileSync(t.at('p', name), 'utf8');

  test('what stands on a change keeps it, unless it is undone along; what does not is left alone', async () => {
    mkdirSync(t.at('p'));
    const first = await runChange(write('a', null, '1'), options());
    await runChange(write('b', null, 'other'), options());
    await runChange(write('a', '1', '2'), options());
    await expect(undoChange(first.id, 'test', options())).rejects.toMatchObject({
      message: expect.stringContaining('a later change stands on it ("Write a: 2"), and can be undone along with it'),
    });
    expect(text('a')).toBe('2');
    const { parts } = await undoChange(first.id, 'test', options(), { along: true });
    expect(parts.map((p) => p.change.title)).toEqual(['Write a: 2', 'Write a: 1']);
    expect([existsSync(t.at('p/a')), text('b')]).toEqual([false, 'other']);
  });

  test('an undo is a change that can be undone: then the change is done again, and so on', async () => {
    mkdirSync(t.at('p'));
    writeFileSync(t.at('p/a'), '0');
    const done = await runChange(write('a', '0', '1'), options());
    const states = async () => [text('a'), (await journal.get(done.id))!.state];
    const undone = await undoChange(done.id, 'test', options());
    expect(await states()).toEqual(['0', 'undone']);
    const again = await undoChange(undone.change!.id, 'test', options());
    expect(again.change!.title).toBe('Redo: Write a: 1');
    expect(await states()).toEqual(['1', 'done']);
    await expect(undoChange(undone.change!.id, 'test', options())).rejects.toMatchObject({ problem: { code: 'cannot-undo' } });
    await undoChange(done.id, 'test', options());
    expect(await states()).toEqual(['0', 'undone']);
  });

  test('nothing else is done than was shown', async () => {
    mkdirSync(t.at('p'));
    writeFileSync(t.at('p/a'), '0');
    const done = await runChange(write('a', '0', '1'), options());
    const { digest } = await planUndoing(done.id, journal);
    expect((await planUndoing(done.id, journal)).digest).toBe(digest);
    writeFileSync(t.at('p/a'), 'edited');
    await expect(undoChange(done.id, 'test', options(), { shown: digest })).rejects.toMatchObject({
      message: expect.stringContaining('something else now than what was shown'),
    });
    expect(text('a')).toBe('edited');
  });

  test('where one of several cannot be undone, those before it are done again', async () => {
    mkdirSync(t.at('p'));
    const first = await runChange(write('a', null, '1'), options());
    await runChange(write('a', '1', '2'), options());
    let renames = 0;
    const disk = new ChangeDisk((_, what) => {
      if (what === 'rename' && ++renames === 2) throw Object.assign(new Error('EIO'), { code: 'EIO', syscall: 'rename' });
    });
    await expect(undoChange(first.id, 'test', options(disk), { along: true })).rejects.toMatchObject({ problem: { code: 'io' } });
    expect(text('a')).toBe('2');
    expect((await journal.list({ kind: 'save', limit: 9 })).map((c) => c.state)).toEqual(['done', 'done']);
  });

  test('a project file: all that was done in the project stands on it', async () => {
    mkdirSync(t.at('p'));
    const made = await runChange(write('x.rootmap.json', null, '{}'), options());
    await runChange(write('later', null, 'later'), options());
    expect((await planUndoing(made.id, journal)).parts.map((p) => p.change.title)).toEqual([
      'Write later: later',
      'Write x.rootmap.json: {}',
    ]);
  });
});
