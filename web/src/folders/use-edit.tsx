import { useMutation, useQuery } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import { useEffect, useState } from 'react';
import type { EditApplied, EditPreview, EditRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { tellDone } from '../journal/tell-done.js';
import { keys } from '../api/queries.js';

/** What an edit would do, planned anew whenever something on disk changes. Null: there is no edit yet. `isOver`: it is being done, or was. */
export function useEditPlan(key: string, edit: EditRequest | null, quick = false, isOver = false) {
  return useQuery<EditPreview>({
    queryKey: keys.of(key, 'edit', quick, edit),
    queryFn: () => api.planEdit(key, edit!, quick),
    enabled: edit !== null && !isOver, // what it did itself would be in its way
    gcTime: 0,
    retry: false,
  });
}

export function useApplyEdit(key: string, onDone: (applied: EditApplied) => void) {
  return useMutation({
    mutationFn: (edit: EditRequest) => api.applyEdit(key, edit),
    onSuccess: (applied) => {
      if (applied.job) enqueueSnackbar(`${applied.job.title}: under way. The top line shows how far it is.`);
      else tellDone(applied.change ? `${applied.change.title}: done.` : 'There was nothing to change.', applied.change);
      onDone(applied);
    },
  });
}

/** A value once it has stood still for a moment, so that not every letter asks the server. */
export function useSettled<T>(value: T, ms = 200): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}
