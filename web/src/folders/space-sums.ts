import { roleOf } from '@rootmap/core';
import type { FoldersView, ThingView } from '@rootmap/core/contract';
import { KIND_WORDS, ROLE_WORDS } from './words.js';

export interface Sum {
  readonly name: string;
  readonly bytes: number;
}
export type By = 'folder' | 'kind' | 'role';

const MOST = 12;

/** Where the bytes are, the largest first; what is beyond the first dozen is added up. */
export function sumsBy(view: FoldersView, by: By): Sum[] {
  const sums = new Map<string, number>();
  for (const thing of view.things) {
    const name = nameBy(thing, view, by);
    sums.set(name, (sums.get(name) ?? 0) + thing.bytes);
  }
  if (view.trashBytes > 0) sums.set('trash', view.trashBytes);
  const all = [...sums].map(([name, bytes]) => ({ name, bytes })).sort((a, b) => b.bytes - a.bytes);
  if (all.length <= MOST) return all;
  const rest = all.slice(MOST - 1);
  return [...all.slice(0, MOST - 1), { name: `${rest.length} others`, bytes: rest.reduce((sum, r) => sum + r.bytes, 0) }];
}

function nameBy(thing: ThingView, view: FoldersView, by: By): string {
  if (by === 'kind') return thing.kind === 'dataset' ? thing.format : KIND_WORDS[thing.kind];
  if (by === 'role') {
    const role = roleOf(thing.path, view.roles);
    return role === null ? 'no role' : ROLE_WORDS[role];
  }
  const at = thing.path.indexOf('/');
  return at < 0 ? 'beside the project file' : thing.path.slice(0, at);
}

/** Data that no layer of any known project draws on. Folders and documents are not data. */
export const unusedData = (view: FoldersView): ThingView[] =>
  view.things.filter((t) => t.kind === 'dataset' && t.usedBy === 0).sort((a, b) => b.bytes - a.bytes);

export const leftBehind = (view: FoldersView): ThingView[] => view.things.filter((t) => t.kind === 'left-behind');
