import { useQuery } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { ServiceItem, ServiceTree } from '@rootmap/core';
import type { ServiceView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { useUrlState } from '../parts/use-url-state.js';

/**
 * What a server finds itself by words, beside what is listed of it: a catalogue may be larger than that. `askServer` is null
 * where everything is listed, or no words are given.
 */
export function useWholeCatalogue(projectKey: string, service: ServiceView, tree: ServiceTree | undefined, words: string) {
  const [search, set] = useUrlState();
  const wanted = words.trim();
  const isAsked = wanted !== '' && search.get('asked') === wanted;
  const found = useQuery({
    queryKey: keys.of(projectKey, 'service-search', service.url, wanted),
    queryFn: ({ signal }) => api.searchService(projectKey, service.url, wanted, signal),
    enabled: isAsked && (tree?.more ?? 0) > 0,
    retry: false,
    staleTime: 60_000,
  });
  const others = useMemo(() => othersThan(tree?.items ?? [], found.data?.items ?? []), [tree, found.data]);
  const state = !isAsked ? 'not-asked' : found.isError ? 'failed' : found.data ? 'found' : 'asking';
  const elsewhere = { state, count: found.data?.items.length ?? 0, more: found.data?.more ?? 0, error: found.error } as const;
  const askServer = tree && tree.more > 0 && wanted !== '' ? () => (isAsked ? void found.refetch() : set({ asked: wanted })) : null;
  return { others, elsewhere, askServer };
}

/** What was found that is not listed. */
function othersThan(items: readonly ServiceItem[], found: readonly ServiceItem[]): readonly ServiceItem[] {
  const known = new Set(items.map((i) => i.name));
  return found.filter((o) => !known.has(o.name));
}
