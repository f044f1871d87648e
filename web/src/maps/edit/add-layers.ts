import { drawingRank, plainLook, type ShapeKind } from '@rootmap/core';
import type { DraftLayer, LayerDataView, NewLayerView } from '@rootmap/core/contract';

const SHAPE: Readonly<Record<string, string>> = { point: 'Point', line: 'LineString', area: 'Polygon' };
const rankOf = (kind: LayerDataView['kind'] | undefined): number | null => drawingRank(SHAPE[kind ?? ''] ?? null, kind === 'raster');

/**
 * New layers each above the first that it belongs over: rasters below, then areas, lines, points. Each gets a tone of its own.
 * @param rankOfOld kind of the data of a layer that is there
 */
export function withNewLayers(
  layers: readonly DraftLayer[],
  ids: readonly string[],
  found: readonly NewLayerView[],
  kindOfOld: (layer: DraftLayer) => LayerDataView['kind'] | undefined,
): DraftLayer[] {
  const out = [...layers];
  const ranks = new Map(layers.map((l) => [l.id, rankOf(kindOfOld(l))]));
  const sorted = ids.map((id, i) => ({ id, view: found[i]! })).sort((a, b) => (rankOf(a.view.kind) ?? 1) - (rankOf(b.view.kind) ?? 1));
  for (const { id, view } of sorted) {
    const rank = rankOf(view.kind) ?? 1;
    const below = out.findIndex((l) => (ranks.get(l.id) ?? -1) > rank || (ranks.get(l.id) === rank && layers.includes(l)));
    const layer = newDraftLayer(id, view, out.length);
    ranks.set(layer.id, rank);
    out.splice(below < 0 ? out.length : below, 0, layer);
  }
  return out;
}

export function newDraftLayer(source: string, view: NewLayerView, nth: number): DraftLayer {
  const kind = view.kind === 'table' || view.kind === null ? null : view.kind;
  return {
    id: `urn:uuid:${crypto.randomUUID()}`,
    title: view.title,
    folder: null,
    active: true,
    opacity: 1,
    minScale: null,
    maxScale: null,
    filter: '',
    label: null,
    look: kind === null || kind === 'raster' ? null : plainLook(kind satisfies ShapeKind, nth),
    source,
  };
}
