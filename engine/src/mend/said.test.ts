import { createHash } from 'node:crypto';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { expect, test } from '@jest/globals';
import { tellTrouble } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { DamageMaker } from '../../test/damage/damage-world.js';
import type { DamagedWorld } from '../../test/damage/world.js';
import { openPlace } from '../places/places.js';
import { planRemember } from '../project/remember.js';
import { findScope } from '../project/scope.js';
import { findPacked } from './packed.js';
import { explainBroken } from './plan-mend.js';

// What is said of broken layers, held against a plain walk of the disk: Node's own functions, `unzip`, and nothing of the app.

const SEEDS = [911, 912, 913, 914];
const SITUATIONS = 50;
const NOTHING_THERE = /^Nothing stands where it was recorded/;

const walk = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((e) => (e.isFile() ? [join(e.parentPath, e.name)] : []));
const sumOf = (path: string): string => createHash('sha256').update(readFileSync(path)).digest('hex');
/** Files of a dataset that make its content. */
const contentOf = (path: string): string => (path.endsWith('.shp') ? sumOf(path) + sumOf(path.replace(/shp$/, 'dbf')) : sumOf(path));
const fileOf = (path: string): string => path.replace(/#.*$/s, '');

async function said(folder: string, seed: number): Promise<{ situations: string[]; wrong: string[] }> {
  const maker = new DamageMaker(folder, seed, 60, seed % 2 === 0);
  const scopeOf = (w: Pick<DamagedWorld, 'places' | 'root'>) => findScope(w.root, { places: w.places.map(openPlace), root: w.root });
  const built = maker.build();
  for (const step of planRemember(scopeOf(built), 'test').change?.steps ?? [])
    if (step.kind === 'write') writeFileSync(step.path, step.after);
  const world = maker.damage();
  const work = explainBroken(scopeOf(world));
  const packed = await findPacked(work);
  const all = world.places.flatMap((p) => (existsSync(p.folder) ? walk(p.folder) : []));
  const situations = new Set<string>();
  const wrong: string[] = [];
  work.broken.forEach(({ broken, seen }, i) => {
    const proposal = work.proposals[i]!;
    const archives = (packed.get(broken.key) ?? []).map((p) => p.archive);
    const shift = proposal.shift === null ? null : work.shifts[proposal.shift]!.kind;
    const { code, sentence } = tellTrouble(seen.judgement, proposal, archives, 0, shift);
    const recorded = seen.judgement.resolved;
    situations.add(
      `${seed} ${code} ${proposal.verdict} ${recorded === null ? '' : fileOf(recorded).slice(0, fileOf(recorded).lastIndexOf('/'))}`,
    );
    const check = (claim: string, holds: boolean): void => void (holds || wrong.push(`${seed} ${broken.title}: ${claim} (${sentence})`));
    const best = work.view.layers.find((l) => l.key === broken.key)?.candidates[0];
    if (NOTHING_THERE.test(sentence))
      check('nothing is there', recorded === null || !existsSync(fileOf(recorded)) || recorded.includes('#'));
    if (best) check('the candidate is there', existsSync(fileOf(best.path)));
    if (code === 'place-absent')
      check(
        'the place is not here',
        recorded !== null && !world.places.some((p) => existsSync(p.folder) && recorded.startsWith(`${p.folder}/`)),
      );
    if (code === 'companion-lost') {
      const missing = ['shx', 'dbf'].filter((e) => !existsSync(recorded!.replace(/shp$/, e)));
      check('the file that is named is missing, and no other', missing.length > 0 && missing.every((e) => sentence.includes(`.${e}`)));
    }
    if (code === 'other-data' || code === 'damaged') check('something is there', existsSync(fileOf(recorded!)));
    if (code === 'still-packed') {
      const stem = fileOf(recorded!).replace(/^.*\/|\.\w+$/g, '');
      const members = archives.map((a) => execFileSync('python3', ['-m', 'zipfile', '-l', a], { encoding: 'utf8' }));
      check(
        'it is in each archive',
        members.every((list) => list.includes(stem)),
      );
    }
    if (code === 'gone') {
      const last = broken.fingerprint?.bytes ?? {};
      const equal = all.filter(
        (p) => p.endsWith('.shp') && readFileSync(p).length === last['.shp'] && p.endsWith(fileOf(recorded!).replace(/^.*\//, '/')),
      );
      check('no file of its name and size is anywhere', equal.length === 0);
    }
    const hashed = proposal.candidates.filter((c) => c.kinds.has('hash') && c.target.table === null);
    if (proposal.choice && hashed.length === proposal.choice.equal && best && !best.path.includes('#')) {
      const content = contentOf(best.path);
      const ending = best.path.slice(best.path.lastIndexOf('.'));
      const twins = all.filter(
        (p) => p.endsWith(ending) && (ending !== '.shp' || existsSync(p.replace(/shp$/, 'dbf'))) && contentOf(p) === content,
      );
      check(`${proposal.choice.equal} are equal`, twins.length === proposal.choice.equal);
    }
  });
  return { situations: [...situations], wrong };
}

test(`every sentence of ${SITUATIONS} made situations and more is so, as a plain walk of the disk finds`, async () => {
  const folder = mkdtempSync(join(tmpdir(), 'rootmap-said-'));
  try {
    const situations: string[] = [];
    for (const seed of SEEDS) {
      const found = await said(join(folder, String(seed)), seed);
      expect(found.wrong).toEqual([]);
      situations.push(...found.situations);
    }
    expect(situations.length).toBeGreaterThanOrEqual(SITUATIONS);
    // Most kinds of trouble are among them, or the walk says little.
    const kinds = new Set(situations.map((s) => s.split(' ')[1]));
    expect([...kinds].sort()).toEqual(
      expect.arrayContaining(['companion-lost', 'equal-copies', 'folder-moved', 'gone', 'other-data', 'renamed']),
    );
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
