import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { EXPLAINED } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import { Measure, type Proposed } from '../../test/damage/measure-mend.js';
import { DAMAGES, type DamagedWorld } from '../../test/damage/world.js';
import { openPlace } from '../places/places.js';
import { readMaps } from '../project/read-maps.js';
import { planRemember } from '../project/remember.js';
import { findScope, type Scope } from '../project/scope.js';
import { openIndex } from '../survey/sqlite-index.js';
import { findPacked } from './packed.js';
import { explainBroken, type ExplainOptions } from './plan-mend.js';
import { movesOnDisk, withObjects } from './seen-moves.js';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'rootmap-measured-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const scopeOf = ({ places, root }: Pick<DamagedWorld, 'places' | 'root'>): Scope =>
  findScope(root, { places: places.map(openPlace), root });
const propose = async (world: DamagedWorld, options: ExplainOptions = {}): Promise<Proposed[]> => {
  const work = explainBroken(scopeOf(world), [], options);
  const packed = await findPacked(work);
  // An archive is named where nothing that is proved to be the data is offered.
  const told = new Set(
    work.proposals.flatMap((p) => (EXPLAINED.includes(p.verdict) || p.candidates[0]?.kinds.has('hash') ? [p.layer] : [])),
  );
  const isTold = (key: string): boolean => told.has(key);
  return work.view.layers.map((l) => ({
    map: l.map,
    layer: l.layer,
    verdict: l.verdict,
    path: (isTold(l.key) ? null : packed.get(l.key)?.[0]?.archive) ?? l.candidates[0]?.path ?? null,
    searched: work.view.searched.folders,
  }));
};
const remember = (world: Pick<DamagedWorld, 'places' | 'root'>): void => {
  for (const step of planRemember(scopeOf(world), 'test').change?.steps ?? [])
    if (step.kind === 'write') writeFileSync(step.path, step.after);
};

/** The data of all layers that are sound, as the app sees it when a project is opened. */
const soundData = (world: Pick<DamagedWorld, 'places' | 'root'>) =>
  readMaps(scopeOf(world))
    .maps.flatMap((m) => m.layers)
    .filter((l) => l.judgement.state === 'sound' && l.judgement.resolved !== null)
    .map(({ judgement: j }) => ({ path: j.resolved!, table: j.table }));

/** Seeds that nothing was developed on; `npm run bench -- mend` runs more and larger worlds. */
const SEEDS = [901, 902, 903, 904, 905, 906];
const DATASETS = 60;

describe('measured on damaged worlds whose truth is known', () => {
  test('with fingerprints: at least 99.5 % of what can be told is right, and no certain is wrong', async () => {
    const measure = new Measure();
    for (const seed of SEEDS) await measure.run(join(folder, `full-${seed}`), seed, DATASETS, propose, remember);
    expect(measure.wrong).toEqual([]);
    const { cases, told, right, certain } = measure.total;
    expect(right / told).toBeGreaterThanOrEqual(0.995);
    expect(told / cases).toBeGreaterThanOrEqual(0.8);
    expect(certain / cases).toBeGreaterThan(0.7);
    expect([...measure.byDamage.keys()].filter((d) => DAMAGES.includes(d as never)).length).toBeGreaterThanOrEqual(12);
  });
  /** Downloads, backups and originals are kept, as is the ordinary case; the app saw the data where it was, or did not. */
  const kept = async (isWatched: boolean): Promise<Measure> => {
    const measure = new Measure();
    for (const seed of SEEDS.slice(0, 4)) {
      const where = join(folder, `kept-${seed}-${isWatched}`);
      const index = await openIndex(join(folder, `kept-${seed}-${isWatched}.sqlite`));
      const options: ExplainOptions = isWatched ? { movesSeen: (sought, reached) => movesOnDisk(sought, reached, index) } : {};
      const watch = (world: Pick<DamagedWorld, 'places' | 'root'>): void => {
        remember(world);
        index.noteSeen(withObjects(soundData(world)), Date.now());
      };
      await measure.run(where, seed, DATASETS, (world) => propose(world, options), watch, { keepsCopies: true, isWatched });
      await index.close();
    }
    return measure;
  };
  test('with copies kept: no certain is wrong, and what was seen where it was is told among them', async () => {
    const [blind, watched] = [await kept(false), await kept(true)];
    expect([...blind.wrong, ...watched.wrong].filter((w) => w.verdict === 'certain')).toEqual([]);
    for (const { total } of [blind, watched]) expect(total.right / total.told).toBeGreaterThanOrEqual(0.995);
    expect(watched.total.told).toBeGreaterThan(1.3 * blind.total.told);
    expect(watched.total.certain).toBeGreaterThan(1.3 * blind.total.certain);
  });
  test('without: at least 95 % of what keeps its name alone, and no certain is wrong', async () => {
    const measure = new Measure();
    for (const seed of SEEDS) await measure.run(join(folder, `bare-${seed}`), seed, DATASETS, propose);
    expect(measure.total.wrongCertain).toBe(0);
    expect(measure.total.right / measure.total.told).toBeGreaterThanOrEqual(0.95);
  });
  test('a judge that fails: proposals of a matcher that takes the first of equal copies for certain are found wrong', async () => {
    const measure = new Measure();
    const careless = async (world: DamagedWorld): Promise<Proposed[]> =>
      (await propose(world)).map((p) => (p.path === null ? p : { ...p, verdict: 'certain' }));
    for (const seed of SEEDS) await measure.run(join(folder, `careless-${seed}`), seed, DATASETS, careless, remember);
    expect(measure.total.wrongCertain).toBeGreaterThan(0);
  });
});
