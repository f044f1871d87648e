import { normalName } from '../address/address.js';
import { bareName, fold, looseName } from './names.js';
import { namesByHolder } from './holders.js';
import { trailKey } from './trail.js';
import type { BrokenLayer, Target } from './types.js';

/** A name that is more common than this tells nothing without the folder around it. */
const MOST_BY_NAME = 40;

const push = <K>(map: Map<K, Target[]>, key: K, target: Target): void => {
  const list = map.get(key);
  if (list) list.push(target);
  else map.set(key, [target]);
};

const floats = new Float32Array(4);
const bits = new Int32Array(floats.buffer);
/** Equal for equal counts and extents, to seven figures; seldom for others. */
function contentKey(count: number | null, extent: readonly number[] | null): number | null {
  if (count === null || count === 0 || !extent) return null;
  floats.set(extent);
  let key = count | 0;
  for (let i = 0; i < 4; i++) key = Math.imul(key ^ bits[i]!, 0x9e3779b1) ^ (key >>> 15);
  return key;
}

const folderAndName = (segments: readonly string[], loose: string): string =>
  `${segments.length > 1 ? fold(segments[segments.length - 2]!) : ''}/${loose}`;

const NONE: ReadonlySet<string> = new Set();

/** Finds the datasets that could be a layer's: by address, name, spelling, hash, content. */
export class TargetIndex {
  /** By addresses in which case does not count. */
  private readonly at = new Map<string, Target[]>();
  private readonly byName = new Map<string, Target[]>();
  private readonly byBareName = new Map<string, Target[]>();
  private readonly byFolderAndName = new Map<string, Target[]>();
  private readonly byHash = new Map<string, Target[]>();
  private readonly byContent = new Map<number, Target[]>();
  private names: Map<string, Set<string>> | null = null;

  constructor(private readonly targets: readonly Target[]) {
    for (const t of targets) {
      push(this.at, trailKey({ space: t.location.place, segments: t.location.segments }), t);
      const name = t.location.segments[t.location.segments.length - 1] ?? '';
      const names = t.table === null ? [name] : [name, `${t.table}.x`];
      for (const n of names) {
        const loose = looseName(n);
        push(this.byName, loose, t);
        push(this.byFolderAndName, folderAndName(t.location.segments, loose), t);
        const bare = bareName(n);
        if (bare) push(this.byBareName, bare, t);
      }
      if (t.fingerprint.hash) push(this.byHash, t.fingerprint.hash, t);
      const key = contentKey(t.fingerprint.count, t.fingerprint.extent);
      if (key !== null) push(this.byContent, key, t);
    }
  }

  /**
   * The dataset at this address, or the only one at it in another case; for a container the table of that name, or the only one.
   * @param key of the address, as `trailKey` makes it
   * @param exact its segments, asked for only where cases differ
   */
  find(key: string, table: string | null, exact: () => readonly string[]): Target | null {
    let there = this.at.get(key);
    if (!there) return null;
    if (there.length > 1 && there.some((t) => t.location.segments !== there![0]!.location.segments)) {
      const wanted = exact().map(normalName).join('/');
      const same = there.filter((t) => t.location.segments.map(normalName).join('/') === wanted);
      if (same.length > 0) there = same;
      else if (new Set(there.map((t) => t.location.segments.join('/'))).size > 1) return null;
    }
    if (table === null) return there[0]!.table === null || there.length === 1 ? there[0]! : null;
    return there.find((t) => t.table === table) ?? (there.length === 1 && there[0]!.table === null ? there[0]! : null);
  }

  /** What stands in a folder or a geodatabase, by loose names. */
  namesIn(holder: string): ReadonlySet<string> {
    this.names ??= namesByHolder(this.targets);
    return this.names.get(holder) ?? NONE;
  }

  hashTwins(hash: string): number {
    return this.byHash.get(hash)?.length ?? 0;
  }

  possible(layer: BrokenLayer): Target[] {
    const found = new Set<Target>();
    const take = (list: readonly Target[] | undefined): void => {
      if (list && list.length <= MOST_BY_NAME) list.forEach((t) => found.add(t));
    };
    const takeNamed = (segments: readonly string[], n: string): void => {
      const loose = looseName(n);
      const all = this.byName.get(loose);
      take(all && all.length > MOST_BY_NAME ? this.byFolderAndName.get(folderAndName(segments, loose)) : all);
    };
    const name = layer.recorded?.segments[layer.recorded.segments.length - 1];
    if (name !== undefined) {
      takeNamed(layer.recorded!.segments, name);
      const bare = bareName(name);
      if (bare) {
        take(this.byBareName.get(bare));
        take(this.byName.get(bare));
      }
      take(this.byBareName.get(looseName(name)));
    }
    if (layer.table !== null) takeNamed(layer.recorded?.segments ?? [], `${layer.table}.x`);
    const print = layer.fingerprint;
    if (print?.hash) take(this.byHash.get(print.hash));
    const key = print && contentKey(print.count, print.extent);
    if (key !== null) take(this.byContent.get(key));
    if (layer.throughLink) take(this.at.get(trailKey({ space: layer.throughLink.place, segments: layer.throughLink.segments })));
    return [...found];
  }
}
