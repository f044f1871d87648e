import { useMutation } from '@tanstack/react-query';
import { PLAIN_RASTER, type Look } from '@rootmap/core';
import type { DraftLayer, LayerDrawing, MapDraft, NewLayerView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { newDraftLayer, withNewLayers } from './add-layers.js';
import { seaAndLand } from './ramps.js';
import type { KnownLayers } from './use-known-layers.js';
import type { MapEditor } from './use-map-editor.js';

interface Options {
  readonly key: string;
  readonly path: string;
  readonly editor: MapEditor;
  readonly known: KnownLayers;
  /** Told of the first layer that came. */
  readonly onAdded: (layer: string | null) => void;
}

/** Datasets become layers where they make sense; the first of a map decide its CRS. */
export function useAddDatasets({ key, path, editor, known, onAdded }: Options) {
  const { draft, edit } = editor;
  const { factsOf, learn } = known;
  const proposedFor = async (layers: readonly DraftLayer[]): Promise<Partial<MapDraft>> => {
    if (draft.crs !== null && draft.layers.length > 0) return {};
    const datasets = layers.flatMap((l) => l.source ?? factsOf(l).data?.dataset ?? []);
    const { proposed } = await api.crsAdvice(key, datasets);
    return proposed ? { crs: proposed.crs.code } : {};
  };
  return useMutation({
    mutationFn: async (ids: readonly string[]) => {
      const found = await api.newLayers(key, path, ids);
      return { ids, found, looks: await Promise.all(found.map((view) => firstLook(key, view))) };
    },
    onSuccess: async ({ ids, found, looks }) => {
      const layersBefore = new Set(draft.layers.map((l) => l.id));
      found.forEach((view, i) => ids[i] !== undefined && learn(ids[i], view));
      const lookOf = new Map(ids.map((id, i) => [id, looks[i] ?? null]));
      const layers = withNewLayers(draft.layers, ids, found, (l) => factsOf(l).data?.kind).map((l) => {
        const look = l.source === null || layersBefore.has(l.id) ? null : lookOf.get(l.source);
        return look ? { ...l, look } : l;
      });
      edit({ ...draft, layers, ...(await proposedFor(layers)) });
      onAdded(layers.find((l) => ids.includes(l.source ?? ''))?.id ?? null);
    },
  });
}

const PLAIN: LayerDrawing = { filter: '', rules: [], label: null, raster: null };

/** The look that a raster of heights and depths begins with: land and sea are told apart. Null: the plain one. */
async function firstLook(key: string, { dataset, kind }: NewLayerView): Promise<Look | null> {
  if (dataset === null || kind !== 'raster') return null;
  const request = { dataset, crs: null, drawing: PLAIN };
  // What cannot be drawn is told where it is drawn.
  const picture = await api.layerPicture(key, request, new AbortController().signal).catch(() => null);
  const ramp = picture?.stretch && !picture.hasColours && picture.bands === 1 ? seaAndLand(picture.stretch.from, picture.stretch.to) : null;
  return ramp && { ...PLAIN_RASTER, ramp };
}

/** The draft with a layer that shows a copy of its data. */
export function withCopy(draft: MapDraft, layer: DraftLayer, id: string, view: NewLayerView): MapDraft {
  const copy: DraftLayer = { ...layer, id: newDraftLayer(id, view, 0).id, source: id };
  return { ...draft, layers: draft.layers.map((l) => (l.id === layer.id ? copy : l)) };
}
