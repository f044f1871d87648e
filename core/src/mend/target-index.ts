import { locationKey, type Location } from '../address/place.js';
import { bareName, fold, looseName } from './names.js';
import type { BrokenLayer, Target } from './types.js';

/** Above this, a name that common tells nothing, and scoring all would cost the more the less it tells. */
const MOST_BY_NAME = 200;

const push = (map: Map<string, Target[]>, key: string, target: Target): void => {
  const list = map.get(key);
  if (list) list.push(target);
  else map.set(key, [target]);
};

const contentKey = (count: number | null, extent: readonly number[] | null): string | null =>
  count === null || count === 0 || !extent ? null : `${count}|${extent.map((v) => v.toPrecision(8)).join(',')}`;

const looseKey = (l: Location): string => `${l.place}\n${l.segments.map(fold).join('/')}`;

/** Finds the datasets that could be a layer's: by address, name, spelling, hash, content. */
export class TargetIndex {
  private readonly at = new Map<string, Target[]>();
  /** By an address in which case does not count. */
  private readonly atLoosely = new Map<string, Target[]>();
  private readonly byName = new Map<string, Target[]>();
  private readonly byBareName = new Map<string, Target[]>();
  private readonly byHash = new Map<string, Target[]>();
  private readonly byContent = new Map<string, Target[]>();

  constructor(targets: readonly Target[]) {
    for (const t of targets) {
      push(this.at, locationKey(t.location), t);
      push(this.atLoosely, looseKey(t.location), t);
      const name = t.location.segments[t.location.segments.length - 1] ?? '';
      const names = t.table === null ? [name] : [name, `${t.table}.x`];
      for (const n of names) {
        push(this.byName, looseName(n), t);
        const bare = bareName(n);
        if (bare) push(this.byBareName, bare, t);
      }
      if (t.fingerprint.hash) push(this.byHash, t.fingerprint.hash, t);
      const key = contentKey(t.fingerprint.count, t.fingerprint.extent);
      if (key) push(this.byContent, key, t);
    }
  }

  /** The dataset at this address, or the only one at it in another case; for a container the table of that name, or the only one. */
  find(location: Location, table: string | null): Target | null {
    const there = this.at.get(locationKey(location)) ?? this.atLoosely.get(looseKey(location));
    if (!there || new Set(there.map((t) => locationKey(t.location))).size > 1) return null;
    if (table === null) return there[0]!.table === null || there.length === 1 ? there[0]! : null;
    return there.find((t) => t.table === table) ?? (there.length === 1 && there[0]!.table === null ? there[0]! : null);
  }

  hashTwins(hash: string): number {
    return this.byHash.get(hash)?.length ?? 0;
  }

  possible(layer: BrokenLayer): Target[] {
    const found = new Set<Target>();
    const take = (list: readonly Target[] | undefined): void => {
      if (list && list.length <= MOST_BY_NAME) list.forEach((t) => found.add(t));
    };
    const name = layer.recorded?.segments[layer.recorded.segments.length - 1];
    if (name !== undefined) {
      take(this.byName.get(looseName(name)));
      const bare = bareName(name);
      if (bare) {
        take(this.byBareName.get(bare));
        take(this.byName.get(bare));
      }
      take(this.byBareName.get(looseName(name)));
    }
    if (layer.table !== null) take(this.byName.get(looseName(`${layer.table}.x`)));
    const print = layer.fingerprint;
    if (print?.hash) take(this.byHash.get(print.hash));
    const key = print && contentKey(print.count, print.extent);
    if (key) take(this.byContent.get(key));
    if (layer.throughLink) take(this.at.get(locationKey(layer.throughLink)));
    return [...found];
  }
}
