import { patchFingerprint, patchText, type Fingerprint } from '@rootmap/core';
import { fullFingerprint } from '../fingerprint/full-fingerprint.js';
import type { PlannedChange, PlannedWrite } from '../changes/change.js';
import { readMaps, type MapSeen } from './read-maps.js';
import type { Scope } from './scope.js';

export interface RememberPlan {
  readonly layers: readonly { readonly map: string; readonly layer: string; readonly title: string; readonly fingerprint: Fingerprint }[];
  readonly damaged: readonly { readonly path: string; readonly message: string }[];
  readonly change: PlannedChange | null;
}

/** Reads the full fingerprint of every sound layer's data and plans to store it in the map files. */
export function planRemember(scope: Scope, who: string, onLayer: (title: string) => void = () => undefined): RememberPlan {
  const seen = readMaps(scope);
  const known = new Map<string, Fingerprint>();
  const layers: RememberPlan['layers'][number][] = [];
  const steps: PlannedWrite[] = [];
  for (const map of seen.maps) {
    const patches = map.layers.flatMap(({ layer, judgement }) => {
      if (judgement.state !== 'sound' || !judgement.location) return [];
      const { dataset, folder } = seen.looker.look(judgement.location, judgement.table);
      if (!dataset || folder === null) return [];
      onLayer(layer.title);
      const key = `${folder}\n${dataset.id}`;
      const fingerprint = known.get(key) ?? fullFingerprint(folder, dataset);
      known.set(key, fingerprint);
      layers.push({ map: map.path, layer: layer.id, title: layer.title, fingerprint });
      return patchFingerprint(map.file, layer, fingerprint);
    });
    if (patches.length) steps.push(writeOf(map, patchText(map.file.text, patches)));
  }
  const title = `Remember the data of ${layers.length} layers`;
  return {
    layers,
    damaged: seen.damaged,
    change: steps.length ? { title, kind: 'remember', root: scope.root ?? scope.named, who, steps } : null,
  };
}

/** New text for a map, planned from the bytes that were read. */
export const writeOf = (map: MapSeen, text: string): PlannedWrite => ({
  kind: 'write',
  path: map.path,
  before: map.bytes,
  after: Buffer.from(text, 'utf8'),
});
