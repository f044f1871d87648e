import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import type { DrawnShape } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { keys } from '../../api/queries.js';
import { boxAround } from '../edit/box-around.js';
import type { SceneLayer } from '../edit/map-scene.js';

/** Records of one layer that are chosen, on the map and in its table. */
interface ChosenRecords {
  readonly layer: string;
  readonly records: readonly number[];
}

/** As many are shown on the map. */
const MOST_SHOWN = 2000;
const NONE: readonly number[] = [];
const NO_SHAPES: readonly DrawnShape[] = [];

/** What is chosen of a map's records, and their shapes in its plane. */
export function useChosen(layers: readonly SceneLayer[]) {
  const [chosen, setChosen] = useState<ChosenRecords | null>(null);
  const version = chosen && (layers.find((l) => l.id === chosen.layer)?.picture?.version ?? null);
  const asked = { version: version ?? '', records: chosen?.records.slice(0, MOST_SHOWN) ?? NONE };
  const { data } = useQuery({
    queryKey: keys.shapes(asked),
    queryFn: ({ signal }) => api.shapes(asked, signal),
    enabled: version !== null && asked.records.length > 0,
    staleTime: Infinity, // a version never changes
    retry: false,
  });
  const shapes = data ?? NO_SHAPES;
  const set = useMemo(() => new Set(chosen?.records), [chosen]);
  const choose = (layer: string, record: number, isMore: boolean): void =>
    setChosen((before) => {
      if (!isMore || before?.layer !== layer) return { layer, records: [record] };
      const rest = before.records.filter((r) => r !== record);
      return { layer, records: rest.length < before.records.length ? rest : [...rest, record] };
    });
  return {
    layer: chosen?.layer ?? null,
    records: chosen?.records ?? NONE,
    /** The records of a layer that are chosen. */
    of: (layer: string): ReadonlySet<number> => (chosen?.layer === layer ? set : new Set()),
    shapes,
    box: boxAround(shapes.map((s) => s.box)),
    choose,
    clear: () => setChosen(null),
  };
}
export type Chosen = ReturnType<typeof useChosen>;
