import { useMutation } from '@tanstack/react-query';
import type { DraftLayer, MapDraft, NewLayerView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { newDraftLayer, withNewLayers } from './add-layers.js';
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
    mutationFn: async (ids: readonly string[]) => ({ ids, found: await api.newLayers(key, path, ids) }),
    onSuccess: async ({ ids, found }) => {
      found.forEach((view, i) => ids[i] !== undefined && learn(ids[i], view));
      const layers = withNewLayers(draft.layers, ids, found, (l) => factsOf(l).data?.kind);
      edit({ ...draft, layers, ...(await proposedFor(layers)) });
      onAdded(layers.find((l) => ids.includes(l.source ?? ''))?.id ?? null);
    },
  });
}

/** The draft with a layer that shows a copy of its data. */
export function withCopy(draft: MapDraft, layer: DraftLayer, id: string, view: NewLayerView): MapDraft {
  const copy: DraftLayer = { ...layer, id: newDraftLayer(id, view, 0).id, source: id };
  return { ...draft, layers: draft.layers.map((l) => (l.id === layer.id ? copy : l)) };
}
