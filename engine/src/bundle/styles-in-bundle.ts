import {
  isBelow,
  parseReference,
  patchReference,
  picturesOfStyle,
  storeReference,
  styleOf,
  type Location,
  type TextPatch,
} from '@rootmap/core';
import { pathOfReference, readStyleFile } from '../project/layer-styles.js';
import type { MapSeen } from '../project/read-maps.js';
import { locationOf, type RootedScope } from '../project/scope.js';

export interface StylesInBundle {
  /** What makes absolute references to style files inside the root relative. */
  readonly patches: readonly TextPatch[];
  readonly leftOut: readonly { readonly path: string; readonly why: string }[];
}

/** Styles in files of their own, and the pictures that styles name: they travel where they stand inside the root; else it is told. */
export function stylesInBundle(map: MapSeen, scope: RootedScope): StylesInBundle {
  const root = locationOf(scope.root, scope.places);
  const patches: TextPatch[] = [];
  const leftOut: { path: string; why: string }[] = [];
  const of = (layer: string): string => `"${layer}" in ${map.file.title}`;
  const isInside = (at: Location): boolean => isBelow(root, at, scope.places);
  for (const { layer } of map.layers) {
    for (const reference of layer.others.filter((r) => r.role === 'style')) {
      const parsed = parseReference(reference.href);
      const at = pathOfReference(reference.href, map.location, scope);
      if (at === null || readStyleFile(at.path) === null) {
        if (!parsed.ok || parsed.value.kind !== 'service')
          leftOut.push({ path: reference.href, why: `the style of ${of(layer.title)} was not found` });
      } else if (!isInside(at.location)) leftOut.push({ path: at.path, why: `the style of ${of(layer.title)} is outside the root` });
      else if (parsed.ok && parsed.value.kind === 'absolute')
        patches.push(...patchReference(reference, storeReference(map.location, at.location, null, 'relative', scope.places).href));
    }
    const style = styleOf(layer);
    const file = style.kind === 'file' ? pathOfReference(style.href, map.location, scope) : null;
    const text = style.kind === 'inline' ? style.text : ((file && readStyleFile(file.path)) ?? '');
    for (const { href } of picturesOfStyle(text)) {
      const at = pathOfReference(href, file?.location ?? map.location, scope);
      if (at && !isInside(at.location))
        leftOut.push({ path: at.path, why: `a picture in the style of ${of(layer.title)} is outside the root` });
    }
  }
  return { patches, leftOut };
}
