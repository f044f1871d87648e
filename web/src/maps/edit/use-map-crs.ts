import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { MapDocView, MapDraft } from '@rootmap/core/contract';
import { api } from '../../api/client.js';
import { MapPlane } from './map-plane.js';
import { keys } from '../../api/queries.js';

/** The CRS that a draft is drawn in, its plane, and which others would suit its data. `isAsked`: the advice is wanted now. */
export function useMapCrs(key: string, doc: MapDocView, draft: MapDraft, datasets: readonly string[], isAsked: boolean) {
  const advice = useQuery({
    queryKey: keys.of(key, 'crs-advice', datasets),
    queryFn: () => api.crsAdvice(key, datasets),
    enabled: (isAsked || draft.crs === null) && datasets.length > 0,
    staleTime: 60_000,
    placeholderData: (before) => before,
  });
  const code = draft.crs;
  const isOther = code !== doc.draft.crs;
  const other = useQuery({
    queryKey: keys.mapCrs(code),
    queryFn: async () => (code === null ? null : ((await api.mapCrs(code)) ?? null)),
    enabled: code !== null && isOther,
    staleTime: Infinity,
  });
  const crs = code === null ? null : isOther ? (other.data ?? null) : doc.crs;
  const plane = useMemo(() => new MapPlane(crs), [crs?.code]); // eslint-disable-line react-hooks/exhaustive-deps -- a CRS is known by its code
  return { crs, plane, advice: advice.data ?? null };
}
