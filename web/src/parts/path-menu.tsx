import type { PlaceView, ProjectView } from '@rootmap/core/contract';
import { usePlaces } from '../api/queries.js';
import { CopyPath } from './copy-path.js';

interface PathOf {
  /** As people call it: with the drive name of its place. */
  readonly shown: string;
  /** From the root of the project; null: it is outside. */
  readonly relative: string | null;
  readonly at: { readonly place: string; readonly path: string };
}

/** @param path as the server has it; null: it stands in no place */
export function pathOf(path: string, root: string, places: readonly PlaceView[]): PathOf | null {
  const above = places.filter((p) => path === p.folder || path.startsWith(`${p.folder.replace(/\/$/, '')}/`));
  const [place] = above.sort((a, b) => b.folder.length - a.folder.length);
  if (!place) return null;
  const below = path.slice(place.folder.length).replace(/^\//, '');
  const drive = place.driveNames[0] ?? place.folder;
  return {
    shown: `${drive.replace(/\/$/, '')}/${below}`,
    relative: path.startsWith(`${root}/`) ? path.slice(root.length + 1) : null,
    at: { place: place.name, path: below },
  };
}

/** Where a path of this server stands; null: in no place. */
export const usePathOf = (path: string, { root }: Pick<ProjectView, 'root'>): PathOf | null => pathOf(path, root, usePlaces().data ?? []);

/** A path of this server onto the clipboard, and into its file manager; nothing where it stands in no place. */
export function PathMenu({ project, path }: { project: Pick<ProjectView, 'root'>; path: string }) {
  const of = usePathOf(path, project);
  return of && <CopyPath {...of} />;
}
