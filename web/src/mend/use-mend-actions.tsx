import { Button } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import type { AppliedView, MendRequest, SearchRequest } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { tellDone } from '../journal/tell-done.js';
import { many } from '../parts/format.js';
import { useSubject } from './subject.js';

/** Says what was done and what is left, with the undo, and looks again. `onUndone`: what was said of it is no longer so. */
export function useTold(onUndone: () => void = () => undefined) {
  const subject = useSubject();
  const client = useQueryClient();
  return async (what: string, done: AppliedView): Promise<void> => {
    const maps = many(done.change?.files.filter((f) => f.endsWith('.owc.json')).length ?? 0, 'map');
    const again = (): Promise<void> => client.invalidateQueries({ queryKey: keys.project(subject.key) });
    const left = done.left === 0 ? 'nothing is left to mend' : `${done.left} left`;
    tellDone(`${what} in ${maps}; ${left}. The journal takes it back.`, done.change, () => {
      onUndone();
      void again();
    });
    await again();
  };
}

export function useApply(search: SearchRequest, onDone: (what: string | null) => void = () => undefined) {
  const subject = useSubject();
  const told = useTold(() => onDone(null));
  return useMutation({
    mutationFn: ({ choices = [], styles = [] }: Partial<Pick<MendRequest, 'choices' | 'styles'>>) =>
      api.applyMend(subject.key, { choices, styles, ...search }),
    onSuccess: async (done, { choices = [], styles = [] }) => {
      const what = [
        ...(choices.length ? [many(choices.length, 'layer')] : []),
        ...(styles.length ? [many(styles.length, 'style')] : []),
      ].join(' and ');
      await told(`${what} mended`, done);
      onDone(`${what} mended`); // what remains is shown from then on, as the disk has it after the mending
    },
  });
}

/** 'Not this one' is kept for good; the snackbar takes all of a layer's back. */
export function useReject(search: SearchRequest) {
  const subject = useSubject();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: keys.mends(subject.key) });
  return useMutation({
    mutationFn: (which: { key: string; path: string }) => api.rejectCandidate(subject.key, { ...which, ...search }),
    onSuccess: async (_, { key }) => {
      enqueueSnackbar('Remembered: this layer is not offered that dataset again.', {
        action: (id) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(id);
              void api.forgiveRejected(subject.key, [key]).then(again);
            }}
          >
            Offer it again
          </Button>
        ),
      });
      await again();
    },
  });
}
