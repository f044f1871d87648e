import { Box, Button, Typography } from '@mui/material';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { enqueueSnackbar } from 'notistack';
import type { MendShiftView } from '@rootmap/core/contract';
import { api } from '../api/client.js';
import { keys } from '../api/queries.js';
import { useApplyEdit } from '../folders/use-edit.js';
import { sentenceOf } from '../parts/states.js';
import { useSubject } from './subject.js';

/** One thing to say instead of rewriting every map; where a link leads is kept in the project, what a drive is called in Places. */
export function RedirectOffer({ redirect, busy }: { redirect: NonNullable<MendShiftView['redirect']>; busy: boolean }) {
  const { key, stops } = useSubject();
  const client = useQueryClient();
  const relink = useApplyEdit(key, () => undefined);
  const call = useMutation({
    mutationFn: ({ place, drive }: { place: string; drive: string }) => api.callPlace(place, drive),
    onSuccess: async ({ isKept }, { place, drive }) => {
      enqueueSnackbar(`${drive} is the place ${place} now${isKept ? '' : ', until the next start: ROOTMAP_PLACES sets the places here'}.`);
      await client.invalidateQueries({ queryKey: keys.project(key) });
    },
  });
  const error = call.error ?? relink.error;
  if (redirect.kind === 'link' && stops === null) return null; // a map by itself has no links
  return (
    <Box sx={{ mt: 0.5 }}>
      <Typography variant="body2" color="text.secondary">
        {redirect.kind === 'drive'
          ? 'Or leave the maps as they are:'
          : `The linked folder ${redirect.name} moved with it. The link and all that goes through it can follow:`}
      </Typography>
      {redirect.kind === 'drive' ? (
        <Button size="small" disabled={busy || call.isPending} onClick={() => call.mutate(redirect)}>
          Say that {redirect.drive} is the place {redirect.place}
        </Button>
      ) : (
        <Button
          size="small"
          disabled={busy || relink.isPending}
          onClick={() => relink.mutate({ kind: 'relink', name: redirect.name, folder: redirect.folder })}
        >
          Let {redirect.name} lead there
        </Button>
      )}
      {error && <div role="alert">{sentenceOf(error)}</div>}
    </Box>
  );
}
