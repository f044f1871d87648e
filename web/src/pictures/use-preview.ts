import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';

/** What a dataset's tiles can be had under; apart from the map, so that it is asked for before the map's own code is there. */
export const usePreview = (projectKey: string, dataset: string, crs: string | null, isWanted = true) =>
  useQuery({
    queryKey: keys.of(projectKey, 'preview', dataset, crs),
    queryFn: ({ signal }) => api.preview(projectKey, dataset, crs, signal),
    enabled: isWanted,
    retry: false,
  });
