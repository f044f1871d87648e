import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { MendProjectView, MendReach, PathRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';

export interface Mending {
  readonly view: MendProjectView | undefined;
  readonly error: unknown;
  readonly retry: () => void;
  /** How far was looked for what is shown: a plan is made from the same. */
  readonly reach: MendReach;
  /** A folder that was added, or the known places, are being looked through, too. */
  readonly isWidening: boolean;
  /** Ends that; what was found so far stays. */
  readonly stop: () => void;
}

/** What explains the broken layers: what is near at once, then, while something is not explained, what the places hold. */
export function useMend(key: string, search: readonly PathRequest[]): Mending {
  const client = useQueryClient();
  const [stopped, setStopped] = useState<string | null>(null);
  const nearKey = keys.mend(key, search, 'near');
  const near = useQuery({
    queryKey: nearKey,
    queryFn: ({ signal }) => api.mend(key, { search, reach: 'near' }, signal),
    placeholderData: (before) => before,
  });
  // A folder was added: what was found without it is shown meanwhile.
  const isSearchingAdded = near.isPlaceholderData && near.isFetching;
  const isWider = near.data?.searched.isWider === true;
  // The wider answer belongs to this one of what is near: when that is looked at anew, so is the rest. One that was under way
  // before something changed would else come in later and be shown as the state of the disk.
  const wideKey = [...keys.mend(key, search, 'places'), near.dataUpdatedAt];
  const searchKey = JSON.stringify([key, search]);
  const wide = useQuery({
    queryKey: wideKey,
    queryFn: ({ signal }) => api.mend(key, { search, reach: 'places' }, signal),
    enabled: isWider && !near.isPlaceholderData && stopped !== searchKey,
    gcTime: 0,
  });
  const isWide = isWider && wide.data !== undefined;
  return {
    view: isWide ? wide.data : near.data,
    error: near.error ?? (isWider ? wide.error : null),
    retry: () => void client.invalidateQueries({ queryKey: keys.mends(key) }),
    reach: isWide ? 'places' : 'near',
    isWidening: isSearchingAdded || (isWider && wide.isFetching),
    stop: () => {
      if (isSearchingAdded) return void client.cancelQueries({ queryKey: nearKey });
      setStopped(searchKey);
      void client.cancelQueries({ queryKey: wideKey });
    },
  };
}

/** What the search is on, as the server tells it. */
export const useSearchItem = (key: string): string =>
  useQuery({ queryKey: keys.searching(key), queryFn: () => '', enabled: false, initialData: '' }).data;
