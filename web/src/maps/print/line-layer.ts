import { rulesOfLook, type LineLayer } from '@rootmap/core';
import type { SceneLayer } from '../edit/map-scene.js';

/** The layer, where all of its symbols are drawn of lines and none is a picture of its own; null: it is not. */
export function lineLayer({ id, look, label, opacity, picture, service }: SceneLayer): LineLayer | null {
  if (service !== null || picture?.kind !== 'vector' || look.kind === 'raster') return null;
  if (rulesOfLook(look).some((r) => r.symbol.picture !== null)) return null;
  const { version, drawing, classes } = picture;
  return { id, look, label, opacity, picture: { version, drawing, classes } };
}
