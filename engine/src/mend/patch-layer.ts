import {
  formatOf,
  patchFormat,
  patchLink,
  patchNewReference,
  patchReference,
  storeReference,
  type Format,
  type StoredForm,
  type Target,
  type TextPatch,
  joined,
} from '@rootmap/core';
import type { LayerSeen, MapSeen } from '../project/read-maps.js';
import { linkLocations, type Scope } from '../project/scope.js';

/** The map's own setting, else the project's, else relative. */
export function hrefFor(map: MapSeen, target: Target, scope: Scope): string {
  const form: StoredForm = map.file.storedForm ?? scope.project?.storedForm ?? 'relative';
  return storeReference(map.location, target.location, target.table, form, scope.places).href;
}

/** What writes other data into one layer: its address, `code` and `type` where the format changes, the evidence of its link. */
export function patchesFor(map: MapSeen, seen: LayerSeen, target: Target, scope: Scope): TextPatch[] {
  const { layer } = seen;
  const format: Format = target.fingerprint.format;
  if (!layer.reference) return patchNewReference(map.file, layer, format, hrefFor(map, target, scope));
  const patches = patchReference(layer.reference, hrefFor(map, target, scope));
  if (layer.fingerprint ? layer.fingerprint.format !== format : formatDiffers(seen, format)) patches.push(...patchFormat(layer, format));
  if (layer.link) patches.push(...patchLink(layer, linkFor(target, scope)));
  return patches;
}

/** Nothing is remembered of the data: what its name says counts. A table that was named stays one. */
function formatDiffers({ judgement, layer }: LayerSeen, format: Format): boolean {
  const recorded = formatOf((layer.reference?.href ?? '').replace(/[?#].*$/s, '').replace(/^.*\//s, ''));
  return recorded !== null && recorded !== format && !(judgement.table !== null && format === 'geopackage');
}

function linkFor(target: Target, scope: Scope): { name: string; path: string } | null {
  for (const { name, location } of linkLocations(scope)) {
    const same = location.place === target.location.place && location.segments.every((s, i) => s === target.location.segments[i]);
    if (same) return { name, path: joined(target.location.segments.slice(location.segments.length)) };
  }
  return null;
}
