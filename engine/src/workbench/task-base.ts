import { join } from 'node:path';
import { openPlace, type PlaceSetting } from '../places/places.js';
import { findScope, type Scope } from '../project/scope.js';
import { openIndex, type SeenStore } from '../survey/sqlite-index.js';
import type { IndexStore } from '../survey/survey-index.js';

/** What every task starts from: places as configured, and the root. All of it can be cloned to a worker. */
export interface TaskBase {
  readonly places: readonly PlaceSetting[];
  readonly root: string;
  readonly who: string;
  /** Real path of the one map that is mended by itself; left out: the root is meant. */
  readonly alone?: string;
}

/** What a task is on, how far it is, and of how much where that is known. */
export type Progress = (item: string, done: number, of?: number) => void;
/** The functions of tasks: they run in a worker thread and may read the disk synchronously. */
export type Implemented<T> = {
  readonly [N in keyof T]: T[N] extends { in: infer In; out: infer Out }
    ? (input: In, dataFolder: string, progress: Progress) => Promise<Out> | Out
    : never;
};

export function scopeOf(base: TaskBase, withoutMaps = false): Scope {
  const places = base.places.map(openPlace);
  return base.alone === undefined ? findScope(base.root, { places, root: base.root, withoutMaps }) : findScope(base.alone, { places });
}

let index: Promise<IndexStore & SeenStore> | null = null;
/** The index of this worker, opened once. */
export function indexOf(dataFolder: string): Promise<IndexStore & SeenStore> {
  index ??= openIndex(join(dataFolder, 'index.sqlite')).catch((error: unknown) => {
    index = null; // the next task tries again
    throw error;
  });
  return index;
}

/** Made into JSON here, where nobody waits for the event loop. */
export const asJson = (value: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(value));
