import { existsSync } from 'node:fs';
import { reachOf } from '@rootmap/core';
import type { NewLayerView } from '@rootmap/core/contract';
import { basename, join, isBelow } from '../disk/native-path.js';
import { findScope, linkLocations, locationOf, type RootedScope } from '../project/scope.js';
import { findAnyDataset } from '../project/find-dataset.js';
import { layerData } from './layer-data.js';
import { newLayer } from './new-layer.js';

/** What layers of some datasets would be in a map: their references, and whose data they show. */
export function viewNewLayers(scope: RootedScope, roots: readonly string[], map: string, ids: readonly string[]): NewLayerView[] {
  const at = locationOf(join(scope.root, map), scope.places);
  const surroundings = {
    places: scope.places,
    root: locationOf(scope.root, scope.places),
    links: linkLocations(scope).map((l) => l.location),
  };
  return ids.map((id) => {
    const found = findAnyDataset(scope, id);
    const { title, href } = newLayer(scope, found, at, scope.project?.storedForm ?? 'relative', '');
    const reach = reachOf(locationOf(join(found.folder, found.dataset.group.path), scope.places), surroundings);
    return { ...layerData(id, found.dataset), title, href, reach, otherProject: ownerTitle(id, scope, roots) };
  });
}

/** The title of the other project that a path belongs to; null: it belongs to none, or to this one. */
export function ownerTitle(path: string, scope: RootedScope, roots: readonly string[]): string | null {
  const owner = roots.filter((r) => r !== scope.root && isBelow(r, path)).sort((a, b) => b.length - a.length)[0];
  return owner !== undefined && !isBelow(owner, scope.root) ? titleOfProject(owner, scope) : null;
}

function titleOfProject(root: string, { places }: RootedScope): string {
  if (!existsSync(root)) return basename(root);
  return findScope(root, { places, root, withoutMaps: true }).project?.title ?? basename(root);
}
