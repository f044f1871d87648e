import { patchFormat, patchLink, patchReference, patchText, storeReference } from '@rootmap/core';
import { join } from '../disk/native-path.js';
import type { PlannedStep } from '../changes/change.js';
import { readMaps } from '../project/read-maps.js';
import { writeOf } from '../project/remember.js';
import { locationOf, type RootedScope } from '../project/scope.js';
import { findDataset } from '../project/find-dataset.js';

export interface SwappedLayer {
  readonly map: string;
  readonly layer: string;
  readonly title: string;
  readonly before: string;
  readonly after: string;
}

/** Rewrites `href`, `code` and `type` of each layer that uses a dataset, so that it uses the table instead; nothing else. */
export function planUseTables(
  scope: RootedScope,
  pairs: readonly { readonly from: string; readonly to: string }[],
): { readonly steps: readonly PlannedStep[]; readonly layers: readonly SwappedLayer[] } {
  const targets = new Map(pairs.map(({ from, to }) => [from, findDataset(scope, to)]));
  const { maps, looker } = readMaps(scope);
  const steps: PlannedStep[] = [];
  const layers: SwappedLayer[] = [];
  for (const map of maps) {
    const at = locationOf(map.path, scope.places);
    const patches = map.layers.flatMap(({ layer, judgement }) => {
      if (!layer.reference || !judgement.location) return [];
      const { dataset, folder } = looker.look(judgement.location, judgement.table);
      const target = dataset && folder !== null ? targets.get(join(folder, dataset.id)) : undefined;
      if (!target) return [];
      const found = locationOf(join(target.folder, target.dataset.group.path), scope.places);
      const form = /^(file:|\/|[A-Za-z]:)/.test(layer.reference.href) ? 'absolute' : 'relative'; // each layer keeps its own
      const { href } = storeReference(at, found, target.dataset.table, form, scope.places);
      layers.push({ map: map.path, layer: layer.id, title: layer.title, before: layer.reference.href, after: href });
      return [...patchReference(layer.reference, href), ...patchFormat(layer, 'geopackage'), ...patchLink(layer, null)];
    });
    if (patches.length > 0) steps.push(writeOf(map, patchText(map.file.text, patches)));
  }
  return { steps, layers };
}
