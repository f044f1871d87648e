import type { EditRequest, PathRequest, ProjectView } from '@rootmap/core/contract';
import { nameOf, withoutInner } from './folder-rows.js';

type Root = Pick<ProjectView, 'place' | 'path'>;
const joined = (...parts: readonly string[]): string => parts.filter((p) => p !== '').join('/');

/** A path from the root as a request names it. */
export const inRoot = (root: Root, path: string): PathRequest => ({ place: root.place, path: joined(root.path, path) });

export type MoveEdit = Extract<EditRequest, { kind: 'move' }>;

/** Moves things into a folder under the names they have. Null: all of them are there already. */
export function moveTo(root: Root, paths: readonly string[], folder: PathRequest): MoveEdit | null {
  const moves = withoutInner(paths)
    .map((path) => ({ from: inRoot(root, path), to: { place: folder.place, path: joined(folder.path, nameOf(path)) } }))
    .filter((m) => m.from.place !== m.to.place || m.from.path !== m.to.path);
  return moves.length ? { kind: 'move', moves, evenOriginals: false, grown: null } : null;
}

/** The same for a folder of the project, told from the root. */
export const moveInto = (root: Root, paths: readonly string[], folder: string): MoveEdit | null =>
  moveTo(root, paths, inRoot(root, folder));

export const trash = (root: Root, paths: readonly string[]): EditRequest => ({
  kind: 'trash',
  paths: withoutInner(paths).map((p) => inRoot(root, p)),
  evenOriginals: false,
});
