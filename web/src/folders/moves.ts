import type { EditRequest, PathRequest, ProjectView } from '@rootmap/core/contract';
import { nameOf, withoutInner } from './folder-rows.js';

type Root = Pick<ProjectView, 'place' | 'path'>;
const joined = (...parts: readonly string[]): string => parts.filter((p) => p !== '').join('/');

/** A path from the root as a request names it. */
export const inRoot = (root: Root, path: string): PathRequest => ({ place: root.place, path: joined(root.path, path) });

/** Moves things into a folder under the names they have. Null: all of them are there already. */
export function moveInto(root: Root, paths: readonly string[], folder: string): EditRequest | null {
  const moves = withoutInner(paths)
    .map((path) => ({ from: path, to: joined(folder, nameOf(path)) }))
    .filter((m) => m.from !== m.to)
    .map((m) => ({ from: inRoot(root, m.from), to: inRoot(root, m.to) }));
  return moves.length ? { kind: 'move', moves, evenOriginals: false, grown: null } : null;
}

export const trash = (root: Root, paths: readonly string[]): EditRequest => ({
  kind: 'trash',
  paths: withoutInner(paths).map((p) => inRoot(root, p)),
  evenOriginals: false,
});
