import { placeNamed, ProblemError, type Asked, type OnProgress } from '@rootmap/core';
import type { PathRequest } from '@rootmap/core/contract';
import { join } from '../disk/native-path.js';
import { confine } from '../places/confine.js';
import { openPlace, type PlaceSetting } from '../places/places.js';
import type { FoundDataset } from '../project/find-dataset.js';
import { findScope, rooted, type RootedScope, type Scope } from '../project/scope.js';
import { openIndex, type SeenStore } from '../survey/sqlite-index.js';
import type { IndexStore } from '../survey/survey-index.js';

/** What every task starts from: places as configured, and the root. All of it can be cloned to a worker. */
export interface TaskBase {
  readonly places: readonly PlaceSetting[];
  readonly root: string;
  readonly who: string;
  /** Real path of the one map that is mended by itself; left out: the root is meant. */
  readonly alone?: string;
  /** What came of asking services, by their addresses. */
  readonly asked?: ReadonlyMap<string, Asked>;
}

/** Where a task runs: the data folder of its server, and whom it tells how far it is. */
export interface TaskContext {
  readonly dataFolder: string;
  readonly progress: OnProgress;
}
/** Tasks by name. They run in a process of the pool and may read the disk synchronously; `in` is the first argument, `out` what is returned. */
export type TaskTable = Readonly<Record<string, (input: never, context: TaskContext) => unknown>>;

/** The project that a task is about; or the one map, which may be in none. */
export function anyScopeOf(base: TaskBase, withoutMaps = false): Scope {
  const places = base.places.map(openPlace);
  const scope =
    base.alone === undefined ? findScope(base.root, { places, root: base.root, withoutMaps }) : findScope(base.alone, { places });
  return base.asked ? { ...scope, asked: base.asked } : scope;
}

/** The project that a task is about. Throws `wrong-use` for a map in no project. */
export const scopeOf = (base: TaskBase, withoutMaps = false): RootedScope => rooted(anyScopeOf(base, withoutMaps));

let index: Promise<IndexStore & SeenStore> | null = null;
/** The index of this worker, opened once. */
export function indexOf(dataFolder: string): Promise<IndexStore & SeenStore> {
  index ??= openIndex(join(dataFolder, 'index.sqlite')).catch((error: unknown) => {
    index = null; // the next task tries again
    throw error;
  });
  return index;
}

/** A path that a request names, inside its place. `mayBeNew`: nothing need stand there. */
export function resolvePath(places: readonly PlaceSetting[], at: PathRequest, mayBeNew: boolean): string {
  const place = placeNamed(places.map(openPlace), at.place);
  if (!place) throw new ProblemError({ code: 'not-found', what: 'place', id: at.place });
  return confine(place, at.path, mayBeNew);
}

/** Tells of records of a dataset: how many of them are read. */
export const recordsOf =
  (found: FoundDataset, progress: OnProgress) =>
  (done: number): void =>
    progress({ done, of: found.dataset.featureCount ?? 0, unit: 'records', item: found.dataset.group.path });

/** Made into JSON here, where nobody waits for the event loop. */
export const asJson = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value));
