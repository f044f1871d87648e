import type { LayerDrawing } from '../contract/pictures.js';
import { plainLook, PLAIN_RASTER, type Look, type ShapeKind } from '../look/look.js';
import { rulesOfLook } from '../look/rules-of-look.js';
import type { DraftLayer } from '../map/map-draft.js';
import { sameJson } from '../map/patch-draft.js';

export type LayerKind = ShapeKind | 'raster' | 'table' | null;

/** What a layer is drawn with: its look, or a plain one whose tone stays the same for it. */
export function lookFor(layer: DraftLayer, kind: LayerKind): Look {
  const isRaster = kind === 'raster';
  if (layer.look && (layer.look.kind === 'raster') === isRaster) return layer.look;
  return plainLook(isRaster ? 'raster' : kind === null || kind === 'table' ? 'mixed' : kind, toneOf(layer.id));
}

const toneOf = (id: string): number => [...id].reduce((sum, c) => (sum * 31 + c.charCodeAt(0)) % 997, 7);

/** How the server tells the records of a layer apart. A look's colours are not part of it. */
export function drawingOf(layer: DraftLayer, kind: LayerKind): LayerDrawing {
  const look = lookFor(layer, kind);
  if (look.kind === 'raster') return { filter: '', rules: [], label: null, raster: sameJson(look, PLAIN_RASTER) ? null : look };
  return {
    filter: layer.filter.trim(),
    rules: rulesOfLook(look).map((r) => ({ filter: r.filter, isElse: r.isElse })),
    label: layer.label?.template.trim() ? layer.label.template : null,
    raster: null,
  };
}
