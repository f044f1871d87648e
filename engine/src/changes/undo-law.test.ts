import { chmodSync, lstatSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { cp, writeFile } from 'node:fs/promises';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { join } from '../disk/native-path.js';
import { TestFolder } from '../../test/test-project.js';
import { seeded } from '../../test/rehearsal-world.js';
import { ModelTree, type Act } from '../../test/model-tree.js';
import { openStore } from '../store/open-store.js';
import { SqlJournal } from '../store/sql-journal.js';
import type { PlannedStep } from './change.js';
import { runChange } from './run-change.js';
import { planUndoing, undoChange } from './undo-change.js';

/**
 * Random changes of all kinds, taken back and done again in any order. The judge is a model that knows files as nodes with names
 * and shares no code with the journal: after each undo, the disk must hold what the changes leave that still stand, replayed.
 */
const SEQUENCES = Number(process.env['ROOTMAP_UNDO_SEQUENCES'] ?? 60);
const CHANGES = 20;
const UNDOS = 12;

const t = new TestFolder();
let store: DataSource;
let journal: SqlJournal;
beforeAll(async () => {
  store = await openStore(t.at('data'));
  journal = new SqlJournal(store);
});
afterAll(async () => {
  await store.destroy();
  t.remove();
});

/** Files with bytes and bits, walked plainly. */
function onDisk(folder: string, below = ''): Record<string, string> {
  const found: Record<string, string> = {};
  for (const name of readdirSync(join(folder, below))) {
    if (name === '.rootmap') continue;
    const path = below === '' ? name : `${below}/${name}`;
    const stat = lstatSync(join(folder, path));
    if (stat.isDirectory()) Object.assign(found, onDisk(folder, path));
    else found[path] = `${readFileSync(join(folder, path), 'utf8')} ${(stat.mode & 0o777).toString(8)}`;
  }
  return found;
}

interface Done {
  readonly id: string;
  readonly acts: readonly Act[];
}

/** The steps by which acts are carried out; writes come first, and name files as they are before the rest. */
interface Steps {
  readonly steps: PlannedStep[];
  /** Contents of files, and folders or files to copy, by where they are installed. */
  readonly staged: ReadonlyMap<string, string>;
  readonly trees: ReadonlyMap<string, string>;
}
function stepsOf(acts: readonly Act[], before: ModelTree, root: string): Steps {
  const tree = before.copy();
  const staged = new Map<string, string>();
  const trees = new Map<string, string>();
  const at = (path: string): string => join(root, path);
  const steps = acts.map((act): PlannedStep => {
    const from = 'node' in act ? tree.pathOf(act.node) : '';
    const old = act.act === 'write' ? tree.contentOf(act.node) : '';
    tree.apply(act);
    switch (act.act) {
      case 'write':
        return { kind: 'write', path: at(from), before: Buffer.from(old), after: Buffer.from(act.content) };
      case 'create': {
        const path = at(tree.pathOf(act.id));
        if (act.how === 'write') return { kind: 'write', path, before: null, after: Buffer.from(act.content) };
        staged.set(path, act.content);
        return { kind: 'install', path };
      }
      case 'copy':
        if (act.how === 'copy') return { kind: 'copy', from: at(tree.pathOf(act.from)), path: at(tree.pathOf(act.top)) };
        trees.set(at(tree.pathOf(act.top)), at(tree.pathOf(act.from)));
        return { kind: 'install', path: at(tree.pathOf(act.top)) };
      case 'folder':
        return { kind: 'folder', path: at(tree.pathOf(act.id)) };
      case 'move':
        return { kind: 'move', from: at(from), path: at(tree.pathOf(act.node)) };
      case 'trash':
        return { kind: 'trash', path: at(from), hash: null };
      case 'mode':
        return { kind: 'mode', path: at(from), mode: act.mode };
    }
  });
  return { steps, staged, trees };
}

test(`${SEQUENCES} sequences of ${CHANGES} changes, undone in any order and done again: every byte as the model says`, async () => {
  const told = { along: 0, alone: 0, redone: 0, needless: 0, kept: 0, kinds: new Set<string>() };
  for (let seed = 1; seed <= SEQUENCES; seed++) {
    const random = seeded(seed);
    const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)]!;
    const root = t.at(`w${seed}`);
    mkdirSync(root);
    const base = ModelTree.random(random);
    for (const [path, shown] of Object.entries(base.files())) {
      mkdirSync(join(root, path, '..'), { recursive: true });
      writeFileSync(join(root, path), shown.slice(0, -4));
      chmodSync(join(root, path), 0o644);
    }
    for (const folder of base.folders()) mkdirSync(join(root, folder), { recursive: true });
    const done: Done[] = [];
    const standing = new Set<string>();
    const replay = (without: ReadonlySet<string> = new Set()) => {
      const tree = base.copy();
      let problem: string | null = null;
      for (const { id, acts } of done)
        if (standing.has(id) && !without.has(id)) problem ??= tree.tryAll(acts);
        else tree.leave(acts);
      return { tree, problem };
    };
    const check = (what: string): void => {
      const { tree, problem } = replay();
      expect([seed, what, problem]).toEqual([seed, what, null]);
      expect([seed, what, onDisk(root)]).toEqual([seed, what, tree.files()]);
    };
    const undoOne = async (id: string, by: string, isRedo: boolean): Promise<void> => {
      const { parts, digest } = await planUndoing(by, journal);
      if (!isRedo) {
        const isAlone = parts.length === 1;
        const isInTheWay = replay(new Set([id])).problem !== null;
        expect([seed, id, isAlone && isInTheWay]).toEqual([seed, id, false]);
        if (!isAlone && !isInTheWay) told.needless++;
        told[isAlone ? 'alone' : 'along']++;
      } else told.redone++;
      // A folder that is there for what is in it, once that goes, makes a copied tree around it another: told, and left.
      const kept = parts.flatMap((p) => p.kept).filter((k) => k.why !== 'not-empty');
      expect([seed, id, kept.filter((k) => k.why !== 'edited')]).toEqual([seed, id, []]);
      if (kept.length > 0) return void told.kept++;
      const undone = await undoChange(by, 'test', { journal, program: 'test' }, { along: true, shown: digest });
      for (const { change } of undone.parts) {
        let first = change;
        let isBack = false;
        for (; first.undoes !== null; isBack = !isBack) first = (await journal.get(first.undoes))!;
        if (isBack) standing.add(first.id);
        else standing.delete(first.id);
      }
      check(`${isRedo ? 'redo' : 'undo'} ${id}`);
    };
    const step = async (): Promise<void> => {
      const { tree } = replay();
      const acts = tree.invent(random, `${seed}-${done.length}`);
      const { steps, staged, trees } = stepsOf(acts, tree, root);
      for (const s of steps) told.kinds.add(s.kind);
      const record = await runChange(
        { title: `Change ${done.length}`, kind: 'folders', root, who: 'test', steps },
        {
          journal,
          program: 'test',
          stage: (temp, target) =>
            trees.has(target) ? cp(trees.get(target)!, temp, { recursive: true }) : writeFile(temp, staged.get(target)!, { mode: 0o644 }),
        },
      );
      done.push({ id: record.id, acts });
      standing.add(record.id);
    };
    for (let i = 0; i < CHANGES; i++) await step();
    check('all');
    for (let i = 0; i < UNDOS; i++) {
      const undone = (await journal.list({ root, limit: 500 })).filter((c) => c.kind === 'undo' && c.state === 'done' && c.undoes !== null);
      const again = undone.filter((u) => done.some((d) => d.id === u.undoes) && !standing.has(u.undoes!));
      if (random() < 0.35 && again.length > 0) {
        const by = pick(again);
        await undoOne(by.undoes!, by.id, true);
      } else if (random() < 0.2) await step();
      else if (standing.size > 0) await undoOne(...([pick([...standing])].flatMap((id) => [id, id]) as [string, string]), false);
    }
    rmSync(root, { recursive: true, force: true });
  }
  expect(told.along).toBeGreaterThan(SEQUENCES);
  expect(told.alone).toBeGreaterThan(SEQUENCES);
  expect(told.redone).toBeGreaterThan(SEQUENCES);
  // A folder that was moved, and whose making is undone, may stay for what is in it.
  expect(told.needless / told.along).toBeLessThan(0.05);
  expect(told.kept / (told.along + told.redone)).toBeLessThan(0.01);
  expect([...told.kinds].sort()).toEqual(['copy', 'folder', 'install', 'mode', 'move', 'trash', 'write']);
}, 600_000);
