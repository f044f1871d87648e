import { Button } from '@mui/material';
import { useMutation, useQuery } from '@tanstack/react-query';
import { closeSnackbar, enqueueSnackbar } from 'notistack';
import { useEffect, useState } from 'react';
import type { ChangeView, EditApplied, EditPreview, EditRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { sentenceOf } from '../parts/states.js';

/** What an edit would do, planned anew whenever something on disk changes. Null: there is no edit yet. */
export function useEditPlan(key: string, edit: EditRequest | null, quick = false) {
  return useQuery<EditPreview>({
    queryKey: ['project', key, 'edit', quick, edit],
    queryFn: () => api.planEdit(key, edit!, quick),
    enabled: edit !== null,
    gcTime: 0,
    retry: false,
  });
}

/** Says where the person is looking what was done, and offers to take it back at once. */
export function tellDone(sentence: string, change: ChangeView | null): void {
  const id = change?.id;
  const undo = (snack: string | number): void => {
    closeSnackbar(snack);
    api.undo(id!).then(
      ({ kept }) =>
        void enqueueSnackbar(
          kept.length ? `Undone, but for ${kept.length} files that were changed since.` : 'Undone. Everything is as it was before.',
        ),
      (error: unknown) => void enqueueSnackbar(sentenceOf(error), { variant: 'error' }),
    );
  };
  enqueueSnackbar(sentence, {
    autoHideDuration: 12_000,
    ...(id && change.canUndo
      ? {
          action: (snack: string | number) => (
            <Button color="inherit" onClick={() => undo(snack)}>
              Undo
            </Button>
          ),
        }
      : {}),
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
