import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import type { DraftLayer, MapDocView, NewLayerView } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { factsOfLayer, type LayerFacts } from './layer-facts.js';
import { keys } from '../../api/queries.js';

export interface KnownLayers {
  readonly factsOf: (layer: DraftLayer) => LayerFacts;
  /** What was read of a dataset that comes into the map. */
  readonly learn: (id: string, view: NewLayerView) => void;
}

/** What is known of the data of every layer, also of those that are not in the file yet. */
export function useKnownLayers(key: string, path: string, doc: MapDocView, layers: readonly DraftLayer[]): KnownLayers {
  const sources = useMemo(
    () => layers.flatMap((l) => (l.source !== null && !doc.layers.some((o) => o.id === l.id) ? [l.source] : [])),
    [layers, doc.layers],
  );
  const added = useQuery({
    queryKey: keys.of(key, 'new-layers', path, sources),
    queryFn: () => api.newLayers(key, path, sources),
    enabled: sources.length > 0,
    placeholderData: (before) => before,
  });
  const [learned, setLearned] = useState<ReadonlyMap<string, NewLayerView>>(new Map());
  const { data, isPlaceholderData } = added;
  const known = useMemo(() => {
    const all = new Map(learned);
    data?.forEach((view, i) => {
      const id = view.dataset ?? (isPlaceholderData ? undefined : sources[i]); // of earlier ones only the data tells which they are
      if (id !== undefined) all.set(id, view);
    });
    return all;
  }, [learned, data, isPlaceholderData, sources]);
  const factsOf = useCallback((layer: DraftLayer) => factsOfLayer(layer, doc, known), [doc, known]);
  const learn = useCallback((id: string, view: NewLayerView) => setLearned((before) => new Map(before).set(id, view)), []);
  return { factsOf, learn };
}
