import type { Location } from '../address/place.js';
import { heldIn, holderKey, noteName, type Held } from './holders.js';
import type { TargetIndex } from './target-index.js';
import type { BrokenLayer, MendSurroundings, Standing, Target } from './types.js';

const WEIGHTS: Readonly<Record<keyof Standing, number>> = { isForWork: 8, isInProject: 4, isNextToOld: 2, isAmongSiblings: 1 };
const REASONS: Readonly<Record<keyof Standing, string>> = {
  isForWork: 'it stands where work is done, not among downloads, backups or originals',
  isInProject: 'it is in the project',
  isNextToOld: 'its folder stands beside the old one',
  isAmongSiblings: 'what was recorded beside it stands beside it here, too',
};
const FACTS = Object.keys(WEIGHTS) as (keyof Standing)[];

export const standingPoints = (s: Standing): number => FACTS.reduce((sum, fact) => sum + (s[fact] ? WEIGHTS[fact] : 0), 0);

/** What speaks for the one and not for the other, the weightiest first. */
export const reasonsFor = (better: Standing, other: Standing): string[] =>
  FACTS.filter((fact) => better[fact] && !other[fact]).map((fact) => REASONS[fact]);

/** Names of folders where copies are left behind. Common practice, no source. */
const LEFT_BEHIND = /^(downloads?|incoming|inbox|arrivals?|backups?|bak|tmp|trash)(\d+|[ _.-].*)?$/i;

/** Whether data there is rather a copy that was left than what a map uses: a guess by the names of its folders. */
export const isLeftCopy = (layer: BrokenLayer, { location }: Target): boolean =>
  isLeftBehind(location.segments) && !(layer.recorded && isLeftBehind(layer.recorded.segments));
const isLeftBehind = (segments: readonly string[]): boolean => segments.slice(0, -1).some((s) => LEFT_BEHIND.test(s));

/** An original, where the layer drew what was made of originals. */
function isOriginalInstead({ recorded }: BrokenLayer, { location }: Target, { roleOf }: MendSurroundings): boolean {
  if (!recorded || roleOf({ space: location.place, segments: location.segments }) !== 'originals') return false;
  const before = roleOf(recorded);
  return before !== null && before !== 'originals';
}

const isBelow = (outer: Location, { location }: Target): boolean =>
  outer.place === location.place && outer.segments.every((s, i) => s === location.segments[i]);

/** Tells of the datasets in reach how they stand to the layers; what that takes is gathered when it is first asked for. */
export class Standings {
  private recorded: Map<string, Set<string>> | null = null;

  constructor(
    private readonly layers: readonly BrokenLayer[],
    private readonly index: TargetIndex,
    private readonly around: MendSurroundings,
  ) {}

  of(layer: BrokenLayer, target: Target): Standing {
    const { place, segments } = target.location;
    const found = heldIn(segments, target.table);
    const old = layer.recorded && heldIn(layer.recorded.segments, layer.table);
    const isSameSpace = layer.recorded?.space === place;
    const key = (holder: readonly string[]): string => holderKey(place, holder);
    return {
      isForWork: !isLeftCopy(layer, target) && !isOriginalInstead(layer, target, this.around),
      isInProject: this.around.project.some((folder) => isBelow(folder, target)),
      isNextToOld:
        old !== null &&
        isSameSpace &&
        (key(old.holder) === key(found.holder) || key(old.holder.slice(0, -1)) === key(found.holder.slice(0, -1))),
      isAmongSiblings: old !== null && this.hasSiblings(layer.recorded!.space, old, place, found.holder),
    };
  }

  private hasSiblings(space: string, old: Held, place: string, holder: readonly string[]): boolean {
    const siblings = [...(this.recordedIn().get(holderKey(space, old.holder)) ?? [])].filter((name) => name !== old.name);
    if (siblings.length === 0) return false;
    const here = this.index.namesIn(holderKey(place, holder));
    return 2 * siblings.filter((name) => here.has(name)).length >= siblings.length;
  }

  private recordedIn(): Map<string, Set<string>> {
    if (!this.recorded) {
      this.recorded = new Map();
      for (const { recorded, table } of this.layers) {
        if (!recorded) continue;
        const { holder, name } = heldIn(recorded.segments, table);
        noteName(this.recorded, holderKey(recorded.space, holder), name);
      }
    }
    return this.recorded;
  }
}
