import { Box, FormControlLabel, Switch, Typography } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api } from '../api/client.js';
import { sentenceOf } from '../parts/states.js';

const WORDS: readonly (readonly [string, string])[] = [
  ['slow', 'answer after ten seconds'],
  ['failing', 'are out of order'],
  ['moved', 'charts stand elsewhere'],
  ['newEdition', 'a new edition is out'],
];

/** In the demo only: how the servers behave that stand in for those of others. */
export function StandIns() {
  const client = useQueryClient();
  const view = useQuery({ queryKey: ['stand-ins'], queryFn: api.standIns, retry: false });
  const set = useMutation({ mutationFn: api.setStandIns, onSuccess: (now) => client.setQueryData(['stand-ins'], now) });
  if (!view.data) return view.isError ? <Typography variant="body2">{sentenceOf(view.error)}</Typography> : null;
  const { address, secure, switches } = view.data;
  return (
    <Box component="section" aria-label="Servers">
      <Typography variant="h3">Servers</Typography>
      <Typography variant="body2" color="text.secondary">
        They stand in for servers of others. Link one: <span className="mono">{address}/library</span>,{' '}
        <span className="mono">{address}/charts/wms</span>, or <span className="mono">{address}/members</span> (guest, tide table). Fetch{' '}
        <span className="mono">{address}/downloads/islet_beacons.zip</span>.
        {secure !== null && (
          <>
            {' '}
            One whose certificate it signed itself: <span className="mono">{secure}/library</span>.
          </>
        )}
      </Typography>
      {WORDS.map(([name, label]) => (
        <FormControlLabel
          key={name}
          sx={{ display: 'flex' }}
          control={<Switch size="small" checked={switches[name] === true} onChange={(_, on) => set.mutate({ [name]: on })} />}
          label={label}
        />
      ))}
    </Box>
  );
}
