import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import type { KeptLook, PageLayout, ShelvesView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { sentenceOf } from '../parts/states.js';
import { takeOver } from './browser-shelves.js';

const NONE: ShelvesView = { layouts: [], looks: [] };

/** Layouts of pages and looks of layers that are kept for all maps, one a name. */
export function useShelves() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: keys.shelves, queryFn: async () => takeOver(await api.shelves()) });
  const change = useMutation({
    scope: { id: 'shelves' }, // one after the other: each answer is all that is kept
    onMutate: () => client.cancelQueries({ queryKey: keys.shelves }), // an older answer must not come after
    mutationFn: (act: () => Promise<ShelvesView>) => act(),
    onSuccess: (now) => client.setQueryData(keys.shelves, now),
    onError: (e) => enqueueSnackbar(sentenceOf(e), { variant: 'error' }),
  });
  return {
    ...(data ?? NONE),
    error,
    keepLayout: (layout: PageLayout) => change.mutate(() => api.keepLayout(layout)),
    dropLayout: (name: string) => change.mutate(() => api.dropLayout(name)),
    keepLook: (look: KeptLook) => change.mutate(() => api.keepLook(look)),
    dropLook: (name: string) => change.mutate(() => api.dropLook(name)),
  };
}
