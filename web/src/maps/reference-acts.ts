import { isInOrder } from '@rootmap/core';
import type { LayerView, PathRequest, ProjectView, ReferenceEdit } from '@rootmap/core/contract';

export type Act = ReferenceEdit['act'];
/** What can be done with references, in words. */
export const ACTS: Readonly<Record<Act, { readonly button: string; readonly title: string; readonly hint: string }>> = {
  relative: {
    button: 'Store relatively',
    title: 'Store references relatively',
    hint: 'A relative reference starts at the map file, so the whole root can move.',
  },
  absolute: { button: 'Store absolutely', title: 'Store references absolutely', hint: 'An absolute reference names one drive or machine.' },
  'bring-in': {
    button: 'Bring in',
    title: 'Bring data into the project',
    hint: 'Their data is copied into the folder for originals with its companions and its origin; the layers use the copy.',
  },
  respell: {
    button: 'Spell as on disk',
    title: 'Spell references as on disk',
    hint: 'Disks that tell upper and lower case apart find them then, too.',
  },
};

export const isBroken = (l: LayerView): boolean => !isInOrder(l.state) && l.state !== 'absent';
export const isToBringIn = (l: LayerView): boolean => l.state === 'sound' && (l.reach === 'outside' || l.reach === 'linked');
export const isToLink = (l: LayerView): boolean => l.state === 'sound' && l.reach === 'outside';

/** The map of a layer, from the root. */
const mapOf = (l: LayerView, project: ProjectView): string => project.maps.find((m) => m.path === l.map)?.relativePath ?? l.map;

/** References of some layers, to be written otherwise. */
export const editOf = (
  layers: readonly LayerView[],
  act: Act,
  project: ProjectView,
): { kind: 'references'; layers: readonly ReferenceEdit[] } => ({
  kind: 'references',
  layers: layers.map((l) => ({ map: mapOf(l, project), layer: l.layer, act })),
});

/** The folder of a layer's data as a request names it. */
export function folderAt(l: LayerView, places: readonly { readonly name: string; readonly folder: string }[]): PathRequest | null {
  const path = (l.resolved ?? '').replace(/\/[^/]*$/, '');
  const place = places
    .filter((p) => path === p.folder || path.startsWith(`${p.folder}/`))
    .sort((a, b) => b.folder.length - a.folder.length)[0];
  return place ? { place: place.name, path: path.slice(place.folder.length + 1) } : null;
}
