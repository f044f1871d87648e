import { DamageMaker } from './damage-world.js';
import type { Case, DamagedWorld } from './world.js';

// Holds what a mend proposes against the truth of a damaged world. The proposals come in by a function: this file knows no matcher.

export interface Proposed {
  readonly map: string;
  readonly layer: string;
  readonly verdict: string;
  /** Path of the best candidate, `#table` behind it, or of the archive that it is said to be in; null: none. */
  readonly path: string | null;
  /** Folders that were looked through. */
  readonly searched: readonly string[];
}
export interface Tally {
  cases: number;
  /** Of them, those that can be told. */
  told: number;
  /** Of those that can be told: the best proposal is the truth. */
  right: number;
  certain: number;
  wrongCertain: number;
  /** Proposals that are likely or certain, and how many of them are the truth. */
  proposed: number;
  proposedRight: number;
}
export interface Wrong {
  readonly seed: number;
  readonly what: Case;
  readonly verdict: string;
  readonly path: string | null;
}
export class Measure {
  readonly byDamage = new Map<string, Tally>();
  /** Those that can be told and were told wrongly, and every wrong `certain`. */
  readonly wrong: Wrong[] = [];
  datasets = 0;

  /**
   * @param remember has the maps of the undamaged world remember their data; left out, they have no fingerprints, and a layer
   *   can be told where its dataset has its name still and nothing else is called so
   * @param around `keepsCopies`: downloads, backups and originals are kept; `isWatched`: `remember` also had the app look at what
   *   the data is on its disk, so that what was only moved can be told among its copies
   */
  async run(
    folder: string,
    seed: number,
    datasets: number,
    propose: (world: DamagedWorld) => Promise<readonly Proposed[]>,
    remember?: (world: Pick<DamagedWorld, 'places' | 'root'>) => void,
    { keepsCopies = false, isWatched = false } = {},
  ): Promise<void> {
    const maker = new DamageMaker(folder, seed, datasets, keepsCopies);
    const built = maker.build();
    remember?.(built);
    const world = maker.damage();
    this.datasets += world.datasets;
    const proposed = new Map((await propose(world)).map((p) => [`${p.map}\n${p.layer}`, p]));
    for (const what of world.cases) {
      const canBeTold = remember ? what.canBeTold || (isWatched && what.isSameObject) : what.isNamed;
      this.hold(seed, what, proposed.get(`${what.map}\n${what.layer}`), canBeTold, remember !== undefined);
    }
  }

  private hold(seed: number, what: Case, p: Proposed | undefined, canBeTold: boolean, isRemembered: boolean): void {
    const [verdict, path] = [p?.verdict ?? 'not listed', p?.path ?? null];
    const tally = this.byDamage.get(what.damage) ?? {
      cases: 0,
      told: 0,
      right: 0,
      certain: 0,
      wrongCertain: 0,
      proposed: 0,
      proposedRight: 0,
    };
    this.byDamage.set(what.damage, tally);
    const isRight = path !== null && path === what.truth;
    tally.cases++;
    if (canBeTold) tally.told++;
    if (canBeTold && isRight) tally.right++;
    if (verdict === 'certain') tally.certain++;
    // Without its twin nobody can say that it was this one; of twins that were not looked at nothing is said.
    const isTwinSeen = what.twins.some((twin) => p?.searched.some((folder) => twin.startsWith(`${folder}/`)));
    const isWrongCertain = verdict === 'certain' && (!isRight || (isRemembered && !canBeTold && isTwinSeen));
    if (isWrongCertain) tally.wrongCertain++;
    if (['certain', 'likely'].includes(verdict)) {
      tally.proposed++;
      if (isRight) tally.proposedRight++;
    }
    if (isWrongCertain || (canBeTold && !isRight)) this.wrong.push({ seed, what, verdict, path });
  }

  get total(): Tally {
    const sum = { cases: 0, told: 0, right: 0, certain: 0, wrongCertain: 0, proposed: 0, proposedRight: 0 };
    for (const t of this.byDamage.values()) for (const k of Object.keys(sum) as (keyof Tally)[]) sum[k] += t[k];
    return sum;
  }

  /** A line for each kind of damage, and one for all. */
  lines(): string[] {
    const share = (n: number, of: number): string => (of === 0 ? '–' : `${((100 * n) / of).toFixed(1)} %`);
    const line = (name: string, t: Tally): string =>
      `| ${name} | ${t.cases} | ${share(t.told, t.cases)} | ${share(t.right, t.told)} | ${share(t.proposedRight, t.proposed)} | ${share(t.certain, t.cases)} | ${t.wrongCertain} |`;
    return [
      '| damage | layers | can be told | of those right | precision | called certain | wrongly |',
      '|---|---|---|---|---|---|---|',
      ...[...this.byDamage].sort((a, b) => (a[0] < b[0] ? -1 : 1)).map(([name, t]) => line(name, t)),
      line('**all**', this.total),
    ];
  }
}
